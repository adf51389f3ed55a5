"""Which copy a meal gave way to: a copy that is sent twice says both times what it took the place of."""

from alembic import op

revision = "0039"
down_revision = "0038"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE placement ADD COLUMN IF NOT EXISTS gave_way_to UUID NULL")


def downgrade() -> None:
    op.execute("ALTER TABLE placement DROP COLUMN gave_way_to")
