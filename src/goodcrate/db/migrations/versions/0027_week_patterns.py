"""A week saved as a pattern: its meals by day, eater, slot and recipe."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "week_pattern",
        sa.Column("name", sa.String(length=160), nullable=False),
        sa.Column("days", sa.Integer(), nullable=False),
        sa.Column("meals", sa.JSON(), nullable=False),
        sa.Column("saved_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_week_pattern_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_week_pattern")),
    )


def downgrade() -> None:
    op.drop_table("week_pattern")
