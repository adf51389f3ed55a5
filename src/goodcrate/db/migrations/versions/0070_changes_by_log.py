"""A household's changes are counted by what they change: what is planned, and each log by itself."""

from alembic import op

revision = "0070"
down_revision = "0069"
branch_labels = None
depends_on = None

LOGS = ("cooking", "boxes", "shopping", "pantry", "at_table")


def upgrade() -> None:
    added = ", ".join(f"ADD COLUMN {log} BIGINT NOT NULL DEFAULT 0" for log in LOGS)
    op.execute(f"ALTER TABLE household_change {added}, DROP COLUMN value")
    op.execute("ALTER TABLE household_change " + ", ".join(f"ALTER COLUMN {log} DROP DEFAULT" for log in LOGS))


def downgrade() -> None:
    gone = ", ".join(f"DROP COLUMN {log}" for log in LOGS)
    op.execute(f"ALTER TABLE household_change ADD COLUMN value BIGINT NOT NULL DEFAULT 0, {gone}")
