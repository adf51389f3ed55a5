"""Names of a food's figures that are known from below only: carbohydrate printed without a fibre that is not printed."""

from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE food ADD COLUMN IF NOT EXISTS at_least JSON NULL")
    op.execute(
        """UPDATE food SET at_least = '["carbohydrate_g"]' WHERE label IS NOT NULL AND fibre_g IS NULL"""
        " AND carbohydrate_g IS NOT NULL AND COALESCE(JSON_VALUE(label, '$.fibre'), 'apart') = 'apart'"
        " AND JSON_VALUE(label, '$.carbohydrate_g') IS NOT NULL"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE food DROP COLUMN at_least")
