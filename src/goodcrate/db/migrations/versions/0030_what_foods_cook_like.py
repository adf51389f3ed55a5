"""What a food cooks like is a fact of its own; facts of taken-in reference foods that were unsafe are put right."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None

FLAKES = ("rolled_oats_dry", "oats_steel_cut_dry", "oat_bran_dry", "rye_flakes_dry")
KEEP_GROUPS = {"chicken_liver_raw": "raw_offal", "bacon_back_raw": "raw_bacon", "bacon_streaky_raw": "raw_bacon",
               "ham_cooked": "cooked_ham"}  # fmt: skip
ALLERGENS = {
    "stock_cube": ["celery", "cereals_gluten", "egg", "milk"],
    "vegetable_stock_ready": ["celery", "cereals_gluten", "egg", "milk"],
    "miso_paste": ["cereals_gluten", "soya"],
    "vinegar": ["cereals_gluten", "sulphites"],
    "dark_chocolate_70": ["milk", "nuts", "soya"],
}
DIETS = {"stock_cube": "dairy", "vegetable_stock_ready": "dairy", "dark_chocolate_70": "dairy"}


def upgrade() -> None:
    op.execute("ALTER TABLE food ADD COLUMN IF NOT EXISTS cooks_like VARCHAR(10) NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE food DROP COLUMN IF EXISTS allergen_bits")
    op.execute(
        "UPDATE food SET cooks_like = CASE"
        " WHEN food_group IN ('grain', 'baking') AND name RLIKE 'flour|semolina' THEN 'flour'"
        " WHEN food_group = 'grain' AND name RLIKE '\\\\brice\\\\b' AND name NOT RLIKE 'cake|cracker|crispbread|pudding' THEN 'rice'"
        " WHEN food_group = 'grain' AND name RLIKE 'oats?\\\\b|flakes|muesli' AND state IN ('dry', 'ready') THEN 'flakes'"
        " WHEN food_group = 'grain' AND state = 'dry' THEN 'grain'"
        " WHEN food_group = 'legume' AND state = 'dry' THEN 'pulse'"
        " WHEN origin_key = 'textured_soya_dry' THEN 'pulse' ELSE '' END"
    )
    food = sa.table("food", *(sa.column(c) for c in ("origin_key", "source_kind", "keep_group", "allergens", "diet",
                                                     "cooked_yield", "cooks_like")))  # fmt: skip
    connection = op.get_bind()

    def put(key: str, **values: object) -> None:
        from_table = (food.c.origin_key == key) & (food.c.source_kind == "reference")
        connection.execute(food.update().where(from_table).values(**values))

    for key, group in KEEP_GROUPS.items():
        put(key, keep_group=group)
    for key, allergens in ALLERGENS.items():
        put(key, allergens=json.dumps(allergens))
    for key, diet in DIETS.items():
        put(key, diet=diet)
    put("soya_beans_dry", cooked_yield=2.15)
    for key in FLAKES[:2]:
        put(key, cooked_yield=None)


def downgrade() -> None:
    op.execute("ALTER TABLE food DROP COLUMN cooks_like, ADD COLUMN allergen_bits INTEGER NOT NULL DEFAULT 0")
