"""Every table as of version 0037, in one step: what led there is gone, and data older than that is upgraded by an older
Good Crate first."""

from pathlib import Path

from alembic import op

revision = "0037"
down_revision = None
branch_labels = None
depends_on = None

STATEMENTS = Path(__file__).with_suffix(".sql").read_text(encoding="utf-8").split("\n;\n")


def upgrade() -> None:
    for statement in STATEMENTS:
        op.get_bind().exec_driver_sql(statement.replace("%", "%%"))
