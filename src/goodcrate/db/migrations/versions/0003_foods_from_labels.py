"""Foods from labels, scans and files: what was typed, where figures come from, what the finder searches."""

from collections.abc import Iterable

import sqlalchemy as sa
from alembic import op

from goodcrate.core.ground.find import search_text

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

COLUMNS = (
    "polyols_g DOUBLE NULL",
    "search_text VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT ''",
    "allergen_bits INTEGER NOT NULL DEFAULT 0",
    "serving_g DOUBLE NULL",
    "price DECIMAL(9, 2) NULL",
    "barcode VARCHAR(14) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL",
    "label JSON NULL",
    "figure_errors JSON NULL",
    "source_kind VARCHAR(12) NOT NULL DEFAULT 'reference'",
    "figures_at DATETIME(6) NULL",
    "figures_version INTEGER NOT NULL DEFAULT 1",
    "stamp INTEGER NOT NULL DEFAULT 0",
)


ALLERGENS = ("celery", "cereals_gluten", "crustaceans", "egg", "fish", "lupin", "milk", "molluscs", "mustard", "nuts",
             "peanuts", "sesame", "soya", "sulphites")  # fmt: skip


def allergen_bits(allergens: Iterable[str]) -> int:
    wanted = set(allergens)
    return sum(1 << place for place, key in enumerate(ALLERGENS) if key in wanted)


def upgrade() -> None:
    adds = ", ".join(f"ADD COLUMN {column}" for column in COLUMNS)
    op.execute(
        f"ALTER TABLE food {adds}, ADD UNIQUE INDEX uq_food_household_id_barcode (household_id, barcode), "
        "ADD INDEX ix_food_stamp (household_id, stamp)"
    )
    connection = op.get_bind()
    food = sa.table("food", *(sa.column(c) for c in ("household_id", "id", "name", "allergens", "search_text",
                                                     "allergen_bits")))  # fmt: skip
    allergens = sa.type_coerce(food.c.allergens, sa.JSON())
    for row in connection.execute(sa.select(food.c.household_id, food.c.id, food.c.name, allergens)).all():
        connection.execute(
            food.update()
            .where(food.c.household_id == row[0], food.c.id == row[1])
            .values(search_text=search_text(row[2]), allergen_bits=allergen_bits(row[3] or ()))
        )


def downgrade() -> None:
    drops = ", ".join(f"DROP COLUMN {column.split()[0]}" for column in COLUMNS)
    op.execute(f"ALTER TABLE food DROP INDEX ix_food_stamp, DROP INDEX uq_food_household_id_barcode, {drops}")
