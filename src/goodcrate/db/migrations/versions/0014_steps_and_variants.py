"""Recipes have steps, variants, an origin, and can be archived."""

from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE recipe ADD COLUMN steps JSON NOT NULL DEFAULT '[]', ADD COLUMN variants JSON NOT NULL DEFAULT '[]', "
        "ADD COLUMN origin VARCHAR(200) NOT NULL DEFAULT '', ADD COLUMN is_archived BOOL NOT NULL DEFAULT 0"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE recipe DROP COLUMN steps, DROP COLUMN variants, DROP COLUMN origin, DROP COLUMN is_archived")
