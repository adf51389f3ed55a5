"""Figures a food had before they were changed, for recipes that keep them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "food_past",
        sa.Column("food_id", sa.Uuid(), nullable=False),
        sa.Column("figures_version", sa.Integer(), nullable=False),
        sa.Column("figures", sa.JSON(), nullable=False),
        sa.Column("figure_errors", sa.JSON(), nullable=True),
        sa.Column("cooked_yield", sa.Double(), nullable=True),
        sa.Column("source", sa.String(length=160), nullable=False),
        sa.Column("replaced_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(
            ["household_id", "food_id"], ["food.household_id", "food.id"],
            name=op.f("fk_food_past_household_id_food_id"), ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_food_past_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_food_past")),
        sa.UniqueConstraint(
            "household_id", "food_id", "figures_version", name=op.f("uq_food_past_household_id_food_id_figures_version")
        ),
    )


def downgrade() -> None:
    op.drop_table("food_past")
