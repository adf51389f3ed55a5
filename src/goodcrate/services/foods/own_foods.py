"""Foods: finding them, one food with all that is known of it, and how a household measures."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cache
from uuid import UUID

from sqlalchemy import and_, func, select

from goodcrate.core.foods.compare import lighter_alike
from goodcrate.core.foods.food import REFERENCE, UNKNOWN, Food
from goodcrate.core.foods.label import LabelReading, read_label
from goodcrate.core.foods.line.naming import candidates, literals_of
from goodcrate.core.foods.line.weighing import Scales
from goodcrate.core.foods.line.words import tokens_of
from goodcrate.core.foods.measures import MeasureTable, TypedAmount
from goodcrate.core.foods.weighed_amounts import SERVING, Partner, Weighed, weigh
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.find import MOST_WORDS, Entry, best_matches, words_of
from goodcrate.db.changes import Memo
from goodcrate.db.foods import FoodRow, is_settled, stamp_of
from goodcrate.db.recipes import ComponentRow, LineRow, RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.targets import EaterRow
from goodcrate.formats.line_words import reference_lexicon, size_table
from goodcrate.formats.reference import measure_table, reference_foods
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.foods.shelf import OWN, as_id, entry_of, foods_of, rows_by_key, shelf_of
from goodcrate.services.kitchen import setup_of


@dataclass(frozen=True)
class FoundFood:
    """A food in a list: what it is, and whether the household already uses it."""

    food: Food
    is_household: bool


@dataclass(frozen=True)
class Filters:
    """What a found food must be: of a group, free of the household's allergens, lean or rich enough."""

    group: str = ""
    free_of: frozenset[str] = frozenset()
    least_protein_g_per_100_kcal: float | None = None
    most_kcal_per_100_g: float | None = None

    @property
    def is_on(self) -> bool:
        """Whether anything is filtered."""
        return self != Filters()

    def takes(self, entry: Entry) -> bool:
        """Whether a food passes; one whose figure is unknown does not pass a filter on it."""
        energy, protein, least = entry.energy_kcal, entry.protein_g, self.least_protein_g_per_100_kcal
        if (self.group and entry.group != self.group) or (
            self.free_of and entry.allergens & (self.free_of | {UNKNOWN})
        ):
            return False
        if self.most_kcal_per_100_g is not None and (energy is None or energy > self.most_kcal_per_100_g):
            return False
        return least is None or (energy is not None and protein is not None and protein * 100 >= least * energy)


NO_FILTERS = Filters()
NAMED_FIRST = 4
"""So many foods that are named so in kitchens stand before those that only hold the words."""


def find_foods(caller: Caller, query: str, limit: int = 40, filters: Filters = NO_FILTERS) -> list[FoundFood]:
    """Foods whose names answer the typed words in any order, best first (`goodcrate.core.ground.find`).

    What the words stand for in a kitchen comes first (“onion”, “milk”), behind own foods of just that name. Of equally
    good answers the household's own come before the reference table's; without a query all by name.
    """
    words = words_of(query[:120])[:MOST_WORDS]
    passes = filters.takes if filters.is_on else None
    with caller.transaction() as session:
        shelf = shelf_of(session)
        best = best_matches(words, shelf, limit, passes)
        ids = {UUID(e.key.removeprefix(OWN)) for e in best if e.is_own}
        rows = {row.id: row for row in session.scalars(select(FoodRow).where(FoodRow.id.in_(ids)))} if ids else {}
        found = [
            FoundFood(rows[UUID(e.key.removeprefix(OWN))].value(), True)
            if e.is_own
            else FoundFood(reference_foods()[e.key], False)
            for e in best
        ]
        named = _named(session, query, filters)
        place = {f.food.key: n for n, f in enumerate(named)}
        known = {f.food.key: f for f in (*named, *found)}
        exact = {f.food.key for f in found if f.is_household and words_of(f.food.name) == words}
        ordered = sorted(known.values(), key=lambda f: (f.food.key not in exact, place.get(f.food.key, len(place))))
        return ordered[:limit]


def _named(session: HouseholdSession, query: str, filters: Filters) -> list[FoundFood]:
    """The foods a query names as a kitchen does, as the household has them."""
    lexicon = reference_lexicon()
    phrase = tuple(lexicon.spelt(word) for word in tokens_of(query[:120]))
    found = candidates(phrase, lexicon, literal=literals_of(query))
    keys = [c.key for c in found if not c.open_words][:NAMED_FIRST] or list(lexicon.nearest_to(phrase, found))
    foods = foods_of(session, set(keys))
    own = set(session.scalars(select(FoodRow.origin_key).where(FoodRow.origin_key.in_(keys)))) if keys else set()
    return [
        FoundFood(foods[key], key in own) for key in keys if not filters.is_on or filters.takes(entry_of(foods[key]))
    ]


