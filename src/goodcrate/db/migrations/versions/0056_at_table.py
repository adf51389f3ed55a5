"""What was eaten besides the boxes, and what was ticked of the day's small jobs."""

from alembic import op

revision = "0056"
down_revision = "0055"
branch_labels = None
depends_on = None

OWNED = "household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id)"


def _key(table: str, column: str, there: str) -> str:
    name = f"fk_{table}_household_id_{column}"
    return f"CONSTRAINT {name} FOREIGN KEY (household_id, {column}) REFERENCES {there} (household_id, id)"


def _log(name: str, columns: str, *rules: str) -> None:
    home = f"CONSTRAINT fk_{name}_household_id FOREIGN KEY (household_id) REFERENCES household (id)"
    user = f"CONSTRAINT fk_{name}_user_id FOREIGN KEY (user_id) REFERENCES user_account (id)"
    ours = "seq BIGINT NOT NULL, user_id UUID NULL, happened_at DATETIME(6) NOT NULL"
    op.execute(
        f"CREATE TABLE {name} ({', '.join((OWNED, ours, columns, home, user, *rules))}, "
        f"CONSTRAINT uq_{name}_seq UNIQUE (seq)) CHARSET=utf8mb4"
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER {name}_no_{verb.lower()} BEFORE {verb} ON {name} FOR EACH ROW "
            "SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'what was said at the table stays'"
        )


def upgrade() -> None:
    op.execute("CREATE SEQUENCE table_order NOCACHE")
    _log(
        "off_plan",
        "eater_id UUID NOT NULL, day DATE NOT NULL, said VARCHAR(160) NOT NULL, food_id UUID NULL, "
        "grams DECIMAL(9, 1) NULL, thing_id UUID NULL, undoes UUID NULL, "
        "figures LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL CHECK (json_valid(figures))",
        _key("off_plan", "eater_id", "eater"),
        _key("off_plan", "food_id", "food"),
        _key("off_plan", "thing_id", "open_food"),
        "CONSTRAINT ck_off_plan_bounds CHECK (grams BETWEEN 0 AND 1000000)",
        "INDEX ix_off_plan_household_id_eater_id_day (household_id, eater_id, day)",
    )
    _log(
        "done",
        "day DATE NOT NULL, subject VARCHAR(120) NOT NULL, is_done TINYINT(1) NOT NULL",
        "INDEX ix_done_household_id_day_seq (household_id, day, seq)",
    )


def downgrade() -> None:
    op.execute("DROP TABLE off_plan")
    op.execute("DROP TABLE done")
    op.execute("DROP SEQUENCE table_order")
