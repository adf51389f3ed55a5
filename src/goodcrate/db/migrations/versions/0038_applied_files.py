"""What applying an uploaded file did: a repeated yes answers like the first."""

from alembic import op

revision = "0038"
down_revision = "0037"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE food_import ADD COLUMN IF NOT EXISTS applied LONGTEXT NULL")


def downgrade() -> None:
    op.execute("ALTER TABLE food_import DROP COLUMN applied")