def household_allergens(caller: Caller) -> frozenset[str]:
    """Allergens some eater of the household must not get."""
    with caller.transaction() as session:
        return frozenset(
            a
            for row in session.scalars(select(EaterRow.excluded_allergens).where(EaterRow.is_archived.is_(False)))
            for a in row
        )


def food_row(session: HouseholdSession, key: str) -> FoodRow | None:
    """The household's row for a key, or None: an origin in the reference table, or the row's own id."""
    row = session.scalar(select(FoodRow).where(FoodRow.origin_key == key))
    if row is None and (row_id := as_id(key)) is not None:
        row = session.find(FoodRow, row_id)
    return row


def food_by_key(caller: Caller, key: str) -> FoundFood:
    """One food by its key, the household's own row before the reference's.

    Raises:
        NotFound: when neither has it.
    """
    with caller.transaction() as session:
        row = food_row(session, key)
        if row is not None:
            return FoundFood(row.value(), True)
    try:
        return FoundFood(reference_foods()[key], False)
    except KeyError:
        raise NotFound("food") from None


@dataclass(frozen=True)
class UsingRecipe:
    """A recipe that uses a food; `has_changed` when the food's figures changed since, and nobody said which count."""

    id: UUID
    name: str
    has_changed: bool


@dataclass(frozen=True)
class FoodPage:
    """Everything known about one food.

    `label` is what was typed from a label, `reading` what it says. `typical` is the reference row it came from;
    `own_keys` the nutrients whose figures are not that row's any more. `raw_of` are foods that become this one.
    """

    food: Food
    is_household: bool
    version: int = 0
    label: Mapping[str, str] | None = None
    reading: LabelReading | None = None
    source_kind: str = REFERENCE
    figures_at: datetime | None = None
    typical: Food | None = None
    own_keys: frozenset[str] = frozenset()
    used_in: tuple[UsingRecipe, ...] = ()
    cooked: Food | None = None
    raw_of: tuple[Food, ...] = ()
    lighter: tuple[Food, ...] = ()


def food_page(caller: Caller, key: str) -> FoodPage:
    """One food with its label, its origin, where it is used, and its relatives.

    Raises:
        NotFound: when nobody knows it.
    """
    with caller.transaction() as session:
        row = food_row(session, key)
        if row is None:
            if key not in reference_foods():
                raise NotFound("food")
            return _with_relatives(session, FoodPage(reference_foods()[key], False, typical=reference_foods()[key]))
        food, typical = row.value(), reference_foods().get(row.origin_key or "")
        own_keys = frozenset[str]()
        if typical is not None:
            theirs = typical.composition.as_mapping()
            own_keys = frozenset(k for k, v in food.composition.as_mapping().items() if v != theirs[k])
        uses = session.execute(
            select(
                RecipeRow.id,
                RecipeRow.name,
                func.max(and_(LineRow.figures_version < row.figures_version, LineRow.keeps_figures.is_(False))),
            )
            .join(ComponentRow, ComponentRow.recipe_id == RecipeRow.id)
            .join(LineRow, LineRow.component_id == ComponentRow.id)
            .where(LineRow.food_id == row.id)
            .group_by(RecipeRow.id, RecipeRow.name)
            .order_by(RecipeRow.name)
        ).all()
        page = FoodPage(
            food,
            True,
            row.version,
            row.label,
            read_label(row.label) if row.label else None,
            row.source_kind,
            figures_at=row.figures_at,
            typical=typical,
            own_keys=own_keys,
            used_in=tuple(UsingRecipe(u[0], u[1], bool(u[2])) for u in uses),
        )
        return _with_relatives(session, page)


def _with_relatives(session: HouseholdSession, page: FoodPage) -> FoodPage:
    food = page.food
    keys = {food.cooked_key} - {None}
    cooked = next(iter(foods_of(session, {k for k in keys if k}).values()), None)
    own = [row.value() for row in session.scalars(select(FoodRow).where(FoodRow.cooked_key == food.key).limit(20))]
    raws = {f.key: f for f in (*(f for f in reference_foods().values() if f.cooked_key == food.key), *own)}
    alike = session.scalars(
        select(FoodRow).where(FoodRow.food_group == food.group, FoodRow.state == food.state).limit(500)
    )
    lighter = lighter_alike(food, [row.value() for row in alike])
    return replace(page, cooked=cooked, raw_of=tuple(raws.values())[:4], lighter=lighter)


def count_foods(caller: Caller) -> tuple[int, int]:
    """How many foods the household uses, and how many the reference table holds."""
    with caller.transaction() as session:
        return session.scalar(select(func.count(FoodRow.id))) or 0, len(reference_foods())


