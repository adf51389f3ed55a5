"""A week keeps the version of a recipe it was planned with."""

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE week ADD COLUMN recipe_versions JSON NOT NULL DEFAULT '{}'")


def downgrade() -> None:
    op.execute("ALTER TABLE week DROP COLUMN recipe_versions")
