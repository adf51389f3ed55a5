"""What processes report of themselves."""

from alembic import op

revision = "0068"
down_revision = "0067"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE process_report (process VARCHAR(120) NOT NULL, began_at DATETIME(6) NOT NULL, "
        "said_at DATETIME(6) NOT NULL, figures LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL "
        "CHECK (json_valid(figures)), CONSTRAINT pk_process_report PRIMARY KEY (process)) CHARSET=utf8mb4"
    )


def downgrade() -> None:
    op.execute("DROP TABLE process_report")
