"""Archives, households that were put away, and logs that outlive an account and go with their household."""

from alembic import op

revision = "0066"
down_revision = "0065"
branch_labels = None
depends_on = None

OWNED = "household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id), "
LOGS = {
    "weighing": "weighings are append-only",
    "box_event": "the log of a box is append-only",
    "shelf_event": "what happened at the shelf stays",
    "cook_tick": "what was said while cooking stays",
    "cook_order": "what was said while cooking stays",
    "off_plan": "what was said at the table stays",
    "done": "what was said at the table stays",
}
SAID_BY = ("weighing", "box_event", "shelf_event", "cook_tick", "off_plan", "done")


def _said_by(table: str, when_gone: str) -> None:
    op.execute(f"ALTER TABLE {table} DROP FOREIGN KEY fk_{table}_user_id")  # one name, so one after the other
    op.execute(
        f"ALTER TABLE {table} ADD CONSTRAINT fk_{table}_user_id "
        f"FOREIGN KEY (user_id) REFERENCES user_account (id){when_gone}"
    )


def upgrade() -> None:
    op.execute(
        "ALTER TABLE household ADD COLUMN put_away_at DATETIME(6) NULL, ADD COLUMN before_id UUID NULL, "
        "ADD INDEX ix_household_put_away_at (put_away_at)"
    )
    op.execute("ALTER TABLE household ADD COLUMN seed UUID NULL")
    op.execute("UPDATE household SET seed = id")
    op.execute("ALTER TABLE household MODIFY COLUMN seed UUID NOT NULL")
    for table in SAID_BY:
        _said_by(table, " ON DELETE SET NULL")
    for table, why in LOGS.items():
        op.execute(f"DROP TRIGGER {table}_no_delete")
        op.execute(
            f"CREATE TRIGGER {table}_no_delete BEFORE DELETE ON {table} FOR EACH ROW BEGIN "
            "IF NOT (CAST(OLD.household_id AS CHAR) <=> @goodcrate_forgets) THEN "
            f"SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = '{why}'; END IF; END"
        )
    op.execute(
        f"CREATE TABLE archive_file ({OWNED} way VARCHAR(4) NOT NULL, name VARCHAR(160) NOT NULL, "
        "size BIGINT NOT NULL, kept_at DATETIME(6) NOT NULL, "
        "CONSTRAINT fk_archive_file_household_id FOREIGN KEY (household_id) REFERENCES household (id), "
        "INDEX ix_archive_file_household_id_kept_at (household_id, kept_at)) CHARSET=utf8mb4"
    )
    op.execute(
        f"CREATE TABLE archive_part ({OWNED} file_id UUID NOT NULL, number INT NOT NULL, content LONGBLOB NOT NULL, "
        "CONSTRAINT fk_archive_part_household_id FOREIGN KEY (household_id) REFERENCES household (id), "
        "CONSTRAINT fk_archive_part_household_id_file_id FOREIGN KEY (household_id, file_id) "
        "REFERENCES archive_file (household_id, id) ON DELETE CASCADE, "
        "CONSTRAINT uq_archive_part_household_id_file_id_number UNIQUE (household_id, file_id, number)) CHARSET=utf8mb4"
    )


def downgrade() -> None:
    op.execute("DROP TABLE archive_part")
    op.execute("DROP TABLE archive_file")
    for table, why in LOGS.items():
        op.execute(f"DROP TRIGGER {table}_no_delete")
        op.execute(
            f"CREATE TRIGGER {table}_no_delete BEFORE DELETE ON {table} FOR EACH ROW "
            f"SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = '{why}'"
        )
    for table in SAID_BY:
        _said_by(table, "")
    op.execute(
        "ALTER TABLE household DROP INDEX ix_household_put_away_at, DROP COLUMN put_away_at, "
        "DROP COLUMN before_id, DROP COLUMN seed"
    )
