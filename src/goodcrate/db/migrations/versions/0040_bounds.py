"""What a stored number can be: the database refuses the rest, whichever way it comes.

What got in before becomes unknown where a figure can be unknown, and the nearest possible number where it cannot. Recipes
are left out: what came in with one is shown as broken at its place, and can be taken out as a file.
"""

from alembic import op

revision = "0040"
down_revision = "0039"
branch_labels = None
depends_on = None

FIGURES = (
    "energy_kcal", "protein_g", "fat_g", "saturated_g", "carbohydrate_g", "sugars_g", "polyols_g", "fibre_g",
    "alcohol_g", "sodium_mg", "potassium_mg", "calcium_mg", "iron_mg", "magnesium_mg", "zinc_mg", "selenium_ug",
    "iodine_ug", "vitamin_a_ug_rae", "vitamin_c_mg", "vitamin_d_ug", "vitamin_b12_ug", "folate_ug", "omega3_g",
    "omega6_g",
)  # fmt: skip
CAN_BE_UNKNOWN = {
    "food": {
        **dict.fromkeys(FIGURES, (0, 100_000_000)), "density_g_per_ml": (0.02, 2.5), "each_g": (0.05, 6000),
        "refuse_pct": (0, 95), "cooked_yield": (0.1, 12), "pack_g": (1, 25_000), "serving_g": (0.5, 2000),
        "price": (0, 1_000_000),
    },
    "food_past": {"cooked_yield": (0.1, 12)},
    "batch_line": {"error_g": (0, 1_000_000)},
    "placement": {"servings_before": (0.000001, 1000)},
    "vessel": {"tare_g": (0, 1_000_000)},
    "eater": {
        "age_years": (0, 1_000_000), "height_cm": (0, 1_000_000), "weight_kg": (2, 500),
        "meal_block_kcal": (0, 1_000_000), "snack_block_kcal": (0, 1_000_000),
    },
    "slot": {"share_pct": (0, 100)},
}  # fmt: skip
IS_ALWAYS_KNOWN = {
    "batch": {"factor": (0, 1_000_000), "planned_cooked_g": (0, 1_000_000)},
    "batch_line": {"planned_g": (0, 1_000_000), "uptake": (0, 1)},
    "in_the_house": {"grams": (0.1, 1_000_000)},
    "placement": {"servings": (0.000001, 1000)},
    "vessel": {"volume_ml": (50, 60_000), "minimum_ml": (0, 60_000)},
    "day_type": {"energy_kcal": (500, 8000), "energy_band_pct": (0.5, 25), "protein_floor_g": (0, 400)},
    "eater_extra": {"grams": (0, 1_000_000), "standard_error_g": (0, 1_000_000)},
    "household": {"polyol_share": (0, 1)},
}
"""Lowest and highest by table and column, ends included."""


def upgrade() -> None:
    for table in {**CAN_BE_UNKNOWN, **IS_ALWAYS_KNOWN}:
        conditions = []
        for column, (low, high) in CAN_BE_UNKNOWN.get(table, {}).items():
            within = f"{column} BETWEEN {low:f} AND {high:f}"
            op.execute(f"UPDATE `{table}` SET {column} = NULL WHERE NOT {within}")  # noqa: S608 — names of our own
            conditions.append(within)
        for column, (low, high) in IS_ALWAYS_KNOWN.get(table, {}).items():
            within = f"{column} BETWEEN {low:f} AND {high:f}"
            nearest = f"LEAST(GREATEST({column}, {low:f}), {high:f})"
            op.execute(f"UPDATE `{table}` SET {column} = {nearest} WHERE NOT {within}")  # noqa: S608
            conditions.append(within)
        said = " AND ".join(conditions)
        op.execute(f"ALTER TABLE `{table}` ADD CONSTRAINT IF NOT EXISTS ck_{table}_bounds CHECK ({said})")


def downgrade() -> None:
    for table in {**CAN_BE_UNKNOWN, **IS_ALWAYS_KNOWN}:
        op.execute(f"ALTER TABLE `{table}` DROP CONSTRAINT IF EXISTS ck_{table}_bounds")
