"""What is poured off a started batch."""

from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE batch_line ADD COLUMN is_poured_off BOOL NOT NULL DEFAULT 0")


def downgrade() -> None:
    op.execute("ALTER TABLE batch_line DROP COLUMN is_poured_off")
