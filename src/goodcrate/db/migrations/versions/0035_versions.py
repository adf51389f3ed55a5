"""Vessels and a household's settings carry versions: an older page overwrites nothing in silence."""

from alembic import op

revision = "0035"
down_revision = "0034"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE vessel ADD COLUMN IF NOT EXISTS version INT NOT NULL DEFAULT 1")
    op.execute("ALTER TABLE household ADD COLUMN IF NOT EXISTS version INT NOT NULL DEFAULT 1")


def downgrade() -> None:
    op.execute("ALTER TABLE vessel DROP COLUMN version")
    op.execute("ALTER TABLE household DROP COLUMN version")
