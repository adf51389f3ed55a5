"""What stays of a started batch's ingredients."""

from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE batch_line ADD COLUMN uptake DOUBLE NOT NULL DEFAULT 1, "
        "ADD COLUMN is_discarded BOOL NOT NULL DEFAULT 0"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE batch_line DROP COLUMN uptake, DROP COLUMN is_discarded")
