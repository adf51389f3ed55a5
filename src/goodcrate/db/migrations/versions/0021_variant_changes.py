"""What a variant of a recipe does to its lines."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "variant_change",
        sa.Column("recipe_id", sa.Uuid(), nullable=False),
        sa.Column("variant_id", sa.Uuid(), nullable=False),
        sa.Column("line_id", sa.Uuid(), nullable=False),
        sa.Column("food_id", sa.Uuid(), nullable=True),
        sa.Column("amount_g", mysql.DECIMAL(precision=9, scale=1), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(
            ["household_id", "food_id"],
            ["food.household_id", "food.id"],
            name=op.f("fk_variant_change_household_id_food_id"),
        ),
        sa.ForeignKeyConstraint(
            ["household_id", "recipe_id"],
            ["recipe.household_id", "recipe.id"],
            name=op.f("fk_variant_change_household_id_recipe_id"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_variant_change_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_variant_change")),
    )


def downgrade() -> None:
    op.drop_table("variant_change")
