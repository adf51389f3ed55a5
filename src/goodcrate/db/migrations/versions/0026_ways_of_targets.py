"""Targets know how they were set; eaters their body size, conditions, school and extras; slots their share and time."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE eater ADD COLUMN sex VARCHAR(8) NOT NULL DEFAULT '', ADD COLUMN age_years DOUBLE NULL, "
        "ADD COLUMN height_cm DOUBLE NULL, ADD COLUMN weight_kg DOUBLE NULL, "
        "ADD COLUMN activity VARCHAR(12) NOT NULL DEFAULT 'light', ADD COLUMN conditions JSON NULL, "
        "ADD COLUMN medical_notes VARCHAR(1000) NOT NULL DEFAULT '', ADD COLUMN diet VARCHAR(12) NOT NULL DEFAULT '', "
        "ADD COLUMN meal_block_kcal DOUBLE NULL, "
        "ADD COLUMN snack_block_kcal DOUBLE NULL"
    )
    op.execute(
        "ALTER TABLE day_type ADD COLUMN way JSON NOT NULL DEFAULT '{}', ADD COLUMN bands JSON NOT NULL DEFAULT '{}'"
    )
    op.execute(
        "ALTER TABLE slot ADD COLUMN share_pct DOUBLE NULL, ADD COLUMN no_reheat BOOL NOT NULL DEFAULT 0, "
        "ADD COLUMN within_min INT NULL"
    )
    op.create_table(
        "eater_extra",
        sa.Column("eater_id", sa.Uuid(), nullable=False),
        sa.Column("food_id", sa.Uuid(), nullable=False),
        sa.Column("text", sa.String(length=160), nullable=False),
        sa.Column("grams", mysql.DECIMAL(precision=9, scale=1), nullable=False),
        sa.Column("measure", sa.String(length=12), nullable=False),
        sa.Column("standard_error_g", sa.Double(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(
            ["household_id", "eater_id"], ["eater.household_id", "eater.id"],
            name=op.f("fk_eater_extra_household_id_eater_id"), ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["household_id", "food_id"], ["food.household_id", "food.id"],
            name=op.f("fk_eater_extra_household_id_food_id"),
        ),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_eater_extra_household_id")),
        sa.PrimaryKeyConstraint("household_id", "id", name=op.f("pk_eater_extra")),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_table("eater_extra")
    op.execute("ALTER TABLE slot DROP COLUMN share_pct, DROP COLUMN no_reheat, DROP COLUMN within_min")
    op.execute("ALTER TABLE day_type DROP COLUMN way, DROP COLUMN bands")
    op.execute(
        "ALTER TABLE eater DROP COLUMN sex, DROP COLUMN age_years, DROP COLUMN height_cm, DROP COLUMN weight_kg, "
        "DROP COLUMN activity, DROP COLUMN conditions, DROP COLUMN medical_notes, DROP COLUMN diet, "
        "DROP COLUMN meal_block_kcal, DROP COLUMN snack_block_kcal"
    )
