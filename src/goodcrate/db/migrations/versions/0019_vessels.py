"""Pots, pans, trays, bowls and blenders."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "vessel",
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("kind", sa.String(length=12), nullable=False),
        sa.Column("volume_ml", sa.Double(), nullable=False),
        sa.Column("minimum_ml", sa.Double(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("tare_g", mysql.DECIMAL(precision=9, scale=1), nullable=True),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_vessel_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_vessel")),
    )


def downgrade() -> None:
    op.drop_table("vessel")
