"""Recipes: listing, reading, computing what is typed, saving, and putting aside."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import partial
from uuid import UUID

from sqlalchemy import func, select

from goodcrate.core.foods.food import Food
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.computable import WHAT_BROKEN_ROWS_RAISE, empty_recipe, why_not_computable
from goodcrate.core.recipes.recipe import Recipe, Serving, serving_of
from goodcrate.core.recipes.yields import learned_yield
from goodcrate.db.changes import Kept, Memo
from goodcrate.db.foods import FoodPastRow, FoodRow, is_settled, stamp_of
from goodcrate.db.recipes import ComponentRow, LineRow, RecipePastRow, RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, existing
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.kitchen import setup_of
from goodcrate.services.recipes.recipe_input import Around, RecipeInput, input_of, of_document, recipe_of


@dataclass(frozen=True)
class RecipePage:
    """A saved recipe with what one serving of it comes to."""

    recipe: Recipe
    serving: Serving
    note: str
    tags: tuple[str, ...]
    version: int
    origin: str = ""
    is_archived: bool = False
    links: Mapping[str, UUID] = field(default_factory=dict)
    keeps: tuple[str, ...] = ()
    broken: str = ""


def _page(session: HouseholdSession, row: RecipeRow) -> RecipePage:
    counted = setup_of(session).counted
    recipe, broken = _computed(str(row.id), row.name, partial(_counted_value, counted, row))
    if broken:
        return RecipePage(
            recipe,
            serving_of(recipe),
            row.note,
            tuple(row.tags),
            row.version,
            row.origin,
            is_archived=row.is_archived,
            broken=broken,
        )
    keeps = tuple(dict.fromkeys(x.food.name for c in row.components for x in c.lines if x.keeps_figures))
    links = {str(c.used_component_id): c.id for c in row.components if c.used_component_id is not None}
    return RecipePage(
        recipe,
        serving_of(recipe),
        row.note,
        tuple(row.tags),
        row.version,
        row.origin,
        is_archived=row.is_archived,
        links=links,
        keeps=keeps,
    )


def is_broken(session: HouseholdSession, row: RecipeRow) -> bool:
    """Whether a recipe cannot be computed, inside the caller's transaction."""
    return bool(_page(session, row).broken)


PLAIN = "plain food"
"""The origin of what was placed as plain food: no recipe to its cook, and in no list of them."""


def list_recipes(caller: Caller, *, archived: bool = False) -> list[RecipePage]:
    """All recipes of the household by name, without the archived ones or only those."""
    with caller.transaction() as session:
        return list(_LISTS.get(session, (archived,), lambda: _listed(session, archived=archived)))


def _listed(session: HouseholdSession, *, archived: bool) -> list[RecipePage]:
    columns = (RecipeRow.id, RecipeRow.note, RecipeRow.tags, RecipeRow.version, RecipeRow.origin)
    shown = select(*columns).where(RecipeRow.is_archived.is_(archived), RecipeRow.origin != PLAIN)
    heads = session.execute(shown.order_by(RecipeRow.name)).all()
    values = recipe_values(session, {head.id for head in heads})
    return [
        RecipePage(
            values[h.id].recipe,
            values[h.id].serving,
            h.note,
            tuple(h.tags),
            h.version,
            h.origin,
            is_archived=archived,
            broken=values[h.id].broken,
        )
        for h in heads
    ]


_LISTS: Kept[list[RecipePage]] = Kept(64)
_PAGES: Kept[RecipePage] = Kept(200)
RecipeKey = tuple[UUID, UUID, int, int]
"""What a recipe's value depends on: household, recipe, its version, and the household's food stamp."""


@dataclass(frozen=True)
class RecipeValue:
    """A recipe and one serving of it, as core computes with them; an empty one in the place of what is `broken`."""

    key: RecipeKey
    recipe: Recipe
    serving: Serving
    broken: str = ""


def _counted_value(counted: Callable[[Recipe], Recipe], row: RecipeRow) -> Recipe:
    return counted(row.value())


def _computed(key: str, name: str, read: Callable[[], Recipe]) -> tuple[Recipe, str]:
    """A stored recipe; or an empty one and why it cannot be computed: one bad row takes no others with it."""
    try:
        recipe = read()
        broken = why_not_computable(recipe)
    except WHAT_BROKEN_ROWS_RAISE as error:
        broken = f"{error}"[:160] or type(error).__name__
    return (empty_recipe(key, name), broken) if broken else (recipe, "")


_VALUES: Memo[RecipeValue] = Memo(5000)


def tags_of(caller: Caller, recipe_id: UUID | None) -> tuple[str, ...]:
    """A recipe's tags; none for a recipe the household does not have."""
    if recipe_id is None:
        return ()
    with caller.transaction() as session:
        return tuple(session.scalar(select(RecipeRow.tags).where(RecipeRow.id == recipe_id)) or ())


