"""The shipped table of typical foods: read, checked row by row, handed over as core values."""

from collections.abc import Collection, Iterator, Mapping
from functools import cache
from importlib import resources
from threading import Lock

from goodcrate.core.foods.food import Food, check_food, usual_cooks_like
from goodcrate.core.foods.keep_groups import CoreTemperature, KeepGroup
from goodcrate.core.foods.measures import HouseholdMeasure, MeasureTable
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.core.recipes.lint import Guidance
from goodcrate.core.review.intakes import COVERS, LIMITS, Intake
from goodcrate.formats.csv_table import CsvTable

SOURCE = "Good Crate reference table, typical values"
COMPARED = "Good Crate reference table, typical values, held against “{}” of USDA FoodData Central"
FOOD_FILES = ("foods-animal.csv", "foods-produce.csv", "foods-staples.csv")
PUBLISHED = "foods-published.csv"
"""Figures published by a national table, each with its source; they may use energy factors of their own."""

OUTSIDE_THE_FACTORS: Mapping[str, str] = {
    "vinegar": "its energy is acetic acid's",
    "erythritol": "a polyol that gives almost no energy",
}
"""Foods the 4/9/4/2/7 factors cannot judge, and why. Every other row must pass the energy check."""


POLYOLS_G: Mapping[str, float] = {"erythritol": 99.8}
"""The tables have no column for polyols; of their rows only this one's are known (all its carbohydrate)."""


def read_table(name: str) -> Iterator[Mapping[str, str]]:
    """Rows of one shipped CSV table, as text by column name."""
    text = (resources.files("goodcrate") / "reference" / name).read_text(encoding="utf-8")
    return CsvTable.of(text).records()


@cache
def common_passwords() -> frozenset[str]:
    """Marks of the commonest passwords of ten letters and more; see `goodcrate.core.ground.passwords`."""
    text = (resources.files("goodcrate") / "reference" / "common-passwords.txt").read_text(encoding="ascii")
    return frozenset(text.split())


def _number(row: Mapping[str, str], column: str) -> float | None:
    cell = (row[column] or "").strip()
    if not cell:
        return None
    try:
        return float(cell)
    except ValueError:
        raise InvalidInput(column, f"“{cell}” is not a number.") from None


_COLUMNS = {key: "kcal" if key == "energy_kcal" else key for key in KEYS if key != "polyols_g"}
"""The tables' columns of the nutrients; they have none for polyols."""


def _composition(row: Mapping[str, str]) -> Composition:
    figures: dict[str, float | None] = {"polyols_g": POLYOLS_G.get(row["key"])}
    try:
        figures |= {key: float(cell) if (cell := row[column]) else None for key, column in _COLUMNS.items()}
    except ValueError:
        figures |= {key: _number(row, column) for key, column in _COLUMNS.items()}  # says which cell it is
    return Composition(tuple([figures[key] for key in KEYS]))


def food_of_row(row: Mapping[str, str]) -> Food:
    """One row of a food table as a core value.

    Raises:
        InvalidInput: for a cell that is no number, or a negative figure.
    """
    return Food(
        key=row["key"],
        name=row["name"],
        state=row["state"],
        group=row["group"],
        composition=_composition(row),
        allergens=frozenset(filter(None, row["allergens"].split(";"))),
        diet=row["diet"],
        contains_pork=row["is_pork"] == "yes",
        cooks_like=row["cooks_like"]
        if "cooks_like" in row
        else usual_cooks_like(row["name"], row["group"], row["state"]),
        density_g_per_ml=_number(row, "density_g_per_ml"),
        each_name=row["each_name"] or None,
        each_g=_number(row, "each_g"),
        refuse_pct=_number(row, "refuse_pct"),
        keep_group=row["keep_group"],
        cooked_key=row["cooked_key"] or None,
        cooked_yield=_number(row, "cooked_yield"),
        aisle=row["aisle"],
        pack_g=_number(row, "typical_pack_g"),
        note=row["note"],
        source=_source_of(row),
    )


def _source_of(row: Mapping[str, str]) -> str:
    """Who says so: the published table, or ours, with what it was held against."""
    if row.get("source"):
        return f"published: {row['source'].replace('FDC', 'USDA FoodData Central')}"
    return COMPARED.format(row["compared_with"]) if row["compared_with"] else SOURCE


@cache
def keep_groups() -> Mapping[str, KeepGroup]:
    """The keep groups of `keeping.csv` by key, checked.

    Raises:
        InvalidInputs: naming every row that cannot be right.
    """
    groups, faults = {}, []
    for row in read_table("keeping.csv"):
        key, days = row["keep_group"], (_number(row, "fridge_days_cautious"), _number(row, "fridge_days_usual"))
        months, reheat_c = _number(row, "freezer_months"), _number(row, "reheat_c")
        cautious, usual = days
        if cautious is None or usual is None or not 0 < cautious <= usual:
            faults.append(InvalidInput(f"{key}.fridge_days", "Cautious days are above 0 and no more than the usual."))
            continue
        if row["freezable"] not in ("yes", "poor", "no") or (row["freezable"] == "no") != (months is None):
            faults.append(InvalidInput(f"{key}.freezable", "What freezes has months, what does not has none."))
        if not row["source"]:
            faults.append(InvalidInput(f"{key}.source", "A figure needs its source."))
        groups[key] = KeepGroup(
            key,
            int(cautious),
            int(usual),
            None if months is None else int(months),
            row["freezable"],
            row["thaw"],
            reheat_c=reheat_c,
            cool_rule=row["cool_rule"],
            why=row["why"],
            source=row["source"],
            keeps_dry=row["place"] == "cupboard",
        )
    if faults:
        raise InvalidInputs(faults)
    return groups


