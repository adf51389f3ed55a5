"""The starter shelf as a household sees it: which recipes suit its eaters, and taking them."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import cache
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.recipes.component import StorageChoice
from goodcrate.core.recipes.recipe import Recipe, Serving, serving_of
from goodcrate.core.recipes.steps import Step
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller
from goodcrate.services.household import seed_of
from goodcrate.services.kitchen import eaters_in
from goodcrate.services.recipes.recipe_input import (
    Around,
    ComponentInput,
    LineInput,
    RecipeInput,
    check_recipe,
    recipe_of,
)
from goodcrate.services.recipes.saving import put_recipe
from goodcrate.shelf.all_recipes import SHELF
from goodcrate.shelf.shelf_recipe import ShelfLine, ShelfRecipe, ShelfStep

_SPACE = UUID("6a1f3f0e-5b52-4c0e-9d5c-0a6d6b6f7761")
MakeId = Callable[..., UUID]
"""Makes an id from words: the same words, the same id."""


def household_id(caller: Caller, *words: object) -> UUID:
    """The id of a thing that comes with the product: the same words, the same id in the same household."""
    return uuid5(uuid5(_SPACE, str(seed_of(caller))), "/".join(map(str, words)))


@dataclass(frozen=True)
class ShelfOffer:
    """A recipe of the shelf with one serving of it; `why_not` is why an eater must not get it.

    Once taken it is the household's own, under `recipe_id`.
    """

    key: str
    recipe_id: UUID
    tags: tuple[str, ...]
    note: str
    recipe: Recipe
    serving: Serving
    why_not: str = ""
    is_taken: bool = False


def offers(caller: Caller) -> list[ShelfOffer]:
    """The whole shelf in its order, judged by what the household's eaters must not get."""
    with caller.transaction() as session:
        return _offers(caller, session)


def _offers(caller: Caller, session: HouseholdSession) -> list[ShelfOffer]:
    eaters = [eater.exclusions for eater in eaters_in(session)]
    there = set(session.scalars(select(RecipeRow.id).where(RecipeRow.is_archived.is_(False))))
    made = []
    for key, written in SHELF.items():
        recipe, serving = _computed(key)
        why_not = next((said for eater in eaters if (said := why_not_for(eater, recipe))), "")
        recipe_id = household_id(caller, key)
        offer = ShelfOffer(key, recipe_id, written.tags, written.note, recipe, serving)
        made.append(replace(offer, why_not=why_not, is_taken=recipe_id in there))
    return made


@cache
def _computed(key: str) -> tuple[Recipe, Serving]:
    """A shelf recipe as core computes with it, from the reference foods alone."""
    typed = input_of_shelf(SHELF[key], lambda *words: uuid5(_SPACE, "/".join(map(str, words))))
    recipe = recipe_of(typed, Around(reference_foods()))
    return recipe, serving_of(recipe)


def take(caller: Caller, keys: Iterable[str]) -> int:
    """Put recipes of the shelf into the library, and say how many came; those that are there stay as they are.

    One that was taken out of the library comes back as it was. Words that are no key are passed over.
    """
    with caller.transaction() as session:
        return sum(_take(caller, session, SHELF[key]) for key in dict.fromkeys(keys) if key in SHELF)


def take_all(caller: Caller) -> int:
    """Put everything that suits the eaters into the library, and say how many came."""
    with caller.transaction() as session:
        wanted = [offer.key for offer in _offers(caller, session) if not offer.why_not]
        return sum(_take(caller, session, SHELF[key]) for key in wanted)


def _take(caller: Caller, session: HouseholdSession, written: ShelfRecipe) -> bool:
    typed = input_of_shelf(written, lambda *words: household_id(caller, *words))
    there = session.find(RecipeRow, typed.id)
    if there is not None:
        comes_back, there.is_archived = there.is_archived, False
        return comes_back
    check_recipe(typed)
    put_recipe(session, typed)
    return True


def input_of_shelf(written: ShelfRecipe, make_id: MakeId) -> RecipeInput:
    """A shelf recipe as it would be typed, with ids made from its key."""
    key = written.key
    components = tuple(
        ComponentInput(
            make_id(key, place),
            part.name,
            tuple(_line(line, make_id(key, place, n)) for n, line in enumerate(part.lines)),
            storage=StorageChoice(part.keep_group, None, part.reheat, part.container, part.texture),
            vessel=part.vessel,
        )
        for place, part in enumerate(written.components)
    )
    steps = tuple(_step(key, n, step, make_id) for n, step in enumerate(written.steps, 1))
    return RecipeInput(
        make_id(key), written.name, written.servings, components, note=written.note, tags=written.tags, steps=steps
    )


def _line(line: ShelfLine, line_id: UUID) -> LineInput:
    return LineInput(line_id, line.food, line.grams, line.measure, use=line.use, is_poured_off=line.fate == "poured")


def _step(key: str, n: int, step: ShelfStep, make_id: MakeId) -> Step:
    low, high = step.degrees or (None, None)
    return Step(
        str(make_id(key, "step", n)),
        step.text,
        "" if step.component < 0 else str(make_id(key, step.component)),
        step.equipment,
        step.minutes,
        step.hands,
        low_c=low,
        high_c=high,
        core_kind=step.core,
        after=tuple(str(make_id(key, "step", place)) for place in step.after),
        checks_min=() if step.look is None else (step.look,),
    )
