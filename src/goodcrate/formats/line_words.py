"""The shipped tables that ingredient lines are understood with: everyday names, sizes of pieces, bulk densities."""

from collections.abc import Collection, Mapping
from functools import cache

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.line.naming import Lexicon
from goodcrate.core.foods.line.reading import Reader
from goodcrate.core.foods.line.sizes import SizeTable
from goodcrate.core.foods.line.weighing import Scales
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.formats.reference import is_published, measure_table, read_table, reference_foods

LARGEST_PIECE_G, LARGEST_DENSITY = 5000.0, 2.0
LARGEST_ERROR_PCT = 60.0


def _positive(row: Mapping[str, str], column: str, largest: float, faults: list[InvalidInput]) -> float:
    try:
        value = float(row[column])
    except ValueError:
        value = 0.0
    if not 0 < value <= largest:
        faults.append(InvalidInput(f"{row['food']}.{column}", f"“{row[column]}” is not possible."))
    return value


@cache
def size_table() -> SizeTable:
    """What pieces weigh and how heavy foods lie in a spoon, checked.

    Raises:
        InvalidInputs: naming every row that cannot be right.
    """
    faults: list[InvalidInput] = []
    pieces = [
        (
            row["food"],
            row["unit"],
            _positive(row, "grams", LARGEST_PIECE_G, faults),
            _positive(row, "error_pct", LARGEST_ERROR_PCT, faults),
        )
        for row in read_table("pieces.csv")
    ]
    bulk = [
        (
            row["food"],
            _positive(row, "g_per_ml", LARGEST_DENSITY, faults),
            _positive(row, "error_pct", LARGEST_ERROR_PCT, faults),
        )
        for row in read_table("bulk.csv")
    ]
    if faults:
        raise InvalidInputs(faults)
    return SizeTable(pieces, bulk)


@cache
def aliases() -> tuple[tuple[str, str], ...]:
    """Everyday names with the key of the likeliest food, checked.

    Raises:
        InvalidInputs: naming every name whose food is not there, or that stands twice.
    """
    rows = tuple((row["alias"], row["key"]) for row in read_table("aliases.csv"))
    seen: set[str] = set()
    faults = []
    for alias, key in rows:
        if key not in reference_foods():
            faults.append(InvalidInput(alias, f"There is no food “{key}”."))
        if alias in seen:
            faults.append(InvalidInput(alias, "This name stands here twice."))
        seen.add(alias)
    if faults:
        raise InvalidInputs(faults)
    return rows


@cache
def near_names() -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Names no shipped food has, with the keys of those most like it (our own judgement of the kitchen), checked.

    Raises:
        InvalidInputs: naming every row whose food is not there.
    """
    rows = tuple((row["name"], tuple(row["foods"].split())) for row in read_table("near.csv"))
    faults = [
        InvalidInput(name, f"There is no food “{key}”.")
        for name, keys in rows
        for key in keys
        if key not in reference_foods()
    ]
    if faults:
        raise InvalidInputs(faults)
    return rows


def published_keys() -> Collection[str]:
    """Keys of foods of the published table: of two that fit alike, ours is meant."""
    return frozenset(key for key, food in reference_foods().items() if is_published(food))


@cache
def reference_lexicon() -> Lexicon:
    """All names of the shipped foods."""
    return Lexicon.of(reference_foods(), aliases(), published_keys(), near_names())


def line_reader(convention: str = "metric") -> Reader:
    """What understands lines by the shipped tables, with a household's cups and spoons."""
    return Reader(reference_lexicon(), Scales(size_table(), measure_table(), convention))


def named_food(name: str) -> Food | None:
    """The shipped food a name stands for, when it leaves nothing open."""
    found = line_reader().read(f"100 g {name}")
    return None if found.key is None or found.asks else reference_foods()[found.key]
