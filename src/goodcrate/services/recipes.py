"""Recipes: listing, reading, computing what is typed, and saving."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.amounts import Amount
from goodcrate.core.cook import check_lines
from goodcrate.core.errors import InvalidInput, InvalidInputs
from goodcrate.core.foods import Food, largest_plausible_g
from goodcrate.core.recipes import Component, IngredientLine, Recipe, Serving, serving_of
from goodcrate.db.base import grams
from goodcrate.db.cook import BatchRow
from goodcrate.db.foods import FoodRow, stamp_of
from goodcrate.db.recipes import ComponentRow, LineRow, RecipeRow, stored_amount
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, NotFound, StaleWrite, add_once, existing
from goodcrate.services.foods import foods_by_key
from goodcrate.services.labels import learn_facts


@dataclass(frozen=True)
class LineInput:
    """A typed ingredient line. `id` is made by the client and stays the line's."""

    id: UUID
    food_key: str
    amount_g: float
    measure: str = "weighed"
    typed: str | None = None
    error_g: float | None = None

    @property
    def amount(self) -> Amount:
        """The amount as core computes with it; without an error of its own it has its measure's."""
        return stored_amount(grams(self.amount_g), self.measure, self.error_g, self.typed)


@dataclass(frozen=True)
class ComponentInput:
    """A typed component; `cooked_g` None leaves the cooked weight to the foods' yields."""

    id: UUID
    name: str
    lines: tuple[LineInput, ...]
    cooked_g: float | None = None


@dataclass(frozen=True)
class RecipeInput:
    """A typed recipe; `version` is the one it was read at, 0 for a new one.

    `facts` are what the cook taught about foods while typing (density, piece weight …), by food key and fact.
    """

    id: UUID
    name: str
    servings: float
    components: tuple[ComponentInput, ...]
    note: str = ""
    tags: tuple[str, ...] = ()
    version: int = 0
    facts: Mapping[str, Mapping[str, float]] = field(default_factory=dict)


@dataclass(frozen=True)
class RecipePage:
    """A saved recipe with what one serving of it comes to."""

    recipe: Recipe
    serving: Serving
    note: str
    tags: tuple[str, ...]
    version: int
    food_rows: dict[str, Food] = field(default_factory=dict)
    keeps: tuple[str, ...] = ()


def _page(row: RecipeRow) -> RecipePage:
    recipe = row.value()
    keeps = tuple(dict.fromkeys(x.food.name for c in row.components for x in c.lines if x.keeps_figures))
    return RecipePage(recipe, serving_of(recipe), row.note, tuple(row.tags), row.version, keeps=keeps)


def list_recipes(caller: Caller) -> list[RecipePage]:
    """All recipes of the household by name."""
    with caller.transaction() as session:
        heads = session.execute(
            select(RecipeRow.id, RecipeRow.note, RecipeRow.tags, RecipeRow.version).order_by(RecipeRow.name)
        ).all()
        values = recipe_values(session, {head.id for head in heads})
    return [
        RecipePage(values[head.id].recipe, values[head.id].serving, head.note, tuple(head.tags), head.version)
        for head in heads
    ]


RecipeKey = tuple[UUID, UUID, int, int]
"""What a recipe's value depends on: household, recipe, its version, and the household's food stamp."""


@dataclass(frozen=True)
class RecipeValue:
    """A recipe and one serving of it, as core computes with them."""

    key: RecipeKey
    recipe: Recipe
    serving: Serving


_VALUES: dict[RecipeKey, RecipeValue] = {}
_MOST_VALUES = 5000


def recipe_values(session: HouseholdSession, ids: set[UUID]) -> dict[UUID, RecipeValue]:
    """Recipes by id. A value is kept in memory under everything it depends on, so nothing can go stale."""
    if not ids:
        return {}
    stamp = stamp_of(session)
    heads = session.execute(select(RecipeRow.id, RecipeRow.version).where(RecipeRow.id.in_(ids))).all()
    keys = {head.id: (session.household_id, head.id, head.version, stamp) for head in heads}
    values = {row_id: value for row_id, key in keys.items() if (value := _VALUES.get(key)) is not None}
    missing = keys.keys() - values.keys()
    if missing:
        if len(_VALUES) > _MOST_VALUES:
            _VALUES.clear()
        for row in session.scalars(select(RecipeRow).where(RecipeRow.id.in_(missing))):
            recipe = row.value()
            values[row.id] = _VALUES[keys[row.id]] = RecipeValue(keys[row.id], recipe, serving_of(recipe))
    return values


def get_recipe(caller: Caller, recipe_id: UUID) -> RecipePage:
    """One recipe.

    Raises:
        NotFound: when the household has none with this id.
    """
    with caller.transaction() as session:
        return _page(existing(session, RecipeRow, recipe_id, "recipe"))


