"""How a component is cooked, in the cook's word; empty when its steps tell."""

from alembic import op

revision = "0046"
down_revision = "0045"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE component ADD COLUMN cooked_as VARCHAR(12) NOT NULL DEFAULT ''")


def downgrade() -> None:
    op.execute("ALTER TABLE component DROP COLUMN cooked_as")
