"""Meals can be pinned and know the plan they came from; plans remember what they may replace; fridge and freezer hold so much."""

from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE placement ADD COLUMN is_pinned BOOL NOT NULL DEFAULT 0, ADD COLUMN from_job UUID NULL")
    op.execute("ALTER TABLE plan_job ADD COLUMN opened JSON NOT NULL DEFAULT '[]', ADD COLUMN replaced JSON NOT NULL DEFAULT '[]'")
    op.execute(
        "ALTER TABLE household ADD COLUMN fridge_boxes INT NULL, ADD COLUMN freezer_boxes INT NULL, "
        "ADD COLUMN keep_rule VARCHAR(10) NOT NULL DEFAULT 'usual'"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE household DROP COLUMN fridge_boxes, DROP COLUMN freezer_boxes, DROP COLUMN keep_rule")
    op.execute("ALTER TABLE plan_job DROP COLUMN opened, DROP COLUMN replaced")
    op.execute("ALTER TABLE placement DROP COLUMN is_pinned, DROP COLUMN from_job")
