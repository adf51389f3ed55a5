"""What is in the house already and is eaten first: boxes offered to gaps, opened foods to recipes that use them."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date

from goodcrate.core.recipes.recipe import Recipe

MOST_MISFIT_PCT = 50
"""A box whose energy is further than this from what its slot should give is not put there by itself: our assumption."""
_LEFT_OVER = 100_000
"""Leaving a box out costs more than any misfit."""


@dataclass(frozen=True, slots=True)
class HouseBox:
    """Boxes of one kind: so many of a recipe with so many grams each, to be eaten on `keeps_until` at the latest."""

    key: str
    recipe_key: str
    grams: float
    kcal: float
    count: int
    keeps_until: date

    def is_past(self, day: date) -> bool:
        """Whether they were to be eaten before a day: they are told so, and not offered."""
        return self.keeps_until < day


@dataclass(frozen=True, slots=True)
class Gap:
    """An empty slot of an eater on a day: the recipes that may stand there, and the energy it should give (kcal)."""

    key: tuple[str, str, str]
    day: date
    recipes: frozenset[str]
    wanted_kcal: float


def offer(boxes: Sequence[HouseBox], gaps: Sequence[Gap]) -> dict[tuple[str, str, str], str]:
    """Which box is eaten in which gap: as many as can be, those that keep shortest first, where they fit best.

    A minimum cost flow; the same input gives the same answer.
    """
    from ortools.graph.python import min_cost_flow

    if not boxes or not gaps:
        return {}
    flow, sink, spare = min_cost_flow.SimpleMinCostFlow(), len(boxes) + len(gaps), len(boxes) + len(gaps) + 1
    by_age = sorted(range(len(boxes)), key=lambda b: (boxes[b].keeps_until, boxes[b].key))
    arcs: dict[int, tuple[int, int]] = {}
    for b, box in enumerate(boxes):
        flow.set_node_supply(b, box.count)
        urgent = len(boxes) - by_age.index(b)
        flow.add_arc_with_capacity_and_unit_cost(b, spare, box.count, _LEFT_OVER + 1000 * urgent)
        for g, gap in enumerate(gaps):
            misfit = round(abs(box.kcal - gap.wanted_kcal) / max(gap.wanted_kcal, 1) * 100)
            if box.recipe_key not in gap.recipes or box.is_past(gap.day) or misfit > MOST_MISFIT_PCT:
                continue
            waits = (gap.day - min(x.day for x in gaps)).days
            arc = flow.add_arc_with_capacity_and_unit_cost(b, len(boxes) + g, 1, misfit * 10 + waits)
            arcs[arc] = (b, g)
    for g in range(len(gaps)):
        flow.add_arc_with_capacity_and_unit_cost(len(boxes) + g, sink, 1, 0)
    total = sum(box.count for box in boxes)
    flow.add_arc_with_capacity_and_unit_cost(spare, sink, total, 0)
    flow.set_node_supply(sink, -total)
    if flow.solve() != flow.OPTIMAL:
        return {}
    return {gaps[g].key: boxes[b].key for arc, (b, g) in arcs.items() if flow.flow(arc)}


@dataclass(frozen=True, slots=True)
class OpenFood:
    """An opened pack or the rest of a food: so many grams, to be used on `until` at the latest, where that is known."""

    key: str
    food_key: str
    name: str
    grams: float
    until: date | None

    def is_past(self, day: date) -> bool:
        """Whether it was to be used before a day; without guidance nobody knows, and it is not said."""
        return self.until is not None and self.until < day


@dataclass(frozen=True, slots=True)
class UsesUp:
    """What of an opened food a recipe takes as it is written, in g; `rest_g` stays."""

    food: OpenFood
    grams: float

    @property
    def rest_g(self) -> float:
        """What stays of it."""
        return max(0.0, self.food.grams - self.grams)


def uses_up(recipe: Recipe, foods: Iterable[OpenFood]) -> tuple[UsesUp, ...]:
    """The opened foods a recipe would use, those that keep shortest first."""
    takes: dict[str, float] = {}
    for component in recipe.components:
        for line in component.lines:
            takes[line.food.key] = takes.get(line.food.key, 0.0) + line.weighed_in_g
    found = [UsesUp(f, min(takes[f.food_key], f.grams)) for f in foods if takes.get(f.food_key, 0.0) > 0]
    return tuple(sorted(found, key=lambda u: (u.food.until or date.max, u.food.name)))
