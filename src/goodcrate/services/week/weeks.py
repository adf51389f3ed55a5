"""The week: opening one, its prep sessions, the versions of its recipes, and the whole picture worked out."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime, timedelta
from typing import Any, TypeVar
from uuid import UUID, uuid4, uuid5

from sqlalchemy import Text, func, select, type_coerce

from goodcrate.core.cook.batch_record import BatchRecord
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import dated, day_month
from goodcrate.core.portion.containers import Packing
from goodcrate.core.portion.week_outcome import BatchKey, WeekOutcome, week_outcome
from goodcrate.core.recipes.figures_shown import USUAL_FIGURES, FiguresShown
from goodcrate.core.recipes.keeping import storage_of
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.variants import for_eater, variant_recipe_key
from goodcrate.core.recipes.vessels import Vessel, holds_g
from goodcrate.core.targets import excluding
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.slot import Slot
from goodcrate.core.week.judged_by import JudgedBy
from goodcrate.core.week.meals import Meal, Week
from goodcrate.core.week.placings import (
    LONGEST_SESSION_MIN,
    LONGEST_WEEK_DAYS,
    USUAL_LENGTH_MIN,
    Placing,
    PrepSession,
    first_session,
    serving_session,
    week_dates,
    with_shared_components,
)
from goodcrate.core.week.storing import DishKeeping, Stay, keeping_of, stay_of
from goodcrate.db.changes import Kept, Memo, Shared
from goodcrate.db.cook import BatchRow, PotRow, WeighingRow, last_events
from goodcrate.db.foods import stamp_of
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.running import CookRunRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.targets import EaterRow
from goodcrate.db.week import PlacementRow, SessionRow, WeekRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller, NotFound, add_once, existing
from goodcrate.services.kitchen import Capacity, Setup, setup_of
from goodcrate.services.recipes.library import RecipeValue, recipe_values
from goodcrate.services.store.house import house_stays
from goodcrate.services.week.containers import packing_of
from goodcrate.services.week.history import judged_by
from goodcrate.services.week.instead import instead_of, recipes_instead
from goodcrate.services.week.versions import NewerRecipe, newer_recipes, pinned_versions
from goodcrate.services.week.week_targets import as_in_week

T = TypeVar("T")


@dataclass(frozen=True)
class WeekPicture(Shared):
    """Everything a week's pages show: what is saved, and core's working-out of them.

    It is shared by all who look at the week until something of it changes; `once` keeps what pages make of it, and of
    nothing else, beside it.
    """

    week: Week
    dates: tuple[date, ...]
    eaters: Sequence[Eater]
    sessions: Sequence[PrepSession]
    meals: Sequence[Meal]
    recipes: Mapping[str, Recipe]
    outcome: WeekOutcome
    newer: Sequence[NewerRecipe] = ()
    stays: Mapping[str, Stay] = field(default_factory=dict)
    capacity: Capacity = field(default_factory=Capacity)
    polyol_share: float = 0.5
    vessels: Sequence[Vessel] = ()
    shown: FiguresShown = USUAL_FIGURES
    packing: Packing = field(default_factory=lambda: Packing({}))


def week_of(caller: Caller, day: date) -> date | None:
    """The first day of the household's week that holds a day, or None."""
    with caller.transaction() as session:
        return week_in(session, day)


def week_in(session: HouseholdSession, day: date) -> date | None:
    """The same inside the caller's transaction."""
    return _DAYS.get(session, (day,), lambda: _week_of(session, day))


def _week_of(session: HouseholdSession, day: date) -> date | None:
    near = (WeekRow.first_day <= day, WeekRow.first_day > day - timedelta(days=LONGEST_WEEK_DAYS))
    starts = session.execute(select(WeekRow.first_day, WeekRow.days).where(*near)).all()
    return next((row.first_day for row in starts if day < row.first_day + timedelta(days=row.days)), None)


def _week_at(session: HouseholdSession, first_day: date) -> WeekRow | None:
    return session.scalar(select(WeekRow).where(WeekRow.first_day == first_day))


