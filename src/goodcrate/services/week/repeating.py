"""Weeks repeated: last week or a saved pattern into this week's gaps, shifted by days, one kind of dish for another."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from uuid import UUID, uuid4, uuid5

from sqlalchemy import delete, select

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import day_of, id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.recipes.exchanging import KINDS, Dish, kind_of, stand_in
from goodcrate.core.recipes.instead import with_instead
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.core.targets.slot import Slot
from goodcrate.core.week.placings import week_dates
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.targets import EaterRow
from goodcrate.db.week import PatternRow, PlacementRow, WeekRow
from goodcrate.services.calling import Caller, NotFound, add_once, existing, utc_now
from goodcrate.services.recipes.library import recipe_values
from goodcrate.services.week.instead import instead_of
from goodcrate.services.week.placing import PlaceInput, place_in
from goodcrate.services.week.weeks import existing_week, take_turns

MOST_PATTERNS = 60


@dataclass(frozen=True)
class Repeat:
    """What to repeat: a week by its first day or a pattern by its id, moved on by days, one kind for another.

    Meals get ids from `sent`: done twice, each stands once.
    """

    source: str
    shift: int = 0
    instead_of: str = ""
    take: str = ""
    sent: UUID = field(default_factory=uuid4)


@dataclass(frozen=True)
class Repeated:
    """What came, and what did not with the reason in words."""

    placed: tuple[UUID, ...]
    left_out: tuple[str, ...]


@dataclass(frozen=True)
class Sources:
    """What can be repeated: earlier weeks with meals (newest first), and patterns by name."""

    weeks: tuple[tuple[date, int], ...]
    patterns: tuple[tuple[UUID, str, int], ...]


def sources(caller: Caller, first_day: date) -> Sources:
    """Weeks and patterns that this week could repeat."""
    with caller.transaction() as session:
        weeks = []
        others = select(WeekRow).where(WeekRow.first_day != first_day).order_by(WeekRow.first_day.desc())
        for row in session.scalars(others.limit(30)):
            meals = len(_meals_of(session, row))
            if meals:
                weeks.append((row.first_day, meals))
        rows = session.scalars(select(PatternRow).order_by(PatternRow.name))
        return Sources(tuple(weeks[:12]), tuple((row.id, row.name, len(row.meals)) for row in rows))


def save_pattern(caller: Caller, first_day: date, pattern_id: UUID, name: str) -> None:
    """Keep a week's meals as a pattern. Sending it twice keeps one.

    Raises:
        NotFound: when there is no such week.
        InvalidInput: without a name, for a week without meals, or more patterns than anybody looks through.
    """
    with caller.transaction() as session:
        week = existing_week(session, first_day)
        meals = _meals_of(session, week)
        if not 1 <= len(name.strip()) <= 80:
            raise InvalidInput("pattern_name", say("A pattern needs a name."), say("Such as “training week”."))
        if not meals:
            raise InvalidInput("pattern_name", say("This week has no meal to repeat."), say("Place some first."))
        if len(session.scalars(select(PatternRow.id)).all()) >= MOST_PATTERNS:
            raise InvalidInput(
                "pattern_name",
                say("There are {MOST_PATTERNS} patterns.", MOST_PATTERNS=MOST_PATTERNS),
                say("Remove one first."),
            )
        row = PatternRow(id=pattern_id, name=name.strip(), days=week.days, meals=meals, saved_at=utc_now())
        add_once(session, row)


def remove_pattern(caller: Caller, pattern_id: UUID) -> None:
    """Forget a pattern, if it is there; the weeks made of it stay."""
    with caller.transaction() as session:
        session.execute(delete(PatternRow).where(PatternRow.id == pattern_id))


def repeat(caller: Caller, first_day: date, wanted: Repeat) -> Repeated:
    """Fill the gaps of a week from another one. What stands there stays.

    Raises:
        NotFound: when there is no such week, or nothing to repeat.
        InvalidInputs: for a shift or kinds that cannot be.
    """
    faults = []
    if not -13 <= wanted.shift <= 13:
        faults.append(
            InvalidInput("shift", say("{shift} days is not possible.", shift=wanted.shift), say("From −13 to 13."))
        )
    if bool(wanted.instead_of) != bool(wanted.take) or not {wanted.instead_of, wanted.take} <= {"", *KINDS}:
        faults.append(InvalidInput("take", say("Say what to take instead of what."), say("Choose both, or none.")))
    if faults:
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        take_turns(session, first_day)
        week = existing_week(session, first_day)
        meals = _source(session, wanted.source)
        return _Repeating(session, week, wanted).fill(meals)


def _source(session: HouseholdSession, source: str) -> Sequence[Document]:
    if (first_day := day_of(source)) is not None:
        return _meals_of(session, existing_week(session, first_day))
    if (pattern_id := id_of(source)) is not None:
        return existing(session, PatternRow, pattern_id, "pattern").meals
    raise NotFound("week")


def _meals_of(session: HouseholdSession, week: WeekRow) -> list[Document]:
    rows = session.scalars(
        select(PlacementRow)
        .where(PlacementRow.week_id == week.id, PlacementRow.live == 1)
        .order_by(PlacementRow.day, PlacementRow.id)
    )
    return [
        {
            "day": (p.day - week.first_day).days,
            "eater": str(p.eater_id),
            "slot": str(p.slot_id),
            "recipe": str(p.recipe_id),
            "servings": p.servings,
        }
        for p in rows
    ]


class _Repeating:
    """One repeat under way."""

    def __init__(self, session: HouseholdSession, week: WeekRow, wanted: Repeat) -> None:
        self.session, self.week, self.wanted = session, week, wanted
        self.dates = week_dates(week.first_day, week.days)
        heads = session.execute(select(RecipeRow.id, RecipeRow.tags, RecipeRow.is_archived)).all()
        values = recipe_values(session, {h.id for h in heads})
        instead = instead_of(session, week.id)
        self.recipes = {h.id: with_instead(values[h.id].recipe, instead) for h in heads if h.id in values}
        self.library = [(self.recipes[h.id], frozenset(h.tags)) for h in heads if not h.is_archived and h.id in values]
        self.eaters = {
            e.id: e
            for e in (row.value() for row in session.scalars(select(EaterRow).where(EaterRow.is_archived.is_(False))))
        }
        self.slots = {s.id: s for e in self.eaters.values() for s in e.slots}
        self.left_out: list[str] = []

    def fill(self, meals: Sequence[Document]) -> Repeated:
        standing = {
            (p.eater_id, p.slot_id, p.day): p.id
            for p in self.session.scalars(
                select(PlacementRow).where(PlacementRow.week_id == self.week.id, PlacementRow.live == 1)
            )
        }
        rows: dict[tuple[UUID, UUID, UUID, float], list[date]] = {}
        for meal in meals:
            eater, slot = self.eaters.get(UUID(meal["eater"])), self.slots.get(UUID(meal["slot"]))
            day = self.week.first_day + timedelta(days=meal["day"] + self.wanted.shift)
            if eater is None or slot is None or day not in self.dates:
                continue
            stands = standing.get((eater.id, slot.id, day))
            if stands is not None and stands != self._id_of(eater.id, slot.id, day):
                continue
            found = self._meal(eater, slot, UUID(meal["recipe"]), meal["servings"])
            if found is not None:
                rows.setdefault((eater.id, slot.id, *found), []).append(day)
        placed: list[UUID] = []
        for (eater_id, slot_id, recipe_id, servings), days in rows.items():
            there = uuid5(self.wanted.sent, f"{eater_id}:{slot_id}")
            typed = PlaceInput(there, eater_id, slot_id, recipe_id, servings, tuple(days))
            place_in(self.session, self.week.first_day, typed)
            placed += [self._id_of(eater_id, slot_id, day) for day in days]
        return Repeated(tuple(placed), tuple(dict.fromkeys(self.left_out)))

    def _id_of(self, eater_id: UUID, slot_id: UUID, day: date) -> UUID:
        return uuid5(uuid5(self.wanted.sent, f"{eater_id}:{slot_id}"), day.isoformat())

    def _meal(self, eater: Eater, slot: Slot, recipe_id: UUID, servings: float) -> tuple[UUID, float] | None:
        """The recipe and servings for a slot, its stand-in where one kind is to be taken for another."""
        if recipe_id not in self.recipes:
            self.left_out.append(say("A recipe is not there any more."))
            return None
        recipe = for_eater(self.recipes[recipe_id], str(eater.id))
        if self.wanted.take and kind_of(recipe) == self.wanted.instead_of:
            return self._stand_in(eater, slot, recipe, servings)
        problem = why_not_for(eater.exclusions, recipe)
        if problem is not None:
            self.left_out.append(problem)
            return None
        return recipe_id, servings

    def _stand_in(self, eater: Eater, slot: Slot, recipe: Recipe, servings: float) -> tuple[UUID, float] | None:
        kcal, protein = _figures(recipe)
        dishes = []
        for base, tags in self.library:
            own = for_eater(base, str(eater.id))
            if slot.suits(tags) and why_not_for(eater.exclusions, own) is None:
                dishes.append(Dish(base.key, base.name, kind_of(own), *_figures(own)))
        found = stand_in(self.wanted.take, kcal * servings, protein * servings, dishes)
        if found is None:
            words = say(
                "No recipe with {KINDS} can stand in {first_name}’s {name} for",
                KINDS=KINDS[self.wanted.take],
                first_name=eater.first_name,
                name=slot.name,
            )
            self.left_out.append(f"{words} {recipe.name}.")
            return None
        return UUID(found[0].recipe_key), found[1]


def _figures(recipe: Recipe) -> tuple[float, float]:
    """Energy (kcal) and protein (g) of a serving."""
    tally = serving_of(recipe).tally
    return tally.amount("energy_kcal").value, tally.amount("protein_g").value
