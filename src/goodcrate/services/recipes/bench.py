"""The recipe bench: what is typed, weighed and computed in one transaction, nothing saved."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.figures_shown import FiguresShown
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.services.calling import Caller
from goodcrate.services.foods.own_foods import Measuring, measuring_in
from goodcrate.services.kitchen import Excluding, setup_of
from goodcrate.services.recipes.library import compute_in
from goodcrate.services.recipes.recipe_input import RecipeInput


class ReadForm(Protocol):
    """A form as its page read it: only the recipe in it matters here."""

    @property
    def input(self) -> RecipeInput:
        """The recipe as typed."""


R = TypeVar("R", bound=ReadForm)


@dataclass(frozen=True)
class Benched(Generic[R]):
    """A typed recipe with all that is needed to word it; `fault` is why the whole cannot be computed."""

    read: R
    measuring: Measuring
    recipe: Recipe
    eaters: tuple[Excluding, ...]
    vessels: tuple[Vessel, ...]
    shown: FiguresShown
    fault: InvalidInput | None


def on_the_bench(caller: Caller, food_keys: set[str], read: Callable[[Measuring], R]) -> Benched[R]:
    """Read a form against the household's foods and compute it. What core refuses as a whole is an empty recipe."""
    with caller.transaction() as session:
        measures = measuring_in(session, food_keys)
        form = read(measures)
        fault = None
        try:
            recipe = compute_in(session, form.input, measures.foods)
        except InvalidInput as refused:
            fault, recipe = refused, Recipe(str(form.input.id), form.input.name, 1.0, ())
        setup = setup_of(session)
        return Benched(form, measures, recipe, setup.eaters, setup.vessels, shown=setup.shown, fault=fault)
