"""Eaters and slots are put aside, never deleted once meals point there: past weeks keep them."""

from alembic import op

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE eater ADD COLUMN IF NOT EXISTS is_archived BOOL NOT NULL DEFAULT 0")
    op.execute("ALTER TABLE slot ADD COLUMN IF NOT EXISTS is_archived BOOL NOT NULL DEFAULT 0")


def downgrade() -> None:
    op.execute("ALTER TABLE eater DROP COLUMN is_archived")
    op.execute("ALTER TABLE slot DROP COLUMN is_archived")
