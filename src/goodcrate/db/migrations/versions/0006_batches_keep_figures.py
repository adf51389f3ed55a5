"""A started batch keeps its amounts' errors, and the figures its recipe keeps."""

from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE batch_line ADD COLUMN error_g DOUBLE NULL, ADD COLUMN kept_version INTEGER NULL")


def downgrade() -> None:
    op.execute("ALTER TABLE batch_line DROP COLUMN error_g, DROP COLUMN kept_version")