@cache
def core_temperatures() -> tuple[CoreTemperature, ...]:
    """The safe core temperatures of `cook-temps.csv`, in file order: a kind may have a row per source.

    Raises:
        InvalidInputs: naming every row that cannot be right.
    """
    rows, faults = [], []
    for row in read_table("cook-temps.csv"):
        core_c = _number(row, "core_c")
        if core_c is None or not 50 <= core_c <= 100 or not row["source"]:
            faults.append(InvalidInput(row["food_kind"], "A core temperature is 50 to 100 °C and has a source."))
            continue
        rows.append(CoreTemperature(row["food_kind"], core_c, row["hold"], row["source"], row["note"]))
    if faults:
        raise InvalidInputs(faults)
    return tuple(rows)


@cache
def intake_table() -> tuple[Intake, ...]:
    """The reference intakes and limits of `intakes.csv`, in file order.

    Raises:
        InvalidInputs: naming every row that cannot be right.
    """
    rows, faults = [], []
    for row in read_table("intakes.csv"):
        value, ages = _number(row, "value"), (row["age_from"], row["age_to"])
        if (
            value is None
            or not row["source"]
            or row["kind"] not in (*COVERS, *LIMITS)
            or not all(map(str.isdigit, ages))
        ):
            faults.append(
                InvalidInput(row["nutrient"], "An intake is a number by age, of a known kind, with a source.")
            )
            continue
        first, last = (int(age) for age in ages)
        who = (row["nutrient"], row["sex"], first, last)
        rows.append(Intake(*who, row["kind"], value, unit=row["unit"], source=row["source"], note=row["note"]))
    if faults:
        raise InvalidInputs(faults)
    return tuple(rows)


@cache
def guidance() -> Guidance:
    """What the rules of `core.recipes.lint` look into; the first word of one of our own foods' names is a food's word.

    Published names begin with other words too: “roast”, “golden”.
    """
    words = (words_of(food.name) for food in reference_foods().values() if not is_published(food))
    return Guidance(keep_groups(), core_temperatures(), frozenset(w[0] for w in words if w and len(w[0]) > 2))


def is_published(food: Food) -> bool:
    """Whether its figures are a national table's own."""
    return food.source.startswith("published: ")


def _may_differ(food: Food) -> Collection[str]:
    """Figures our checks do not bind: a published table has energy factors of its own."""
    return ("energy_kcal",) if is_published(food) or food.key in OUTSIDE_THE_FACTORS else ()


def check_rows(rows: Mapping[str, Food]) -> tuple[InvalidInput, ...]:
    """Every fault of a whole table: each row's own, and links to rows or keep groups that are not there."""
    faults = []
    for food in rows.values():
        for fault in check_food(food):
            if fault.field in _may_differ(food):
                continue
            faults.append(InvalidInput(f"{food.key}.{fault.field}", fault.problem, fault.wanted))
        if food.cooked_key is not None and food.cooked_key not in rows:
            faults.append(InvalidInput(f"{food.key}.cooked_key", f"There is no row “{food.cooked_key}”."))
        if food.keep_group not in keep_groups():
            faults.append(InvalidInput(f"{food.key}.keep_group", f"“{food.keep_group}” is no keep group."))
    return tuple(faults)


@cache
def _foods() -> Mapping[str, Food]:
    return read_foods()


_ONE_READS = Lock()


def reference_foods() -> Mapping[str, Food]:
    """All shipped foods by key, in file order, checked; read once, however many ask at once.

    Raises:
        InvalidInputs: naming every row and cell that cannot be right.
    """
    with _ONE_READS:
        return _foods()


def read_foods() -> Mapping[str, Food]:
    """The shipped foods as their files stand now.

    Raises:
        InvalidInputs: naming every row and cell that cannot be right.
    """
    foods: dict[str, Food] = {}
    faults: list[InvalidInput] = []
    for name in (*FOOD_FILES, PUBLISHED):
        for row in read_table(name):
            try:
                food = food_of_row(row)
            except InvalidInput as fault:
                faults.append(InvalidInput(f"{row['key']}.{fault.field}", fault.problem, fault.wanted))
                continue
            if food.key in foods:
                faults.append(InvalidInput(food.key, "This key stands in the tables twice."))
            foods[food.key] = food
    faults.extend(check_rows(foods))
    if faults:
        raise InvalidInputs(faults)
    return foods


@cache
def measure_table() -> MeasureTable:
    """The shipped household measures with their typical errors, checked.

    Raises:
        InvalidInputs: naming every row and cell that cannot be right.
    """
    rows, faults = [], []
    for row in read_table("measures.csv"):
        place = f"{row['measure']}.{row['convention']}"
        try:
            value, error_pct = _number(row, "value"), _number(row, "typical_relative_error_pct")
        except InvalidInput as fault:
            faults.append(InvalidInput(f"{place}.{fault.field}", fault.problem))
            continue
        if row["kind"] not in ("volume", "mass", "count", "eye"):
            faults.append(InvalidInput(f"{place}.kind", f"“{row['kind']}” is no kind of measure."))
        if (value is not None and value <= 0) or (error_pct is not None and not 0 <= error_pct <= 100):
            faults.append(InvalidInput(place, "A size is above 0 and an error from 0 to 100 %."))
        error = (error_pct or 0.0) / 100
        rows.append(HouseholdMeasure(row["measure"], row["convention"], row["kind"], value, error, row["note"] or ""))
    if faults:
        raise InvalidInputs(faults)
    return MeasureTable(rows)
