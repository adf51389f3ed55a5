"""Orders of arrival are counted without a cache: several servers of one cluster each with a cache of their own would
give later numbers that are lower, and refuse to make such a sequence at all."""

from alembic import op

revision = "0069"
down_revision = "0068"
branch_labels = None
depends_on = None

ORDERS = ("weighing_order", "box_event_order", "shelf_event_order", "cook_tick_order", "table_order")


def upgrade() -> None:
    for order in ORDERS:
        op.execute(f"ALTER SEQUENCE {order} NOCACHE")


def downgrade() -> None:
    for order in ORDERS:
        op.execute(f"ALTER SEQUENCE {order} CACHE 1000")
