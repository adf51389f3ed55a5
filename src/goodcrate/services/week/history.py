"""Closing weeks: what a week is judged by is kept with it when its last day is over, or when the cook closes it."""

from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import asdict
from datetime import date, time, timedelta
from uuid import UUID
from weakref import WeakKeyDictionary

from sqlalchemy import select

from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.errors import GoodCrateError, InvalidInput
from goodcrate.core.ground.nutrients import KEYS, Composition, Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.recipes.yields import learned_yield
from goodcrate.core.targets.day_target import NutrientBand
from goodcrate.core.targets.eater import DayType, Eater, Extra
from goodcrate.core.targets.slot import Slot
from goodcrate.core.targets.week_changes import TargetChange, changed
from goodcrate.core.week.judged_by import JudgedBy, KeptFigures
from goodcrate.db.cook import BatchLineRow, BatchRow
from goodcrate.db.foods import FoodRow, errors_of
from goodcrate.db.recipes import ComponentRow, LineRow, RecipeRow, VariantChangeRow
from goodcrate.db.session import Database, HouseholdSession
from goodcrate.db.stored import by_name
from goodcrate.db.targets import EaterRow
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.services.calling import Caller, NotFound, utc_now
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.kitchen import setup_of
from goodcrate.services.recipes.library import recipe_values
from goodcrate.services.week.week_targets import changes_of


def close_week(caller: Caller, first_day: date) -> None:
    """Close a week: it keeps today's targets, kinds of day, recipe versions and food figures. A closed one stays so.

    Raises:
        NotFound: when there is no such week.
    """
    with caller.transaction() as session:
        week = _locked(session, first_day)
        if week.closed_at is None:
            _close(session, week)


def open_again(caller: Caller, first_day: date, today: date) -> None:
    """Open a closed week whose last day is not over: it follows what is changed again.

    Raises:
        NotFound: when there is no such week.
        InvalidInput: when its last day is over: then it is history.
    """
    with caller.transaction() as session:
        week = _locked(session, first_day)
        if week.first_day + timedelta(days=week.days) <= today:
            raise InvalidInput("week", say("This week is over."), say("What it was judged by stays with it."))
        week.closed_at = week.judged_by = None


_SETTLED: WeakKeyDictionary[Database, dict[UUID, date]] = WeakKeyDictionary()
"""By household: the day on which its weeks that are over were closed; by then there is nothing more to do."""


def close_what_is_over(caller: Caller, today: date) -> None:
    """Close the weeks whose last day is over. To be called before anything of a household is changed on a day."""
    if is_settled(caller, today):
        return
    with caller.transaction() as session:
        for week in session.scalars(select(WeekRow).where(WeekRow.closed_at.is_(None)).with_for_update()):
            if week.first_day + timedelta(days=week.days) <= today:
                with suppress(GoodCrateError):  # one that cannot be read stays open, and no page waits for it
                    _close(session, week)
    _SETTLED.setdefault(caller.database, {})[caller.household_id] = today


def is_settled(caller: Caller, today: date) -> bool:
    """Whether this process closed the household's weeks that are over on this day."""
    return _SETTLED.get(caller.database, {}).get(caller.household_id) == today


def keep_up(session: HouseholdSession, week: WeekRow) -> None:
    """Keep with a closed week what came into it since; what was kept stays. Inside the caller's transaction."""
    if week.judged_by is None:
        return
    now, then = _judged_by(session, week), week.judged_by
    week.judged_by = {
        **then,
        "figures": {**now["figures"], **then["figures"]},
        "learned": {**now["learned"], **then["learned"]},
        "eaters": [*then["eaters"], *(e for e in now["eaters"] if e["id"] not in {k["id"] for k in then["eaters"]})],
    }


def judged_by(week: WeekRow) -> JudgedBy | None:
    """What a closed week is judged by; None while it is open.

    Raises:
        StoredOtherwise: naming what of it cannot be read.
    """
    kept = week.judged_by
    if kept is None:
        return None
    figures = {key: _figures(stored) for key, stored in kept["figures"].items()}
    return JudgedBy(
        tuple(_eater(stored, figures) for stored in kept["eaters"]),
        figures,
        {key: learned_yield(yields) for key, yields in kept["learned"].items()},
        kept["polyol_share"],
        kept["keep_rule"],
    )


def _locked(session: HouseholdSession, first_day: date) -> WeekRow:
    week = session.scalar(select(WeekRow).where(WeekRow.first_day == first_day).with_for_update())
    if week is None:
        raise NotFound("week")
    return week


def _close(session: HouseholdSession, week: WeekRow) -> None:
    ids = _recipe_ids(session, week)
    versions = session.execute(select(RecipeRow.id, RecipeRow.version).where(RecipeRow.id.in_(ids)))
    week.recipe_versions = {**{str(row.id): row.version for row in versions}, **week.recipe_versions}
    week.judged_by, week.closed_at = _judged_by(session, week), utc_now()


