"""Ingredient lines keep their amount as typed, its own error, and which figures of the food they were made with."""

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE ingredient_line ADD COLUMN amount_text VARCHAR(60) NULL, ADD COLUMN error_g DOUBLE NULL, "
        "ADD COLUMN figures_version INTEGER NOT NULL DEFAULT 1, ADD COLUMN keeps_figures BOOL NOT NULL DEFAULT 0"
    )


def downgrade() -> None:
    op.execute(
        "ALTER TABLE ingredient_line DROP COLUMN amount_text, DROP COLUMN error_g, DROP COLUMN figures_version, "
        "DROP COLUMN keeps_figures"
    )
