"""Boxes whose log ended them are marked, so that years of them are not looked through."""

from alembic import op

revision = "0060"
down_revision = "0059"
branch_labels = None
depends_on = None

ENDED = "'taken_out', 'eaten', 'given_away', 'thrown_away'"


def upgrade() -> None:
    op.execute("ALTER TABLE box ADD COLUMN live INT NULL")
    op.execute("UPDATE box SET live = 1")
    # an undoing that is undone itself is rare: such a box stays marked as there, and its log says what is true
    op.execute(
        f"UPDATE box SET live = NULL WHERE EXISTS (SELECT 1 FROM box_event e WHERE e.household_id = box.household_id "
        f"AND e.box_id = box.id AND e.kind IN ({ENDED}) AND NOT EXISTS (SELECT 1 FROM box_event u "
        f"WHERE u.household_id = e.household_id AND u.undoes = e.id))"
    )
    op.execute("CREATE INDEX ix_box_household_id_live ON box (household_id, live)")


def downgrade() -> None:
    op.execute("DROP INDEX ix_box_household_id_live ON box")
    op.execute("ALTER TABLE box DROP COLUMN live")
