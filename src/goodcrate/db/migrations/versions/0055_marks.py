"""How an eater's boxes of a pot are known from the others."""

from alembic import op

revision = "0055"
down_revision = "0054"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE batch ADD COLUMN marks LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL CHECK (json_valid(marks))")


def downgrade() -> None:
    op.execute("ALTER TABLE batch DROP COLUMN marks")
