"""A planned portion is kept as it was planned: so many servings to fourteen places, where six were kept."""

from alembic import op

revision = "0064"
down_revision = "0063"
branch_labels = None
depends_on = None

COLUMNS = {"servings": "NOT NULL", "servings_before": "NULL"}


def upgrade() -> None:
    for column, null in COLUMNS.items():
        op.execute(f"ALTER TABLE placement MODIFY COLUMN {column} DECIMAL(18, 14) {null}")


def downgrade() -> None:
    for column, null in COLUMNS.items():
        op.execute(f"ALTER TABLE placement MODIFY COLUMN {column} DECIMAL(10, 6) {null}")