def open_week(caller: Caller, first_day: date, days: int = 7, today: date | None = None) -> None:
    """Start a week with a prep session on the afternoon before it; an existing one stays as it is.

    When that afternoon is over on `today`, its first session is this afternoon.

    Raises:
        InvalidInput: when it is not 1 to 14 days long or years away, or its days belong to another week.
    """
    week_dates(first_day, days)
    if not 2000 <= first_day.year <= 2200:
        problem = say("{day} is too far away.", day=dated(first_day))
        raise InvalidInput("first_day", problem, say("Choose a week of these years."))
    last_day = first_day + timedelta(days=days - 1)
    with caller.transaction() as session:
        for week in session.scalars(select(WeekRow)):
            if week.first_day == first_day:
                return
            if week.first_day <= last_day and first_day <= week.first_day + timedelta(days=week.days - 1):
                whose = say("These days belong to the week from {day}.", day=day_month(week.first_day))
                raise InvalidInput("first_day", whose)
        week_id = uuid5(caller.household_id, f"week:{first_day.isoformat()}")
        row = WeekRow(id=week_id, first_day=first_day, days=days)
        now = today if today is not None and today <= last_day else first_day - timedelta(days=1)
        starts_at = first_session(first_day, now)
        if add_once(session, row):
            session.add(SessionRow(id=uuid5(week_id, "first-session"), week_id=week_id, starts_at=starts_at))


def add_session(caller: Caller, first_day: date, starts_at: datetime, length_min: int = USUAL_LENGTH_MIN) -> None:
    """Add a prep session to a week; one that starts at the same time is already there. Its food is ready when it is
    over, until something says better.

    Raises:
        NotFound: when there is no such week.
        InvalidInput: when it lies outside the week and the three days before it.
    """
    with caller.transaction() as session:
        add_session_in(session, existing_week(session, first_day), starts_at, length_min)


def add_session_in(
    session: HouseholdSession, week: WeekRow, starts_at: datetime, length_min: int = USUAL_LENGTH_MIN
) -> None:
    """The same inside the caller's transaction.

    Raises:
        InvalidInput: when it lies outside the week and the three days before it.
    """
    earliest = week.first_day - timedelta(days=3)
    if not earliest <= starts_at.date() < week.first_day + timedelta(days=week.days):
        wanted = say("From {day} to the week’s last day.", day=day_month(earliest))
        raise InvalidInput("starts_at", say("This is outside the week."), wanted)
    if not 1 <= length_min <= LONGEST_SESSION_MIN:
        problem = say("{minutes} min is not possible.", minutes=length_min)
        raise InvalidInput("length_min", problem, say("1 to {most} min.", most=LONGEST_SESSION_MIN))
    starts_at = starts_at.replace(second=0, microsecond=0)
    session_id = uuid5(week.id, starts_at.isoformat())
    add_once(session, SessionRow(id=session_id, week_id=week.id, starts_at=starts_at, length_min=length_min))


def take_session_out(caller: Caller, first_day: date, session_id: UUID) -> None:
    """Take a prep session out of a week, if it is there.

    Raises:
        NotFound: when there is no such week.
        InvalidInput: when one of its batches was started.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        week = existing_week(session, first_day)
        row = session.find(SessionRow, session_id)
        if row is None or row.week_id != week.id:
            return
        begun = (select(kind.id).where(kind.session_id == row.id).limit(1) for kind in (BatchRow, CookRunRow))
        if any(session.scalar(asked) for asked in begun):
            raise InvalidInput("session", say("Cooking has started in this session."), say("It stays."))
        session.delete(row)


def existing_week(session: HouseholdSession, first_day: date) -> WeekRow:
    """The week that starts on a day, inside the caller's transaction.

    Raises:
        NotFound: when there is none.
    """
    week = _week_at(session, first_day)
    if week is None:
        raise NotFound("week")
    return week


def take_turns(session: HouseholdSession, first_day: date) -> None:
    """Have a week's pots and slots to oneself until the transaction ends.

    To be called first: what is read afterwards then already holds what the one before wrote.
    """
    session.execute(select(WeekRow.id).where(WeekRow.first_day == first_day).with_for_update())


def take_new_version(caller: Caller, first_day: date, recipe_id: UUID) -> None:
    """Let a week follow a recipe's present version.

    Raises:
        NotFound: when there is no such week or recipe.
        InvalidInput: when one of its batches is being cooked, or the week is closed.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        week = existing_week(session, first_day)
        row = existing(session, RecipeRow, recipe_id, "recipe")
        if week.closed_at is not None:
            raise InvalidInput("recipe", say("This week is closed."), say("It keeps {name} as it was.", name=row.name))
        begun = select(BatchRow.id).where(BatchRow.week_id == week.id, BatchRow.recipe_id == recipe_id).limit(1)
        if session.scalar(begun) is not None:
            raise InvalidInput(
                "recipe", say("{name} is being cooked in this week.", name=row.name), say("It stays as it was planned.")
            )
        week.recipe_versions = {**week.recipe_versions, str(row.id): row.version}


