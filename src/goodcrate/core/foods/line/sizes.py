"""What a piece, a bunch or a spoon of a food weighs where its row does not say: our tables, by a food's words."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.line.words import tokens_of


@dataclass(frozen=True, slots=True)
class Size:
    """Grams of one, edible, with the relative error of that (one standard deviation)."""

    grams: float
    relative_error: float


class SizeTable:
    """`pieces.csv` and `bulk.csv`: rows by the words a food must have."""

    def __init__(
        self, pieces: Iterable[tuple[str, str, float, float]], bulk: Iterable[tuple[str, float, float]]
    ) -> None:
        self._pieces: dict[str, list[tuple[frozenset[str], Size]]] = {}
        for words, unit, grams, error_pct in pieces:
            self._pieces.setdefault(unit, []).append((frozenset(tokens_of(words)), Size(grams, error_pct / 100)))
        self._bulk = [
            (frozenset(tokens_of(words)), Size(density, error_pct / 100)) for words, density, error_pct in bulk
        ]

    def piece(self, words: frozenset[str], unit: str, line: frozenset[str] = frozenset()) -> Size | None:
        """One of a unit for a food of these words: the row that shares most of them, most of those of the line."""
        return _most_telling(self._pieces.get(unit, ()), words, line)

    def density(self, words: frozenset[str], line: frozenset[str] = frozenset()) -> Size | None:
        """Grams of a millilitre, loosely filled, for a food of these words."""
        return _most_telling(self._bulk, words, line)


def _most_telling(
    rows: Sequence[tuple[frozenset[str], Size]], words: frozenset[str], line: frozenset[str] = frozenset()
) -> Size | None:
    own = words - line
    fitting = [
        (len(needs), needs <= line or needs <= own, len(needs & line), size) for needs, size in rows if needs <= words
    ]
    return max(fitting, key=lambda row: row[:3])[3] if fitting else None


GROUP_WORDS: Mapping[str, str] = {
    "vegetable": "vegetable", "fruit": "fruit", "spice": "spice", "herb": "herb", "nut_seed": "nut", "fat": "oil",
    "drink": "drink", "meat": "meat", "poultry": "meat", "sweet": "sugar", "condiment": "sauce", "legume": "bean",
}  # fmt: skip
"""What a group is called in the table of bulk densities."""


def words_of_food(food: Food, phrase: Iterable[str] = ()) -> frozenset[str]:
    """The words a food's sizes are looked up by: its name's, its state's, and those of the line."""
    own = set(tokens_of(food.name)) | set(phrase)
    own |= {"cooked"} if food.state == "cooked" else {"canned"} if food.state.startswith("canned") else set()
    return frozenset(own)