def recipe_values(
    session: HouseholdSession, ids: set[UUID], versions: Mapping[UUID, int] | None = None
) -> dict[UUID, RecipeValue]:
    """Recipes by id, at the given versions or as they stand.

    A value is kept in memory under everything it depends on, so nothing can go stale. A version nobody kept is answered
    with the recipe as it stands.
    """
    if not ids:
        return {}
    stamp = stamp_of(session)
    heads = session.execute(select(RecipeRow.id, RecipeRow.version, RecipeRow.name).where(RecipeRow.id.in_(ids))).all()
    names = {head.id: head.name for head in heads}
    wanted = {head.id: (versions or {}).get(head.id, head.version) for head in heads}
    keys = {row_id: (session.household_id, row_id, version, stamp) for row_id, version in wanted.items()}
    values = {row_id: value for row_id, key in keys.items() if (value := _VALUES.find(key)) is not None}
    missing = keys.keys() - values.keys()
    if not missing:
        return values
    past = {head.id for head in heads if wanted[head.id] != head.version} & missing
    counted = setup_of(session).counted
    for row_id in past:
        earlier = recipe_at(session, row_id, wanted[row_id])
        if earlier is not None:
            recipe, broken = _computed(str(row_id), names[row_id], partial(counted, earlier))
            values[row_id] = RecipeValue(keys[row_id], recipe, serving_of(recipe), broken)
    for row in session.scalars(select(RecipeRow).where(RecipeRow.id.in_(missing - values.keys()))):
        recipe, broken = _computed(str(row.id), row.name, partial(_counted_value, counted, row))
        key = (session.household_id, row.id, row.version, stamp)
        values[row.id] = RecipeValue(key, recipe, serving_of(recipe), broken)
    if is_settled(session):
        for row_id in missing & values.keys():
            _VALUES.put(values[row_id].key, values[row_id])
    return values


def recipe_at(session: HouseholdSession, recipe_id: UUID, version: int) -> Recipe | None:
    """A recipe as it was at an earlier version, with its foods' present figures unless it keeps others.

    Versions that differ only in what is no part of the recipe (put aside, figures settled) were not kept one by one:
    the first kept one from `version` on is the same. None when there is none, and the recipe as it stands is.
    """
    past = session.scalar(
        select(RecipePastRow)
        .where(RecipePastRow.recipe_id == recipe_id, RecipePastRow.version >= version)
        .order_by(RecipePastRow.version)
        .limit(1)
    )
    if past is None:
        return None
    typed = of_document(past.document)
    rows = foods_by_key(session, typed.food_keys)
    return recipe_of(typed, _around(session, typed, {key: row.value() for key, row in rows.items()}, rows))


def _around(
    session: HouseholdSession, typed: RecipeInput, foods: Mapping[str, Food], rows: Mapping[str, FoodRow]
) -> Around:
    """What a typed recipe is computed with, from the database; kept figures by the versions its lines name."""
    kept = {}
    for line in (line for c in typed.components for line in c.lines if line.kept_version is not None):
        row = rows.get(line.food_key)
        if row is None:
            continue
        past = session.scalar(
            select(FoodPastRow).where(FoodPastRow.food_id == row.id, FoodPastRow.figures_version == line.kept_version)
        )
        if past is not None:
            kept[line.id, line.food_key] = row.value(past)
    ids = {c.id for c in typed.components}
    learned = session.execute(select(ComponentRow.id, ComponentRow.learned).where(ComponentRow.id.in_(ids))).all()
    taught = {row_id: learned_yield(yields) for row_id, yields in learned if yields}
    return Around(foods, kept, taught, used_components(session, typed.used_ids))


def used_components(session: HouseholdSession, ids: Iterable[UUID]) -> dict[UUID, Component]:
    """Other recipes' components by id, as this one serves them; those that are gone or only borrowed are left out."""
    wanted = set(ids)
    if not wanted:
        return {}
    rows = session.scalars(select(ComponentRow).where(ComponentRow.id.in_(wanted)))
    return {row.id: row.lent() for row in rows if row.used_component_id is None and row.variant_id is None}


def get_recipe(caller: Caller, recipe_id: UUID) -> RecipePage:
    """One recipe.

    Raises:
        NotFound: when the household has none with this id.
    """
    with caller.transaction() as session:
        return _PAGES.get(
            session, (recipe_id,), lambda: _page(session, existing(session, RecipeRow, recipe_id, "recipe"))
        )


def get_input(caller: Caller, recipe_id: UUID) -> RecipeInput:
    """One recipe as it would be typed.

    Raises:
        NotFound: when the household has none with this id.
    """
    with caller.transaction() as session:
        return input_of(existing(session, RecipeRow, recipe_id, "recipe"))


def compute(caller: Caller, typed: RecipeInput, foods: Mapping[str, Food]) -> Recipe:
    """What is typed as core's recipe, nothing saved; lines with foods not among `foods` are left out.

    Lines that keep a food's earlier figures are computed with those.

    Raises:
        InvalidInput: when the servings cannot be used.
    """
    with caller.transaction() as session:
        return compute_in(session, typed, foods)


def compute_in(session: HouseholdSession, typed: RecipeInput, foods: Mapping[str, Food]) -> Recipe:
    """The same inside the caller's transaction.

    Raises:
        InvalidInput: when the servings cannot be used.
    """
    counted = setup_of(session).counted
    if not typed.version and not typed.used_ids:
        return counted(recipe_of(typed, Around(foods)))
    around = _around(session, typed, foods, {})
    ids = {line.id for c in typed.components for line in c.lines}
    rows = session.scalars(select(LineRow).where(LineRow.id.in_(ids), LineRow.keeps_figures.is_(True)))
    kept = {(row.id, row.food.key): row.value().food for row in rows}
    return counted(recipe_of(typed, Around(foods, {**around.kept, **kept}, around.learned, around.used)))


def recipe_count(session: HouseholdSession) -> int:
    """How many recipes the household has that are not put aside."""
    return session.scalar(select(func.count()).select_from(RecipeRow).where(RecipeRow.is_archived.is_(False))) or 0
