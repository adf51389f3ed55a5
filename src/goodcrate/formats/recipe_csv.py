"""Recipe lines as CSV, out and in: one ingredient a line, its recipe and component beside it.

Columns: `recipe`, `servings`, `component`, `ingredient`, `amount`, and on export also `grams`, `food_key`,
`energy_kcal`, `protein_g`, `fat_g`, `carbohydrate_g`, `fibre_g` (of that line in the whole recipe; empty is unknown).
"""

from collections.abc import Iterable, Iterator
from itertools import islice

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import plainly
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.formats.csv_table import CsvTable, as_meant, as_text, decode_file, write_table
from goodcrate.formats.recipe_document import PortableRecipe
from goodcrate.formats.recipe_jsonld import MOST_RECIPES, FoundRecipe, plain_text

COLUMNS = ("recipe", "servings", "component", "ingredient", "amount")
FIGURES = ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g", "fibre_g")
MOST_ROWS = 50_000


@plainly()
def write_lines(recipes: Iterable[PortableRecipe]) -> str:
    """All ingredient lines of recipes as CSV text."""
    rows = (cells for portable in recipes for cells in _cells(portable.recipe))
    return write_table([*COLUMNS, "grams", "food_key", *FIGURES], rows)


def _cells(recipe: Recipe) -> Iterator[list[object]]:
    for component in recipe.components:
        head = [as_text(recipe.name), f"{recipe.servings:g}", as_text(component.name)]
        for line in component.lines:
            figures = [line.tally.amount(key) for key in FIGURES]
            typed = line.amount.typed or f"{line.amount.grams:g} g"
            cells: list[object] = [*head, as_text(line.food.name), typed, f"{line.amount.grams:g}", line.food.key]
            yield cells + ["" if f.is_unknown else f"{f.value:.2f}" for f in figures]
        for pending in component.pending:
            yield [*head, as_text(pending.text)]


def read_lines(data: bytes) -> list[FoundRecipe]:
    """The recipes of a CSV file; rows of one recipe need not stand together.

    Raises:
        InvalidInput: when it cannot be read, or has no column `recipe` or `ingredient`.
    """
    table = CsvTable.of(decode_file(data).text)
    if not {"recipe", "ingredient"} <= {name.strip().lower() for name in table.header}:
        raise InvalidInput("file", say("The columns “recipe” and “ingredient” are needed."), ", ".join(COLUMNS) + ".")
    rows = list(islice(table.records(), MOST_ROWS + 1))
    if len(rows) > MOST_ROWS:
        raise InvalidInput("file", say("More than {MOST_ROWS:,} rows.", MOST_ROWS=MOST_ROWS), say("Split the file."))
    recipes: dict[str, tuple[float | None, dict[str, list[str]]]] = {}
    for raw in rows:
        row = {name: plain_text(as_meant(cell), 200) for name, cell in raw.items()}
        name = row.get("recipe", "")[:160]
        if not name or not row.get("ingredient"):
            continue
        _, components = recipes.setdefault(name, (_servings(row.get("servings", "")), {}))
        amount = row.get("amount") or (f"{row['grams']} g" if row.get("grams") else "")
        components.setdefault(row.get("component", "")[:80], []).append(f"{amount} {row['ingredient']}".strip()[:200])
    if not recipes:
        raise InvalidInput("file", say("No ingredient stands in it."), say("One ingredient a line."))
    if len(recipes) > MOST_RECIPES:
        raise InvalidInput(
            "file",
            say("{recipes} recipes are more than we take at once.", recipes=len(recipes)),
            say("At most {MOST_RECIPES}.", MOST_RECIPES=MOST_RECIPES),
        )
    return [
        FoundRecipe(
            name,
            servings,
            tuple((c, tuple(lines[:300])) for c, lines in components.items()),
            notices=() if servings else (say("How many servings it makes is not said: 4 is assumed."),),
        )
        for name, (servings, components) in recipes.items()
    ]


def _servings(text: str) -> float | None:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        return None
    return value if 0.5 <= value <= 100 else None
