"""What is poured off a pot, in recipes."""

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE ingredient_line ADD COLUMN is_poured_off BOOL NOT NULL DEFAULT 0")


def downgrade() -> None:
    op.execute("ALTER TABLE ingredient_line DROP COLUMN is_poured_off")
