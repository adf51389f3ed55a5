"""Every household's changes are counted from its first day: two first changes at once need no row to be made."""

from alembic import op

revision = "0072"
down_revision = "0071"
branch_labels = None
depends_on = None

COUNTED = "plan, cooking, boxes, shopping, pantry, at_table"


def upgrade() -> None:
    op.execute(
        f"INSERT INTO household_change (household_id, {COUNTED}) SELECT id, 0, 0, 0, 0, 0, 0 FROM household"  # noqa: S608
        " WHERE id NOT IN (SELECT household_id FROM household_change)"
    )


def downgrade() -> None:
    """Nothing: a count of none is what a household without its row has."""
