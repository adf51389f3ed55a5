"""Planning runs outside of requests: a job with its best week so far and what it found."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "plan_job",
        sa.Column("week_id", sa.Uuid(), nullable=False),
        sa.Column("status", sa.String(length=12), nullable=False),
        sa.Column("rules", sa.JSON(), nullable=False),
        sa.Column("plans", sa.JSON(), nullable=False),
        sa.Column("conflicts", sa.JSON(), nullable=False),
        sa.Column("said", sa.String(length=200), nullable=False),
        sa.Column("wants_stop", sa.Boolean(), nullable=False),
        sa.Column("started_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("beat_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(
            ["household_id", "week_id"],
            ["week.household_id", "week.id"],
            name=op.f("fk_plan_job_household_id_week_id"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_plan_job_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_plan_job")),
    )


def downgrade() -> None:
    op.drop_table("plan_job")