def compute(caller: Caller, typed: RecipeInput, foods: Mapping[str, Food]) -> Recipe:
    """What is typed as core's recipe, nothing saved; lines with foods not among `foods` are left out.

    Lines that keep a food's earlier figures are computed with those.

    Raises:
        InvalidInput: when the servings cannot be used.
    """
    kept = _kept_foods(caller, typed)
    components = []
    for c in typed.components:
        lines = tuple(
            IngredientLine(str(line.id), kept.get((line.id, line.food_key), foods[line.food_key]), line.amount)
            for line in c.lines
            if line.food_key in foods
        )
        components.append(Component(str(c.id), c.name, lines, c.cooked_g))
    return Recipe(str(typed.id), typed.name, typed.servings, tuple(components))


def _kept_foods(caller: Caller, typed: RecipeInput) -> dict[tuple[UUID, str], Food]:
    """Foods with the figures that saved lines keep, by line and food."""
    if not typed.version:
        return {}
    ids = {line.id for c in typed.components for line in c.lines}
    with caller.transaction() as session:
        rows = session.scalars(select(LineRow).where(LineRow.id.in_(ids), LineRow.keeps_figures.is_(True)))
        return {(row.id, row.food.key): row.value().food for row in rows}


@dataclass(frozen=True)
class ChangedFood:
    """A food whose figures changed since a recipe was made: kcal per 100 g before and now, None where unknown."""

    key: str
    name: str
    before_kcal: float | None
    now_kcal: float | None
    changed_at: datetime | None


@dataclass(frozen=True)
class ChangedFigures:
    """What changed under a recipe, and what one serving of it comes to either way."""

    foods: tuple[ChangedFood, ...]
    as_it_was: Serving
    as_it_is: Serving


def changed_figures(caller: Caller, recipe_id: UUID) -> ChangedFigures | None:
    """Foods that changed since the recipe's lines were made with them and nobody has said which figures count.

    None when there are none, or no such recipe.
    """
    with caller.transaction() as session:
        row = session.find(RecipeRow, recipe_id)
        lines = [] if row is None else [line for c in row.components for line in c.lines if line.food_changed]
        if row is None or not lines:
            return None
        foods = {}
        for line in lines:
            before = line.past
            foods[line.food_id] = ChangedFood(
                line.food.key, line.food.name, None if before is None else before.figures.get("energy_kcal"),
                line.food.energy_kcal, line.food.figures_at,
            )  # fmt: skip
        recipe = row.value()
        old = {str(line.id): line.food.value(line.past) for line in lines}
        was = replace(
            recipe,
            components=tuple(
                replace(c, lines=tuple(replace(x, food=old.get(x.key, x.food)) for x in c.lines))
                for c in recipe.components
            ),
        )
        return ChangedFigures(tuple(foods.values()), serving_of(was), serving_of(recipe))


def settle_changed_figures(caller: Caller, recipe_id: UUID, *, keep: bool) -> None:
    """Say which figures count for a recipe whose foods changed: those it was made with, or the new ones.

    Raises:
        NotFound: when the household has no such recipe.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        for line in [line for c in row.components for line in c.lines if line.food_changed]:
            line.keeps_figures = keep
            if not keep:
                line.figures_version = line.food.figures_version
            row.version += 1


def take_new_figures(caller: Caller, recipe_id: UUID) -> None:
    """Let a recipe that keeps earlier figures follow its foods again.

    Raises:
        NotFound: when the household has no such recipe.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        for line in [line for c in row.components for line in c.lines if line.keeps_figures]:
            line.keeps_figures, line.figures_version = False, line.food.figures_version
            row.version += 1


def recipes_with_changed_foods(caller: Caller) -> frozenset[UUID]:
    """Ids of recipes some of whose foods changed since, unanswered."""
    with caller.transaction() as session:
        rows = session.scalars(
            select(ComponentRow.recipe_id)
            .join(LineRow, LineRow.component_id == ComponentRow.id)
            .join(FoodRow, FoodRow.id == LineRow.food_id)
            .where(LineRow.figures_version < FoodRow.figures_version, LineRow.keeps_figures.is_(False))
            .distinct()
        )
        return frozenset(rows)


def save_recipe(caller: Caller, typed: RecipeInput) -> int:
    """Save a new or changed recipe and return its version. Sending a new recipe twice saves one.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: for a food nobody knows, or a changed recipe the household does not have.
        StaleWrite: when somebody saved a newer version in the meantime.
    """
    _check(typed)
    with caller.transaction() as session:
        if typed.version == 0:
            fresh = RecipeRow(
                id=typed.id, name=typed.name, servings=typed.servings, note=typed.note, tags=[], version=1
            )
            if not add_once(session, fresh):
                return existing(session, RecipeRow, typed.id, "recipe").version
            row = fresh
        else:
            row = existing(session, RecipeRow, typed.id, "recipe")
            if row.version != typed.version:
                raise StaleWrite("recipe", row.version)
        foods = foods_by_key(session, {line.food_key for c in typed.components for line in c.lines})
        _check_plausible(typed, foods)
        learn_facts(session, foods, typed.facts)
        row.name, row.servings, row.note, row.tags = typed.name, typed.servings, typed.note, list(typed.tags)
        before = _content(row)
        _put_components(session, row, typed, foods)
        if typed.version and before != _content(row):
            row.version = typed.version + 1  # components changed, the recipe's own row perhaps not
        session.flush()
        return row.version


