"""Which open page wrote a recipe last, and how far its typing had come: one page is one writer."""

from alembic import op

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE recipe ADD COLUMN IF NOT EXISTS last_page VARCHAR(36) NOT NULL DEFAULT '',"
        " ADD COLUMN IF NOT EXISTS last_edit BIGINT NOT NULL DEFAULT 0"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE recipe DROP COLUMN last_page, DROP COLUMN last_edit")
