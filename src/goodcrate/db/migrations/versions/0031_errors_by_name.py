"""Errors of figures are stored by the nutrient's name, with a format number, and no longer by position."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None

BY_POSITION = (
    "energy_kcal", "protein_g", "fat_g", "saturated_g", "carbohydrate_g", "sugars_g", "polyols_g", "fibre_g", "alcohol_g",
    "sodium_mg", "potassium_mg", "calcium_mg", "iron_mg", "magnesium_mg", "zinc_mg", "selenium_ug", "iodine_ug",
    "vitamin_a_ug_rae", "vitamin_c_mg", "vitamin_d_ug", "vitamin_b12_ug", "folate_ug", "omega3_g", "omega6_g",
)  # fmt: skip
"""The order figures were stored in until now."""


def upgrade() -> None:
    for name in ("food", "food_past"):
        for table, row, stored in _stored(name):
            if isinstance(stored, list):
                by_name = {"format": 1, "errors": dict(zip(BY_POSITION, stored, strict=True))}
                _put(table, row, by_name)


def downgrade() -> None:
    for name in ("food", "food_past"):
        for table, row, stored in _stored(name):
            if isinstance(stored, dict):
                _put(table, row, [stored["errors"].get(key, 0.0) for key in BY_POSITION])


def _stored(name: str) -> list[tuple[sa.TableClause, sa.Row, object]]:
    table = sa.table(name, *(sa.column(c) for c in ("household_id", "id", "figure_errors")))
    rows = op.get_bind().execute(sa.select(table).where(table.c.figure_errors.is_not(None))).all()
    return [(table, row, json.loads(row.figure_errors)) for row in rows]


def _put(table: sa.TableClause, row: sa.Row, errors: object) -> None:
    this = (table.c.household_id == row.household_id) & (table.c.id == row.id)
    op.get_bind().execute(table.update().where(this).values(figure_errors=json.dumps(errors)))
