"""Uploaded food files that wait for their yes."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "food_import",
        sa.Column("name", sa.String(length=160), nullable=False),
        sa.Column("encoding", sa.String(length=20), nullable=False),
        sa.Column("content", mysql.LONGTEXT(), nullable=False),
        sa.Column("uploaded_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_food_import_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_food_import")),
    )


def downgrade() -> None:
    op.drop_table("food_import")
