"""Uploaded recipe files that are being taken in, and how far."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "recipe_import",
        sa.Column("name", sa.String(length=160), nullable=False),
        sa.Column("recipes", sa.JSON(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("report", sa.JSON(), nullable=False),
        sa.Column("uploaded_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_recipe_import_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_recipe_import")),
    )


def downgrade() -> None:
    op.drop_table("recipe_import")