def remarks_on(eater: Eater, slot: Slot, recipe: Recipe, tags: Collection[str]) -> tuple[str, ...]:
    """What is worth saying before a recipe stands in a slot (`goodcrate.core.targets.excluding.remarks`)."""
    reheats = [storage_of(c, recipe.steps, keep_groups()).reheat for c in recipe.components if c.lines]
    return excluding.remarks(
        eater.exclusions, recipe, tags, reheats, slot=slot.name, is_cold=slot.must_be_cold, travels=slot.travels
    )


def week_picture(caller: Caller, first_day: date) -> WeekPicture | None:
    """The whole week worked out, or None when it was never opened; kept until something of it changes."""
    with caller.transaction() as session:
        return picture_in(session, first_day)


def picture_in(session: HouseholdSession, first_day: date) -> WeekPicture | None:
    """The same inside the caller's transaction, as that sees the week."""

    def planned() -> _Planned | None:
        week = _week_at(session, first_day)
        return None if week is None else _planned(session, week)

    def worked_out() -> WeekPicture | None:
        known = _PLANNED.get(session, (first_day,), planned)
        return None if known is None else _worked_out(session, known)

    return _PICTURES.get(session, (first_day,), worked_out)


def existing_picture(session: HouseholdSession, first_day: date) -> WeekPicture:
    """The picture of a week that is there, inside the caller's transaction.

    Raises:
        NotFound: when there is none.
    """
    picture = picture_in(session, first_day)
    if picture is None:
        raise NotFound("week")
    return picture


def load_picture(session: HouseholdSession, week: WeekRow) -> WeekPicture:
    """The picture of a week whose row is held already; inside the caller's transaction, and kept for nobody."""
    return _worked_out(session, _planned(session, week))


@dataclass(frozen=True)
class _Planned:
    """A week as far as nothing of it depends on what is begun, weighed and packed."""

    week: Week
    sessions: tuple[PrepSession, ...]
    eaters: list[Eater]
    meals: list[Meal]
    values: Mapping[UUID, RecipeValue]
    recipes: Mapping[str, Recipe]
    placings: tuple[Placing, ...]
    setup: Setup
    judged: JudgedBy | None = None
    instead: frozenset[tuple[str, str]] = frozenset()

    @property
    def packing(self) -> Packing:
        """The containers of its own boxes."""
        vessels = self.setup.vessels
        return packing_of(self.meals, self.placings, self.recipes, self.sessions, vessels, made_of=self.made_of)

    @property
    def made_of(self) -> object:
        """All that its recipes depend on: their versions and figures, and what it is judged by once it is closed."""
        kept = self.judged
        judged = None if kept is None else (self.week.id, self.week.closed_at, len(kept.figures), len(kept.eaters))
        return frozenset(v.key for v in self.values.values()), judged, self.instead


_DAYS: Kept[date | None] = Kept(200)
_PICTURES: Kept[WeekPicture | None] = Kept(64)
_PLANNED: Kept[_Planned | None] = Kept(64)


