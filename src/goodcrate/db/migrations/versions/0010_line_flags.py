"""What stays of an ingredient, and when it goes in."""

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE ingredient_line ADD COLUMN uptake DOUBLE NOT NULL DEFAULT 1, "
        "ADD COLUMN is_discarded BOOL NOT NULL DEFAULT 0, ADD COLUMN use_at VARCHAR(12) NOT NULL DEFAULT '', "
        "ADD COLUMN is_optional BOOL NOT NULL DEFAULT 0, ADD COLUMN is_to_taste BOOL NOT NULL DEFAULT 0"
    )


def downgrade() -> None:
    op.execute(
        "ALTER TABLE ingredient_line DROP COLUMN uptake, DROP COLUMN is_discarded, DROP COLUMN use_at, "
        "DROP COLUMN is_optional, DROP COLUMN is_to_taste"
    )
