"""Foods as CSV: what the columns are (docs/foods-csv.md), how a file is read whatever it was saved with, and written.

A file is read row by row into foods and faults; one bad row never blocks the others. Figures are per 100 g.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.foods.barcodes import read_barcode
from goodcrate.core.foods.food import (
    ALLERGENS,
    FOOD_FACTS,
    GROUPS,
    Food,
    check_diet,
    check_energy,
    check_facts,
    check_figures,
    least_diet,
    usual_cooks_like,
)
from goodcrate.core.foods.label_figures import KJ_PER_KCAL, SODIUM_SHARE_OF_SALT
from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import plainly
from goodcrate.formats.csv_table import CsvTable, as_meant, as_text, write_table
from goodcrate.formats.reference import keep_groups

MOST_ROWS = 25_000
_TEXTS = ("each_name", "diet", "keep_group", "aisle", "note", "source")
COLUMNS = (
    "key", "name", "barcode", "state", "group", *KEYS, "allergens", "contains_pork", "cooks_like", "at_least", *_TEXTS,
    "cooked_key", *FOOD_FACTS,
)  # fmt: skip
"""The columns we write, in this order. Reading needs `name` and one figure; any order, others may be left out."""
ALSO_READ: Mapping[str, str] = {
    "kcal": "energy_kcal",
    "energy_kj": "energy_kj",
    "kj": "energy_kj",
    "salt_g": "salt_g",
    "available_carbohydrate_g": "available_carbohydrate_g",
    "typical_pack_g": "pack_g",
}


@dataclass(frozen=True, slots=True)
class CsvRow:
    """One row of a file: its line number, the food when it can be used, or the faults; `queries` do not stop it."""

    line: int
    name: str
    food: Food | None
    given_key: str
    faults: tuple[InvalidInput, ...] = ()
    queries: tuple[str, ...] = ()


def read_foods(text: str) -> Iterator[CsvRow]:
    """Read a table of foods. Commas, semicolons or tabs; decimal point, or comma where columns are not.

    Raises:
        InvalidInput: when there is no usable header, or too many rows.
    """
    table = CsvTable.of(text)
    header = _header(table.header)
    for count, (line, cells) in enumerate(table.rows, 1):
        if count > MOST_ROWS:
            raise InvalidInput(
                "file", say("More than {MOST_ROWS:,} rows.", MOST_ROWS=MOST_ROWS), say("Split the file.")
            )
        yield _row(line, header, cells, table.delimiter)


def _header(cells: Sequence[str]) -> list[str]:
    names = [cell.strip().lower().replace(" ", "_") for cell in cells]
    known = set(COLUMNS) | ALSO_READ.keys()
    if "name" not in names:
        raise InvalidInput(
            "file", say("The first row names no column “name”."), say("See the documented columns, or an export.")
        )
    figures = set(names) & (set(KEYS) | {"kcal", "kj", "energy_kj", "salt_g", "available_carbohydrate_g"})
    if not figures:
        raise InvalidInput("file", say("No column holds a figure."), say("Such as kcal, protein_g, fat_g."))
    unknown = [name for name in names if name and name not in known]
    if unknown:
        raise InvalidInput(
            "file",
            say("Unknown columns: {unknown}.", unknown=", ".join(unknown[:6])),
            say("Rename or remove them, so that nothing is lost."),
        )
    twice = {name for name in names if name and names.count(name) > 1}
    if twice:
        raise InvalidInput(
            "file", say("Columns stand twice: {twice}.", twice=", ".join(sorted(twice))), say("Keep one of each.")
        )
    return [ALSO_READ.get(name, name) for name in names]


def _row(line: int, header: Sequence[str], cells: Sequence[str], delimiter: str) -> CsvRow:
    name_at = header.index("name")
    name = cells[name_at].strip()[:160] if name_at < len(cells) else ""
    if len(cells) > len(header) and any(c.strip() for c in cells[len(header) :]):
        hint = say(" A decimal comma? Put quotes around the figure, or use semicolons.") if delimiter == "," else ""
        fault = InvalidInput(
            "row",
            say("{cells} cells where the header has {header}.{hint}", cells=len(cells), header=len(header), hint=hint),
        )
        return CsvRow(line, name, None, "", (fault,))
    row = {column: as_meant(cell.strip()) for column, cell in zip(header, cells, strict=False) if column}
    faults: list[InvalidInput] = []
    food = _food(row, faults)
    if food is not None:
        faults.extend((*check_facts(food), *check_diet(food)))
        faults.extend(check_figures(food.composition))
        if food.keep_group not in keep_groups():
            faults.append(
                InvalidInput(
                    "keep_group",
                    say("“{keep_group}” is no keep group.", keep_group=food.keep_group),
                    say("See the documented ones."),
                )
            )
        if food.group not in GROUPS:
            faults.append(
                InvalidInput(
                    "group",
                    say("“{group}” is no group.", group=food.group),
                    say("One of {GROUPS}.", GROUPS=", ".join(GROUPS)),
                )
            )
    if food is None or faults:
        return CsvRow(line, name, None, row.get("key", ""), tuple(faults))
    queries = tuple(
        f.problem + say(" Wrong basis, fibre convention, or a slip?") for f in check_energy(food.composition)
    )
    return CsvRow(line, name, food, row.get("key", ""), (), queries)


def _food(row: Mapping[str, str], faults: list[InvalidInput]) -> Food | None:
    def number(column: str) -> float | None:
        if not row.get(column):
            return None
        try:
            return read_number(row[column], column, say("A number, or empty for unknown."), is_point_decimal=True)
        except InvalidInput as fault:
            faults.append(fault)
            return None

    if not row.get("name"):
        faults.append(InvalidInput("name", say("There is no name."), say("Each row needs one.")))
    elif len(row["name"]) > 160:
        faults.append(InvalidInput("name", say("{row} letters are too many.", row=len(row["name"])), say("Up to 160.")))
    per_100_g = {key: number(key) for key in (*KEYS, "energy_kj", "salt_g", "available_carbohydrate_g")}
    facts = {name: number(name) for name in FOOD_FACTS}
    barcode = _barcode(row, faults)
    if faults:
        return None
    try:
        composition = _composition(row, per_100_g)
    except InvalidInput as fault:
        faults.append(fault)
        return None
    group, state = row.get("group") or "condiment", row.get("state") or "ready"
    usual = GROUPS.get(group, GROUPS["condiment"])
    allergens = frozenset(_allergens(row.get("allergens", "")))
    return Food(
        key="",
        name=row["name"],
        state=state,
        group=group,
        composition=composition,
        allergens=allergens,
        diet=row.get("diet") or least_diet(usual.diet, allergens),
        contains_pork=row.get("contains_pork", "").lower() in ("1", "yes", "true"),
        cooks_like=row["cooks_like"].lower() if row.get("cooks_like") else usual_cooks_like(row["name"], group, state),
        each_name=(row.get("each_name") or None),
        keep_group=row.get("keep_group") or (usual.cooked_keep_group if state == "cooked" else usual.keep_group),
        aisle=row.get("aisle") or usual.aisle,
        barcode=barcode,
        note=row.get("note", "")[:2000],
        source=(row.get("source") or say("an imported file"))[:160],
        cooked_key=row.get("cooked_key") or None,
        **facts,
    )


def _barcode(row: Mapping[str, str], faults: list[InvalidInput]) -> str | None:
    try:
        return read_barcode(row["barcode"]) if row.get("barcode") else None
    except InvalidInput as fault:
        faults.append(fault)
        return None


def _composition(row: Mapping[str, str], figures: dict[str, float | None]) -> Composition:
    """What a row's figures come to.

    Raises:
        InvalidInput: when there is none, or one that cannot be.
    """
    kj, salt, available = figures["energy_kj"], figures["salt_g"], figures["available_carbohydrate_g"]
    at_least = {key.strip() for key in row.get("at_least", "").split("|")} & set(KEYS)
    if figures["energy_kcal"] is None and kj is not None:
        figures["energy_kcal"] = kj / KJ_PER_KCAL
    if figures["sodium_mg"] is None and salt is not None:
        figures["sodium_mg"] = salt * 1000 * SODIUM_SHARE_OF_SALT
    if figures["carbohydrate_g"] is None and available is not None:
        figures["carbohydrate_g"] = available + (figures["fibre_g"] or 0)
    if available is not None and figures["fibre_g"] is None:
        at_least.add("carbohydrate_g")
    if all(figures[key] is None for key in KEYS):
        raise InvalidInput("energy_kcal", say("There is no figure in this row."), say("At least one."))
    return Composition(tuple(figures[key] for key in KEYS), (), frozenset(at_least))


def _allergens(cell: str) -> Iterable[str]:
    by_word = {word: key for key, word in ALLERGENS.items()}
    for part in cell.replace("|", ";").replace(",", ";").split(";"):
        word = part.strip().lower()
        if word and word != "none":
            yield by_word.get(word, word)


@plainly()
def write_foods(foods: Iterable[Food]) -> str:
    """Foods as CSV, header first; unknown figures are empty cells, and reading it back gives the same foods."""
    return write_table(COLUMNS, map(_cells, foods))


def _cells(food: Food) -> list[object]:
    figures = food.composition.as_mapping()
    cells: list[object] = [food.key, as_text(food.name), food.barcode, food.state, food.group]
    cells += [_exact(figures[key]) for key in KEYS]
    cells += ["|".join(sorted(food.allergens)), "yes" if food.contains_pork else "", food.cooks_like]
    cells += ["|".join(sorted(food.composition.at_least))]
    cells += [as_text(str(getattr(food, name) or "")) for name in _TEXTS]
    return [*cells, food.cooked_key, *(_exact(getattr(food, name)) for name in FOOD_FACTS)]


def _exact(value: float | None) -> str:
    return "" if value is None else repr(float(value)).removesuffix(".0")
