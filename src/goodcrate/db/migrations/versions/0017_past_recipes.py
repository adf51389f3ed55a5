"""Earlier versions of recipes, for undo and for weeks that were planned with them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "recipe_past",
        sa.Column("recipe_id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("saved_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(
            ["household_id", "recipe_id"],
            ["recipe.household_id", "recipe.id"],
            name=op.f("fk_recipe_past_household_id_recipe_id"),
        ),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_recipe_past_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_recipe_past")),
        sa.UniqueConstraint(
            "household_id", "recipe_id", "version", name=op.f("uq_recipe_past_household_id_recipe_id_version")
        ),
    )


def downgrade() -> None:
    op.drop_table("recipe_past")