def _content(row: RecipeRow) -> list[object]:
    return [
        (
            c.id,
            c.name,
            c.cooked_g,
            c.position,
            [(x.id, x.food_id, x.amount_g, x.measure, x.amount_text, x.position) for x in c.lines],
        )
        for c in row.components
    ]


def _put_components(session: HouseholdSession, row: RecipeRow, typed: RecipeInput, foods: dict[str, FoodRow]) -> None:
    kept = {c.id: c for c in row.components}
    gone = kept.keys() - {c.id for c in typed.components}
    if gone and session.scalar(select(BatchRow.id).where(BatchRow.component_id.in_(gone)).limit(1)):
        raise InvalidInputs(
            [InvalidInput("components", "A component that was already cooked cannot be removed.", "Empty it instead.")]
        )
    _refuse_strangers(session, ComponentRow, {c.id for c in typed.components} - kept.keys())
    components = []
    for place, c in enumerate(typed.components):
        component = kept.get(c.id) or ComponentRow(id=c.id)
        component.name, component.position = c.name, place
        component.cooked_g = None if c.cooked_g is None else grams(c.cooked_g)
        components.append(component)
    row.components[:] = components
    session.flush()
    lines = {line.id: line for component in components for line in component.lines}
    _refuse_strangers(session, LineRow, {x.id for c in typed.components for x in c.lines} - lines.keys())
    for component, c in zip(components, typed.components, strict=True):
        own = {line.id: line for line in component.lines}
        component.lines[:] = [_line_row(own.get(x.id), x, foods[x.food_key], place) for place, x in enumerate(c.lines)]


def _refuse_strangers(session: HouseholdSession, kind: type[ComponentRow | LineRow], new_ids: set[UUID]) -> None:
    """New rows bring new ids; one that already stands in another recipe is not taken over."""
    if new_ids and session.scalar(select(kind.id).where(kind.id.in_(new_ids)).limit(1)) is not None:
        raise NotFound("line of this recipe")


def _line_row(line: LineRow | None, typed: LineInput, food: FoodRow, place: int) -> LineRow:
    line = line or LineRow(id=typed.id)
    if line.food_id != food.id:
        line.food_id, line.figures_version, line.keeps_figures = food.id, food.figures_version, False
    line.amount_g, line.measure, line.position = grams(typed.amount_g), typed.measure, place
    line.amount_text, line.error_g = (typed.typed or None), typed.error_g
    return line


def _check(typed: RecipeInput) -> None:
    faults: list[InvalidInput] = []
    if not typed.name.strip():
        faults.append(InvalidInput("name", "The recipe needs a name.", "Up to 160 letters."))
    elif len(typed.name) > 160:
        faults.append(InvalidInput("name", f"{len(typed.name)} letters are too many.", "Up to 160."))
    if not 0.5 <= typed.servings <= 100:
        faults.append(InvalidInput("servings", f"{typed.servings:g} servings is not possible.", "Give 0.5 to 100."))
    if not any(c.lines for c in typed.components):
        faults.append(InvalidInput("lines", "There is no ingredient yet.", "Find a food and give its grams."))
    if sum(len(c.lines) for c in typed.components) > 300:
        faults.append(InvalidInput("lines", "More than 300 ingredient lines.", "Split the recipe."))
    for c in typed.components:
        if len(c.name) > 80:
            faults.append(InvalidInput(f"component-{c.id}-name", "This name is too long.", "Up to 80 letters."))
        if c.cooked_g is not None and c.cooked_g <= 0:
            faults.append(InvalidInput(f"component-{c.id}-cooked", "Cooked food weighs more than 0 g."))
        try:
            check_lines([(f"line-{line.id}-amount", line.amount_g) for line in c.lines])
        except InvalidInputs as found:
            faults.extend(found.faults)
    if faults:
        raise InvalidInputs(faults)


def _check_plausible(typed: RecipeInput, foods: dict[str, FoodRow]) -> None:
    faults = []
    for c in typed.components:
        for line in c.lines:
            food = foods[line.food_key].value()
            most = largest_plausible_g(food)
            if line.amount_g > most:
                faults.append(
                    InvalidInput(
                        f"line-{line.id}-amount",
                        f"{line.amount_g:,.0f} g of {food.name.lower()} is more than a home kitchen uses.",
                        f"At most {most:,.0f} g.",
                    )
                )
    if faults:
        raise InvalidInputs(faults)
