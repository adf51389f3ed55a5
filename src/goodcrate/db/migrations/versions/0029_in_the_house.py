"""Boxes, leftovers and opened packs in the house, and the meals that eat them."""

import sqlalchemy as sa
from alembic import op

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "in_the_house",
        sa.Column("recipe_id", sa.Uuid(), nullable=True),
        sa.Column("food_id", sa.Uuid(), nullable=True),
        sa.Column("typed", sa.String(length=120), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("grams", sa.DECIMAL(precision=9, scale=1), nullable=False),
        sa.Column("place", sa.String(length=10), nullable=False),
        sa.Column("since", sa.Date(), nullable=False),
        sa.Column("until", sa.Date(), nullable=True),
        sa.Column("live", sa.Integer(), nullable=True),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.CheckConstraint("(recipe_id IS NULL) <> (food_id IS NULL)", name=op.f("ck_in_the_house_one_thing")),
        sa.ForeignKeyConstraint(
            ["household_id", "food_id"], ["food.household_id", "food.id"], name=op.f("fk_in_the_house_household_id_food_id")
        ),
        sa.ForeignKeyConstraint(
            ["household_id", "recipe_id"],
            ["recipe.household_id", "recipe.id"],
            name=op.f("fk_in_the_house_household_id_recipe_id"),
        ),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_in_the_house_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_in_the_house")),
    )
    op.add_column("placement", sa.Column("from_house", sa.Uuid(), nullable=True))


def downgrade() -> None:
    op.drop_column("placement", "from_house")
    op.drop_table("in_the_house")
