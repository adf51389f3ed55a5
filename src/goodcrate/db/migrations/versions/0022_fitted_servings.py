"""Servings fine enough for whole grams of any portion, and what they were before a fit moved them."""

from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE placement MODIFY servings DECIMAL(10, 6) NOT NULL, ADD COLUMN servings_before DECIMAL(10, 6) NULL"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE placement DROP COLUMN servings_before, MODIFY servings DECIMAL(7, 3) NOT NULL")
