"""One table for long work of every kind, and a format number around every stored JSON."""

from alembic import op

revision = "0043"
down_revision = "0042"
branch_labels = None
depends_on = None

JSON = "LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin"
DOCUMENTS = {
    "food": ("allergens", "label", "at_least"),
    "food_past": ("figures",),
    "food_import": ("applied",),
    "vessel": ("stands",),
    "recipe": ("tags", "steps", "variants"),
    "component": ("storage", "pending", "learned"),
    "recipe_past": ("document",),
    "recipe_import": ("recipes", "report"),
    "eater": ("excluded_allergens", "conditions"),
    "day_type": ("weekdays", "way", "bands"),
    "week": ("recipe_versions",),
    "week_pattern": ("meals",),
}
ERRORS = {"food": "figure_errors", "food_past": "figure_errors"}
"""These had a number of their own, and their value under the word errors."""


def upgrade() -> None:
    op.execute(f"""
        CREATE TABLE job (
            kind VARCHAR(20) NOT NULL, week_id UUID NULL, status VARCHAR(12) NOT NULL,
            input {JSON} NOT NULL CHECK (json_valid(input)), best {JSON} NOT NULL CHECK (json_valid(best)),
            result {JSON} NOT NULL CHECK (json_valid(result)), said VARCHAR(200) NOT NULL, wants_stop BOOL NOT NULL,
            started_at DATETIME(6) NOT NULL, beat_at DATETIME(6) NOT NULL,
            household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id),
            KEY ix_job_household_id_week_id_kind_started_at (household_id, week_id, kind, started_at),
            CONSTRAINT fk_job_household_id FOREIGN KEY (household_id) REFERENCES household (id),
            CONSTRAINT fk_job_household_id_week_id FOREIGN KEY (household_id, week_id)
                REFERENCES week (household_id, id) ON DELETE CASCADE)""")
    op.execute("""
        INSERT INTO job (household_id, id, kind, week_id, status, input, best, result, said, wants_stop, started_at,
                         beat_at)
        SELECT household_id, id, 'plan_week', week_id, status,
            JSON_OBJECT('format', 1, 'value', JSON_OBJECT('wishes', JSON_EXTRACT(rules, '$'),
                'opened', JSON_EXTRACT(opened, '$'))),
            JSON_OBJECT('format', 1, 'value', JSON_EXTRACT(plans, '$')),
            JSON_OBJECT('format', 1, 'value', JSON_OBJECT('conflicts', JSON_EXTRACT(conflicts, '$'),
                'replaced', JSON_EXTRACT(replaced, '$'))),
            said, wants_stop, started_at, beat_at FROM plan_job""")
    op.execute("DROP TABLE plan_job")
    for table, columns in DOCUMENTS.items():
        for column in columns:
            op.execute(f"UPDATE `{table}` SET `{column}` = NULL WHERE JSON_TYPE(`{column}`) = 'NULL'")  # noqa: S608
            _wrap(table, column, "$")
    for table, column in ERRORS.items():
        _wrap(table, column, "$.errors")


def _wrap(table: str, column: str, path: str) -> None:
    op.execute(
        f"UPDATE `{table}` SET `{column}` = "  # noqa: S608 — names of our own
        f"JSON_OBJECT('format', 1, 'value', JSON_EXTRACT(`{column}`, '{path}')) WHERE `{column}` IS NOT NULL"
    )


def downgrade() -> None:
    raise RuntimeError("What was planned by then would be lost.")
