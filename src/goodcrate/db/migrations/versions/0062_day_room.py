"""Eaters whose bands hold for the mean of the week: how far a single day may be off them."""

from alembic import op

revision = "0062"
down_revision = "0061"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE eater ADD COLUMN day_room_pct DOUBLE NULL")
    op.execute("ALTER TABLE eater ADD CONSTRAINT ck_eater_day_room CHECK (day_room_pct BETWEEN 1 AND 25)")


def downgrade() -> None:
    op.execute("ALTER TABLE eater DROP CONSTRAINT ck_eater_day_room")
    op.execute("ALTER TABLE eater DROP COLUMN day_room_pct")
