"""Fourteen more nutrients of a food, within the bounds of the others; what a household means by its words."""

from alembic import op

revision = "0045"
down_revision = "0044"
branch_labels = None
depends_on = None
KEYS = (
    "cholesterol_mg", "vitamin_e_mg", "thiamin_mg", "riboflavin_mg", "niacin_mg", "vitamin_b6_mg", "choline_mg",
    "vitamin_k_ug", "phosphorus_mg", "copper_mg", "manganese_mg", "epa_g", "dha_g", "ala_g",
)  # fmt: skip


MOST = 100_000_000
"""No figure per 100 g is larger, in whatever unit."""


def upgrade() -> None:
    columns = ", ".join(f"ADD COLUMN {key} DOUBLE NULL" for key in KEYS)
    within = " AND ".join(f"({key} IS NULL OR {key} BETWEEN 0 AND {MOST})" for key in KEYS)
    op.execute(f"ALTER TABLE food {columns}, ADD CONSTRAINT ck_food_more_nutrients CHECK ({within})")
    op.execute("""
        CREATE TABLE line_habit (
            words VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
            food_key VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
            household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id),
            UNIQUE KEY uq_line_habit_household_id_words (household_id, words),
            CONSTRAINT fk_line_habit_household_id FOREIGN KEY (household_id) REFERENCES household (id))""")


def downgrade() -> None:
    op.execute("DROP TABLE line_habit")
    op.execute("ALTER TABLE food DROP CONSTRAINT ck_food_more_nutrients")
    op.execute(f"ALTER TABLE food {', '.join(f'DROP COLUMN {key}' for key in KEYS)}")
