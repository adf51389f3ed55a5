"""A count of food changes per household."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "food_stamp",
        sa.Column("household_id", sa.Uuid(), nullable=False),
        sa.Column("value", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["household_id"], ["household.id"], name=op.f("fk_food_stamp_household_id")),
        sa.PrimaryKeyConstraint("household_id", name=op.f("pk_food_stamp")),
    )
    op.execute("UPDATE food SET stamp = 1")
    op.execute("INSERT INTO food_stamp (household_id, value) SELECT id, 1 FROM household")


def downgrade() -> None:
    op.drop_table("food_stamp")
