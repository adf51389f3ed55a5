"""Recipe lines as CSV, out and in: one ingredient a line, its recipe and component beside it.

Columns: `recipe`, `servings`, `component`, `ingredient`, `amount`, and on export also `grams`, `food_key`,
`energy_kcal`, `protein_g`, `fat_g`, `carbohydrate_g`, `fibre_g` (of that line in the whole recipe; empty is unknown).
"""

import csv
import io
from collections.abc import Iterable

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.formats.food_csv import decode_file, delimiter_of
from goodcrate.formats.recipe_document import PortableRecipe
from goodcrate.formats.recipe_jsonld import MOST_RECIPES, FoundRecipe, plain_text

COLUMNS = ("recipe", "servings", "component", "ingredient", "amount")
FIGURES = ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g", "fibre_g")
MOST_ROWS = 50_000


def _safe(text: str) -> str:
    """Text that no spreadsheet takes for a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


def write_lines(recipes: Iterable[PortableRecipe]) -> str:
    """All ingredient lines of recipes as CSV text."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([*COLUMNS, "grams", "food_key", *FIGURES])
    for portable in recipes:
        recipe = portable.recipe
        for component in recipe.components:
            for line in component.lines:
                figures = [line.tally.amount(key) for key in FIGURES]
                writer.writerow(
                    [
                        _safe(recipe.name),
                        f"{recipe.servings:g}",
                        _safe(component.name),
                        _safe(line.food.name),
                        line.amount.typed or f"{line.amount.grams:g} g",
                        f"{line.amount.grams:g}",
                        line.food.key,
                        *("" if f.is_unknown else f"{f.value:.2f}" for f in figures),
                    ]
                )
            for pending in component.pending:
                writer.writerow(
                    [_safe(recipe.name), f"{recipe.servings:g}", _safe(component.name), _safe(pending.text)]
                )
    return out.getvalue()


def read_lines(data: bytes) -> list[FoundRecipe]:
    """The recipes of a CSV file; rows of one recipe need not stand together.

    Raises:
        InvalidInput: when it cannot be read, or has no column `recipe` or `ingredient`.
    """
    text = decode_file(data).text
    delimiter = delimiter_of(text.split("\n", 1)[0])
    try:
        rows = list(csv.DictReader(io.StringIO(text), delimiter=delimiter))
    except csv.Error as error:
        raise InvalidInput("file", f"This CSV cannot be read: {error}.", "One ingredient a line.") from None
    if len(rows) > MOST_ROWS:
        raise InvalidInput("file", f"{len(rows):,} rows are more than we take.", f"At most {MOST_ROWS:,}.")
    if not rows or not {"recipe", "ingredient"} <= {str(c).strip().lower() for c in rows[0]}:
        raise InvalidInput("file", "The columns “recipe” and “ingredient” are needed.", ", ".join(COLUMNS) + ".")
    recipes: dict[str, tuple[float | None, dict[str, list[str]]]] = {}
    for raw in rows:
        row = {str(k).strip().lower(): plain_text(v, 200).removeprefix("'") for k, v in raw.items() if k}
        name = row.get("recipe", "")[:160]
        if not name or not row.get("ingredient"):
            continue
        _, components = recipes.setdefault(name, (_servings(row.get("servings", "")), {}))
        amount = row.get("amount") or (f"{row['grams']} g" if row.get("grams") else "")
        components.setdefault(row.get("component", "")[:80], []).append(f"{amount} {row['ingredient']}".strip()[:200])
    if not recipes:
        raise InvalidInput("file", "No ingredient stands in it.", "One ingredient a line.")
    if len(recipes) > MOST_RECIPES:
        raise InvalidInput("file", f"{len(recipes)} recipes are more than we take at once.", f"At most {MOST_RECIPES}.")
    return [
        FoundRecipe(
            name,
            servings,
            tuple((c, tuple(lines[:300])) for c, lines in components.items()),
            notices=() if servings else ("How many servings it makes is not said: 4 is assumed.",),
        )
        for name, (servings, components) in recipes.items()
    ]


def _servings(text: str) -> float | None:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        return None
    return value if 0.5 <= value <= 100 else None
