"""Which figures a household sees: net carbohydrate beside carbohydrate, the spread as foods vary or not."""

from alembic import op

revision = "0047"
down_revision = "0046"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE household ADD COLUMN shows_net_carbohydrate BOOL NOT NULL DEFAULT 0, "
        "ADD COLUMN hides_spread BOOL NOT NULL DEFAULT 0"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE household DROP COLUMN shows_net_carbohydrate, DROP COLUMN hides_spread")