def _recipe_ids(session: HouseholdSession, week: WeekRow) -> set[UUID]:
    placed = set(session.scalars(select(PlacementRow.recipe_id).where(PlacementRow.week_id == week.id)))
    lent = select(ComponentRow.used_component_id).where(
        ComponentRow.recipe_id.in_(placed), ComponentRow.used_component_id.is_not(None)
    )
    return placed | set(session.scalars(select(ComponentRow.recipe_id).where(ComponentRow.id.in_(lent))))


def _judged_by(session: HouseholdSession, week: WeekRow) -> Document:
    ids, setup = _recipe_ids(session, week), setup_of(session)
    components = session.execute(
        select(ComponentRow.id, ComponentRow.learned).where(ComponentRow.recipe_id.in_(ids))
    ).all()
    eaters = session.scalars(select(EaterRow).order_by(EaterRow.position, EaterRow.name)).all()
    served = select(PlacementRow.eater_id, PlacementRow.slot_id).where(PlacementRow.week_id == week.id)
    recalled = {row.slot_id for row in session.execute(served)}
    changes = changes_of(session, week.id)
    food_ids = _food_ids(session, week, ids) | {extra.food_id for eater in eaters for extra in eater.extras}
    foods = session.scalars(select(FoodRow).where(FoodRow.id.in_(food_ids)))
    return {
        "eaters": [_stored_eater(row, recalled, changes) for row in eaters],
        "figures": {food.key: _stored_figures(food) for food in foods},
        "learned": {str(row.id): list(row.learned) for row in components},
        "polyol_share": setup.polyol_share,
        "keep_rule": setup.capacity.keep_rule,
    }


def _food_ids(session: HouseholdSession, week: WeekRow, recipe_ids: set[UUID]) -> set[UUID]:
    """The foods of its recipes, whatever version they stand in, and of its batches."""
    lines = (
        select(LineRow.food_id)
        .join(ComponentRow, ComponentRow.id == LineRow.component_id)
        .where(ComponentRow.recipe_id.in_(recipe_ids))
    )
    swapped = select(VariantChangeRow.food_id).where(
        VariantChangeRow.recipe_id.in_(recipe_ids), VariantChangeRow.food_id.is_not(None)
    )
    cooked = (
        select(BatchLineRow.food_id)
        .join(BatchRow, BatchRow.id == BatchLineRow.batch_id)
        .where(BatchRow.week_id == week.id)
    )
    found = {food_id for asked in (lines, swapped, cooked) for food_id in session.scalars(asked) if food_id}
    versions = {UUID(key): version for key, version in week.recipe_versions.items() if UUID(key) in recipe_ids}
    keys = {
        line.food.key for value in recipe_values(session, recipe_ids, versions).values() for line in value.recipe.lines
    }
    return found | {row.id for row in foods_by_key(session, keys).values()}


def _stored_figures(food: FoodRow) -> Document:
    return {
        "per_100_g": {key: getattr(food, key) for key in KEYS},
        "errors": food.figure_errors,
        "at_least": list(food.at_least or ()),
        "cooked_yield": food.cooked_yield,
    }


def _figures(stored: ReadDocument) -> KeptFigures:
    per_100_g = tuple(stored["per_100_g"].get(key) for key in KEYS)
    composition = Composition(per_100_g, errors_of(stored["errors"]), frozenset(stored["at_least"]))
    return KeptFigures(composition, stored["cooked_yield"])


def _stored_eater(row: EaterRow, recalled: Iterable[UUID], changes: Sequence[TargetChange]) -> Document:
    eater = changed(row.value(set(recalled)), changes)
    stored = {**asdict(eater), "id": str(eater.id)}
    stored["slots"] = [
        {**asdict(s), "id": str(s.id), "eater_id": str(s.eater_id), "at": s.at.isoformat()} for s in eater.slots
    ]
    stored["day_types"] = [{**asdict(d), "id": str(d.id)} for d in eater.day_types]
    stored["extras"] = [
        {"id": str(x.id), "text": x.text, "food": x.food.key, "grams": float(x.grams), "error_g": x.standard_error_g}
        for x in row.extras
    ]
    return stored


def _eater(stored: ReadDocument, figures: Mapping[str, KeptFigures]) -> Eater:
    slots = tuple(
        by_name(Slot, s, id=UUID(s["id"]), eater_id=UUID(s["eater_id"]), at=time.fromisoformat(s["at"]))
        for s in stored["slots"]
    )
    kinds = tuple(
        by_name(
            DayType,
            d,
            id=UUID(d["id"]),
            weekdays=tuple(d["weekdays"]),
            bands=tuple(by_name(NutrientBand, band) for band in d["bands"]),
        )
        for d in stored["day_types"]
    )
    extras = tuple(
        Extra(x["text"], Tally.of(figures[x["food"]].composition, x["grams"], x["error_g"], f"extra:{x['id']}"))
        for x in stored["extras"]
    )
    conditions = stored["conditions"]
    return by_name(
        Eater,
        stored,
        id=UUID(stored["id"]),
        day_types=kinds,
        slots=slots,
        extras=extras,
        excluded_allergens=tuple(stored["excluded_allergens"]),
        conditions=None if conditions is None else tuple(conditions),
    )
