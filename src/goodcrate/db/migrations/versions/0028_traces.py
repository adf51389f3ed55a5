"""Whether a household counts traces: spices, fresh herbs, leaf salad."""

from alembic import op

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE household ADD COLUMN leaves_traces_out BOOL NOT NULL DEFAULT 0")


def downgrade() -> None:
    op.execute("ALTER TABLE household DROP COLUMN leaves_traces_out")