def _planned(session: HouseholdSession, week: WeekRow) -> _Planned:
    rows = session.scalars(select(PlacementRow).where(PlacementRow.week_id == week.id, PlacementRow.live == 1))
    placements = [row.value() for row in rows]
    judged = judged_by(week)
    eaters = _eaters_of(session, week, placements, judged)
    values = recipe_values(session, {p.recipe_id for p in placements}, pinned_versions(week))
    instead = instead_of(session, week.id)
    shared = with_shared_components({str(row_id): value.recipe for row_id, value in values.items()})
    recipes = recipes_instead(shared, instead)
    if judged is not None:
        recipes = {key: judged.recipe(recipe) for key, recipe in recipes.items()}
        shared = {key: judged.recipe(recipe) for key, recipe in shared.items()}
    slots = {slot.id: (eater_place, slot) for eater_place, eater in enumerate(eaters) for slot in eater.slots}
    sessions = tuple(s.value() for s in week.sessions)
    placings = []
    ordered = sorted(placements, key=lambda p: (p.day, slots[p.slot_id][0], slots[p.slot_id][1].position))
    for p in ordered:
        chosen = [s for s in sessions if s.key == str(p.cooked_in)]
        served_by = None
        if p.from_box is None:
            served_by = serving_session(chosen or sessions, p.day, slots[p.slot_id][1].at)
        made_as = recipes[str(p.recipe_id)] if p.from_box is None else _as_boxed(recipes, shared, str(p.recipe_id))
        recipe = for_eater(made_as, str(p.eater_id))
        recipes.setdefault(recipe.key, recipe)
        placings.append(Placing(str(p.id), recipe.key, p.servings, served_by.key if served_by else None))
    setup = setup_of(session)
    if judged is not None:
        capacity = replace(setup.capacity, keep_rule=judged.keep_rule)
        setup = replace(setup, polyol_share=judged.polyol_share, capacity=capacity)
    return _Planned(
        week.value(),
        sessions,
        eaters,
        ordered,
        values,
        recipes,
        placings=tuple(placings),
        setup=setup,
        judged=judged,
        instead=frozenset((key, food.key) for key, food in instead.items()),
    )


def _as_boxed(recipes: Mapping[str, Recipe], shared: Mapping[str, Recipe], key: str) -> Recipe:
    """A recipe as a box of the house was cooked by it: without what this week takes instead."""
    same = all(a.food.key == b.food.key for a, b in zip(recipes[key].lines, shared[key].lines, strict=True))
    return recipes[key] if same else replace(shared[key], key=variant_recipe_key(key, "house"))


def _worked_out(session: HouseholdSession, known: _Planned) -> WeekPicture:
    week, setup, recipes, ordered = known.week, known.setup, known.recipes, known.meals
    outcome = _outcome(session, known)
    newer = [] if week.is_closed else newer_recipes(session, week, set(known.values))
    dates = week_dates(week.first_day, week.days)
    keeping = _keeping_of(known.made_of, recipes, setup.capacity.keep_rule)
    stays = _stays(ordered, outcome, keeping, {s.key: s.starts_at.date() for s in known.sessions})
    stays |= house_stays(session, ordered, recipes, setup.capacity.keep_rule)
    return WeekPicture(
        week,
        dates,
        known.eaters,
        known.sessions,
        ordered,
        recipes,
        outcome=outcome,
        newer=newer,
        stays=stays,
        capacity=setup.capacity,
        polyol_share=setup.polyol_share,
        vessels=setup.vessels,
        shown=setup.shown,
        packing=known.packing,
    )


def _eaters_of(session: HouseholdSession, week: WeekRow, meals: Sequence[Meal], judged: JudgedBy | None) -> list[Eater]:
    """Who eats in a week: those of today, and those put aside who have meals there; with the slots that hold them. In a
    closed week those of then."""
    served = {p.eater_id for p in meals}
    known = session.scalars(select(EaterRow).order_by(EaterRow.position, EaterRow.name))
    recalled = {p.slot_id for p in meals}
    present = tuple(eater.value(recalled) for eater in known if not eater.is_archived or eater.id in served)
    return as_in_week(session, week.id, present) if judged is None else list(judged.who(present, frozenset(served)))


