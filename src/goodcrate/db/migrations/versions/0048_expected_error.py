"""How sure the expected weight of a batch was when it was started; earlier batches do not know."""

from alembic import op

revision = "0048"
down_revision = "0047"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE batch ADD COLUMN planned_error_g DECIMAL(9, 1) NULL "
        "CHECK (planned_error_g >= 0 AND planned_error_g <= 1000000)"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE batch DROP COLUMN planned_error_g")
