"""Shopping: events at the shelf, what a week takes instead, packs with prices, floors; unopened food in the house."""

from alembic import op

revision = "0050"
down_revision = "0049"
branch_labels = None
depends_on = None

OWNED = "household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id)"
TO_HOUSEHOLD = "FOREIGN KEY (household_id) REFERENCES household (id)"


def _key(table: str, column: str, there: str) -> str:
    name = f"fk_{table}_household_id_{column}"
    return f"CONSTRAINT {name} FOREIGN KEY (household_id, {column}) REFERENCES {there} (household_id, id)"


def _table(name: str, columns: str, *rules: str) -> None:
    home = f"CONSTRAINT fk_{name}_household_id {TO_HOUSEHOLD}"
    op.execute(f"CREATE TABLE {name} ({', '.join((OWNED, columns, home, *rules))}) CHARSET=utf8mb4")


def upgrade() -> None:
    op.execute("CREATE SEQUENCE shelf_event_order NOCACHE")
    _table(
        "shelf_event",
        "seq BIGINT NOT NULL, week_id UUID NOT NULL, food_id UUID NOT NULL, kind VARCHAR(12) NOT NULL, "
        "grams DECIMAL(9,1) NULL, price DECIMAL(9,2) NULL, shop VARCHAR(40) NOT NULL DEFAULT '', user_id UUID NULL, "
        "happened_at DATETIME(6) NOT NULL",
        _key("shelf_event", "week_id", "week"),
        _key("shelf_event", "food_id", "food"),
        "CONSTRAINT fk_shelf_event_user_id FOREIGN KEY (user_id) REFERENCES user_account (id)",
        "CONSTRAINT uq_shelf_event_seq UNIQUE (seq)",
        "INDEX ix_shelf_event_household_id_week_id_seq (household_id, week_id, seq)",
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER shelf_event_no_{verb.lower()} BEFORE {verb} ON shelf_event FOR EACH ROW "
            "SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'what happened at the shelf stays'"
        )
    _table(
        "instead",
        "week_id UUID NOT NULL, food_id UUID NOT NULL, instead_id UUID NOT NULL, live INT NULL",
        _key("instead", "week_id", "week"),
        _key("instead", "food_id", "food"),
        _key("instead", "instead_id", "food"),
        "CONSTRAINT uq_instead_household_id_week_id_food_id_live UNIQUE (household_id, week_id, food_id, live)",
    )
    _table(
        "pack",
        "food_id UUID NOT NULL, shop VARCHAR(40) NOT NULL DEFAULT '', grams DECIMAL(9,1) NOT NULL, "
        "price DECIMAL(9,2) NULL, day DATE NOT NULL, noted_at DATETIME(6) NOT NULL, live INT NULL",
        _key("pack", "food_id", "food"),
        "CONSTRAINT ck_pack_bounds CHECK (grams BETWEEN 1 AND 25000)",
        "CONSTRAINT ck_pack_price CHECK (price IS NULL OR price BETWEEN 0 AND 1000000)",
    )
    _table(
        "floor",
        "food_id UUID NOT NULL, grams DECIMAL(9,1) NOT NULL",
        _key("floor", "food_id", "food"),
        "CONSTRAINT uq_floor_household_id_food_id UNIQUE (household_id, food_id)",
        "CONSTRAINT ck_floor_bounds CHECK (grams BETWEEN 0 AND 1000000)",
    )
    op.execute(
        "ALTER TABLE open_food ADD COLUMN is_open BOOL NOT NULL DEFAULT 1, "
        "ADD COLUMN is_first BOOL NOT NULL DEFAULT 0, ADD COLUMN counted_at DATETIME(6) NULL"
    )
    op.execute("UPDATE open_food SET counted_at = UTC_TIMESTAMP(6)")
    op.execute("ALTER TABLE open_food MODIFY counted_at DATETIME(6) NOT NULL")
    op.execute(
        "ALTER TABLE household ADD COLUMN aisles LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL "
        "CHECK (json_valid(aisles)), ADD COLUMN spare_pct DOUBLE NOT NULL DEFAULT 0, "
        "ADD COLUMN week_budget DECIMAL(9,2) NULL, ADD COLUMN pack_aim VARCHAR(12) NOT NULL DEFAULT 'least_left', "
        "ADD CONSTRAINT ck_household_shop CHECK (spare_pct BETWEEN 0 AND 50 AND "
        "(week_budget IS NULL OR week_budget BETWEEN 0 AND 1000000))"
    )


def downgrade() -> None:
    for table in ("floor", "pack", "instead", "shelf_event"):
        op.execute(f"DROP TABLE {table}")
    op.execute("DROP SEQUENCE shelf_event_order")
    op.execute("ALTER TABLE open_food DROP COLUMN is_open, DROP COLUMN is_first, DROP COLUMN counted_at")
    columns = ", ".join(f"DROP COLUMN {name}" for name in ("aisles", "spare_pct", "week_budget", "pack_aim"))
    op.execute(f"ALTER TABLE household DROP CONSTRAINT ck_household_shop, {columns}")