def _stays(
    placements: Sequence[Meal],
    outcome: WeekOutcome,
    keeping: Mapping[str, DishKeeping | None],
    cooked_on: Mapping[str, date],
) -> dict[str, Stay]:
    """Where each box waits, by placing; a meal that no session cooks has none."""
    stays = {}
    for p in placements:
        placing = outcome.boxes[str(p.id)].placing
        dish = keeping[placing.recipe_key]
        if dish is not None and placing.session_key is not None:
            on = cooked_on[placing.session_key]
            stays[placing.key] = stay_of(placing.key, dish, on, p.day, is_frozen=p.is_frozen)
    return stays


def _keeping_of(made_of: object, recipes: Mapping[str, Recipe], rule: str) -> Mapping[str, DishKeeping | None]:
    """How each recipe of a week keeps, kept under the versions they are of."""
    whole = (made_of, frozenset(recipes), rule)
    known = _KEEPING.find(whole)
    if known is None:
        known = {key: keeping_of(recipe, keep_groups(), rule) for key, recipe in recipes.items()}
        _KEEPING.put(whole, known)
    return known


_KEEPING: Memo[Mapping[str, DishKeeping | None]] = Memo(64)
_OUTCOMES: Memo[WeekOutcome] = Memo(64)
_LATEST: Memo[WeekOutcome] = Memo(64)
"""The last outcome of the same placings and recipes, whatever was weighed since: what is unchanged is taken from it."""
_RECORDS: Memo[tuple[BatchKey, BatchRecord]] = Memo(600)


_OF_A_BATCH = (
    BatchRow.id,
    BatchRow.started_at,
    BatchRow.pieces,
    BatchRow.piece_kind,
    BatchRow.step_g,
    BatchRow.short_for,
    type_coerce(BatchRow.marks, Text),
)
"""What a batch's record depends on besides its log and its pots; its id comes first."""


def _outcome(session: HouseholdSession, known: _Planned) -> WeekOutcome:
    """Core's working-out, kept under all it depends on: placings, recipe versions, and how far each log and
    its pots have come.

    A batch's start belongs to the key: one that was begun and rolled back had other planned weights.
    """
    pots, used = (
        select(counted).where(PotRow.batch_id == BatchRow.id).scalar_subquery()
        for counted in (func.count(PotRow.id), func.sum(PotRow.live))
    )
    logs = session.execute(
        select(*_OF_A_BATCH, func.max(WeighingRow.seq), pots, used)
        .outerjoin(WeighingRow, WeighingRow.batch_id == BatchRow.id)
        .where(BatchRow.week_id == known.week.id)
        .group_by(*_OF_A_BATCH)
    )
    holds = {key: holds_g(container) for key, container in known.packing.by_key.items()}
    same = (known.placings, known.made_of, frozenset(holds.items()))
    key = (*same, frozenset(tuple(log) for log in logs))
    outcome = _OUTCOMES.find(key)
    if outcome is None:
        records = _records(session, key[-1])
        if known.judged is not None:
            lines = known.judged.line
            records = {k: replace(r, lines=tuple(map(lines, r.lines))) for k, r in records.items()}
        outcome = week_outcome(known.placings, known.recipes.values(), records, _LATEST.find(same), holds_g=holds)
        _LATEST.put(same, _OUTCOMES.put(key, outcome))
    return outcome


def _records(session: HouseholdSession, logs: frozenset[tuple[Any, ...]]) -> dict[BatchKey, BatchRecord]:
    """The records of batches by how far their logs have come: those that went no further are the same values."""
    stamp = stamp_of(session)
    whole = {log[0]: (session.household_id, *log, stamp) for log in logs}
    found = {batch_id: there for batch_id, where in whole.items() if (there := _RECORDS.find(where)) is not None}
    if missing := whole.keys() - found.keys():
        events = last_events(session, *missing)
        for row in session.scalars(select(BatchRow).where(BatchRow.id.in_(missing))):
            record = ((str(row.session_id), str(row.component_id)), row.record(events[row.id]))
            found[row.id] = _RECORDS.put(whole[row.id], record)
    return dict(found.values())


def new_id() -> UUID:
    """An id for a form that creates something: sent back with it, so that sending twice creates once."""
    return uuid4()
