"""What is weighed at the table, or the evening before."""

from alembic import op

revision = "0063"
down_revision = "0062"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE done ADD COLUMN grams DECIMAL(9, 1) NULL")
    op.execute("ALTER TABLE done ADD CONSTRAINT ck_done_bounds CHECK (grams BETWEEN 0 AND 1000000)")


def downgrade() -> None:
    op.execute("ALTER TABLE done DROP CONSTRAINT ck_done_bounds")
    op.execute("ALTER TABLE done DROP COLUMN grams")
