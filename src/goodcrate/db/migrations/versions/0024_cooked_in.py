"""A meal may be cooked in an earlier session than the latest one, and wait in the freezer."""

from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE placement ADD COLUMN cooked_in UUID NULL, ADD COLUMN is_frozen BOOL NOT NULL DEFAULT 0")


def downgrade() -> None:
    op.execute("ALTER TABLE placement DROP COLUMN cooked_in, DROP COLUMN is_frozen")