def foods_by_key(session: HouseholdSession, keys: set[str]) -> dict[str, FoodRow]:
    """The household's rows for these keys; reference foods are taken in on first use.

    Raises:
        NotFound: for a key that is in neither.
    """
    rows = rows_by_key(session, keys)
    for key in sorted(keys - rows.keys()):
        food = reference_foods().get(key)
        if food is None:
            raise NotFound("food")
        rows[key] = FoodRow.taken_in(session.household_id, food)
        session.add(rows[key])
    session.flush()
    return {key: rows[key] for key in keys}


def food_values(caller: Caller, keys: set[str]) -> dict[str, Food]:
    """Foods by key for computing, nothing taken in; keys nobody knows are left out."""
    with caller.transaction() as session:
        return foods_of(session, keys)


@dataclass(frozen=True)
class Measuring:
    """What is needed to weigh typed amounts: foods by key, the measures, the household's own set, raw partners."""

    foods: Mapping[str, Food]
    table: MeasureTable
    convention: str
    partners: Mapping[str, Partner]

    def weigh(self, typed: TypedAmount, food: Food, *, measure: str = "weighed", field: str = "amount") -> Weighed:
        """A typed amount of a food in g, by this household's measures; see `goodcrate.core.foods.measures.weigh`.

        What a row does not say of its bunches, slices and handfuls the tables of sizes do.
        """
        sized = None if _knows_itself(typed, food) else self._by_size(typed, food)
        if sized is not None:
            return sized
        try:
            return self._by_row(typed, food, measure, field)
        except InvalidInput:
            sized = self._by_size(typed, food)
            if sized is None:
                raise
            return sized

    def _by_size(self, typed: TypedAmount, food: Food) -> Weighed | None:
        scales = Scales(size_table(), self.table, self.convention)
        return None if typed.state else scales.weigh_typed(typed, food)

    def _by_row(self, typed: TypedAmount, food: Food, measure: str, field: str) -> Weighed:
        return weigh(
            typed,
            food,
            self.table,
            self.convention,
            measure=measure,
            raw_partner=self.partners.get(food.key),
            field=field,
        )


def _knows_itself(typed: TypedAmount, food: Food) -> bool:
    """Whether a row says what its own piece weighs: what a kitchen taught of it goes before any table of sizes."""
    if typed.kind != "count" or typed.unit in ("piece", SERVING):
        return True
    return food.each_g is not None and (not food.each_name or typed.unit in food.each_name.lower())


@cache
def _reference_partners() -> Mapping[str, Partner]:
    """The typical raw or dry food behind each cooked one; of several the last in the tables."""
    raws = (food for food in reference_foods().values() if food.cooked_key and food.cooked_yield is not None)
    return {str(raw.cooked_key): Partner(raw.name, raw.cooked_yield or 1.0) for raw in raws}


def measuring(caller: Caller, keys: set[str]) -> Measuring:
    """Foods by key with all that weighing their typed amounts needs; keys nobody knows are left out."""
    with caller.transaction() as session:
        return measuring_in(session, keys)


def measuring_in(session: HouseholdSession, keys: set[str]) -> Measuring:
    """The same inside the caller's transaction."""
    foods = foods_of(session, keys)
    cooked = frozenset(key for key, food in foods.items() if food.state == "cooked")
    return Measuring(foods, measure_table(), setup_of(session).convention, _partners_of(session, cooked))


_PARTNERS: Memo[Mapping[str, Partner]] = Memo(200)


def _partners_of(session: HouseholdSession, cooked: frozenset[str]) -> Mapping[str, Partner]:
    """The raw or dry food behind each cooked one; kept, since whoever types in a recipe asks for the same again
    and again."""
    if not cooked:
        return {}
    stamp = stamp_of(session)
    key = (session.household_id, stamp, cooked)
    kept = _PARTNERS.find(key)
    if kept is not None:
        return kept
    partners = {food: partner for food, partner in _reference_partners().items() if food in cooked}
    columns = (FoodRow.cooked_key, FoodRow.name, FoodRow.cooked_yield)
    own = session.execute(select(*columns).where(FoodRow.cooked_key.in_(cooked))).all()
    partners |= {str(food): Partner(name, factor) for food, name, factor in own if factor is not None}
    return _PARTNERS.put(key, partners) if is_settled(session) else partners


def food_by_barcode(caller: Caller, barcode: str) -> Food | None:
    """The household's food with this barcode, if it has one."""
    with caller.transaction() as session:
        row = session.scalar(select(FoodRow).where(FoodRow.barcode == barcode))
        return None if row is None else row.value()
