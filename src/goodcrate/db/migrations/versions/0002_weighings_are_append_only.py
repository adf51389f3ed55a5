"""The weighing log: its order of arrival, and triggers that keep it append-only."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(sa.schema.CreateSequence(sa.Sequence("weighing_order")))
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER weighing_no_{verb.lower()} BEFORE {verb} ON weighing FOR EACH ROW "
            "SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'weighings are append-only'"
        )


def downgrade() -> None:
    for verb in ("update", "delete"):
        op.execute(f"DROP TRIGGER weighing_no_{verb}")
    op.execute(sa.schema.DropSequence(sa.Sequence("weighing_order")))
