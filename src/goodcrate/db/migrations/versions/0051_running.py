"""Sessions while they are cooked: the sheet they were begun with, and what was said of their steps."""

from alembic import op

revision = "0051"
down_revision = "0050"
branch_labels = None
depends_on = None

OWNED = "household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id)"


def _key(table: str, column: str, there: str) -> str:
    name = f"fk_{table}_household_id_{column}"
    return f"CONSTRAINT {name} FOREIGN KEY (household_id, {column}) REFERENCES {there} (household_id, id)"


def _table(name: str, columns: str, *rules: str) -> None:
    home = f"CONSTRAINT fk_{name}_household_id FOREIGN KEY (household_id) REFERENCES household (id)"
    op.execute(f"CREATE TABLE {name} ({', '.join((OWNED, columns, home, *rules))}) CHARSET=utf8mb4")


def upgrade() -> None:
    op.execute("CREATE SEQUENCE cook_tick_order NOCACHE")
    _table(
        "cook_run",
        "week_id UUID NOT NULL, session_id UUID NOT NULL, begun_at DATETIME(6) NOT NULL, "
        "made LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(made))",
        _key("cook_run", "week_id", "week"),
        _key("cook_run", "session_id", "prep_session"),
        "CONSTRAINT uq_cook_run_household_id_session_id UNIQUE (household_id, session_id)",
    )
    _table(
        "cook_tick",
        "seq BIGINT NOT NULL, run_id UUID NOT NULL, task_key VARCHAR(160) NOT NULL, kind VARCHAR(10) NOT NULL, "
        "minutes INT NOT NULL DEFAULT 0, user_id UUID NULL, happened_at DATETIME(6) NOT NULL",
        _key("cook_tick", "run_id", "cook_run"),
        "CONSTRAINT fk_cook_tick_user_id FOREIGN KEY (user_id) REFERENCES user_account (id)",
        "CONSTRAINT uq_cook_tick_seq UNIQUE (seq)",
        "INDEX ix_cook_tick_household_id_run_id_seq (household_id, run_id, seq)",
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER cook_tick_no_{verb.lower()} BEFORE {verb} ON cook_tick FOR EACH ROW "
            "SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'what was said while cooking stays'"
        )


def downgrade() -> None:
    op.execute("DROP TABLE cook_tick")
    op.execute("DROP TABLE cook_run")
    op.execute("DROP SEQUENCE cook_tick_order")
