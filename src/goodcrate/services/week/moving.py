"""Meals moved and copied between the slots of a week."""

from dataclasses import dataclass
from datetime import date
from uuid import UUID

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import day_month
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.core.week.placings import serving_session, week_dates
from goodcrate.core.week.storing import PAST, keeping_of, stay_of
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.kitchen import setup_of
from goodcrate.services.recipes.library import recipe_values
from goodcrate.services.targets.household_eaters import slot_in
from goodcrate.services.week.instead import cooked_in
from goodcrate.services.week.placing import gave_way_to, live_placement, refuse_if_packed, standing_meals
from goodcrate.services.week.versions import pinned_versions
from goodcrate.services.week.week_targets import eater_in_week
from goodcrate.services.week.weeks import existing_week, take_turns


@dataclass(frozen=True)
class Place:
    """A slot of an eater on one day."""

    eater_id: UUID
    slot_id: UUID
    day: date


def move(caller: Caller, first_day: date, placement_id: UUID, to: Place) -> Place:
    """Move a meal to another slot; a meal that stands there changes places with it. Answers where it stood.

    Its planned session still cooks it as long as that is over by then and the box keeps; else the latest one does.

    Raises:
        NotFound: when week, meal, eater or slot is not the household's.
        InvalidInputs: when a box is packed, the day is not in the week, or an eater must not get what would come.
    """
    with caller.transaction() as session:
        week, row = _meal(session, first_day, placement_id)
        came_from = Place(row.eater_id, row.slot_id, row.day)
        eater = _check_place(session, week, to)
        if to == came_from:
            return came_from
        refuse_if_packed(session, row)
        _check_suits(session, week, row, eater)
        other = next(iter(standing_meals(session, to.eater_id, to.slot_id, {to.day})), None)
        if other is not None:
            refuse_if_packed(session, other)
            _check_suits(session, week, other, eater_in_week(session, week.id, row.eater_id))
            other.live = None
            session.flush()
        _put(session, week, row, to)
        session.flush()
        if other is not None:
            _put(session, week, other, came_from)
            other.live = 1
        return came_from


def copy(caller: Caller, first_day: date, placement_id: UUID, to: Place, copy_id: UUID) -> tuple[UUID, UUID | None]:
    """Place the same meal once more; a meal that stands there gives way. Answers the copy and what gave way.

    Sending it twice copies once.

    Raises:
        NotFound: when week, meal, eater or slot is not the household's.
        InvalidInputs: when the box there is packed, the day is not in the week, or the eater must not get it.
    """
    with caller.transaction() as session:
        week, row = _meal(session, first_day, placement_id)
        eater = _check_place(session, week, to)
        if to == Place(row.eater_id, row.slot_id, row.day):
            return row.id, None
        if session.find(PlacementRow, copy_id) is not None:
            return copy_id, next(iter(gave_way_to(session, copy_id)), None)
        _check_suits(session, week, row, eater)
        gave_way = next(iter(standing_meals(session, to.eater_id, to.slot_id, {to.day})), None)
        if gave_way is not None:
            refuse_if_packed(session, gave_way)
            gave_way.live, gave_way.gave_way_to = None, copy_id
            session.flush()
        fresh = PlacementRow(
            id=copy_id,
            week_id=week.id,
            eater_id=to.eater_id,
            slot_id=to.slot_id,
            recipe_id=row.recipe_id,
            day=to.day,
            servings=row.servings,
            version=1,
            cooked_in=row.cooked_in,
            is_frozen=row.is_frozen,
        )
        _put(session, week, fresh, to)
        session.add(fresh)
        return fresh.id, gave_way.id if gave_way else None


def _meal(session: HouseholdSession, first_day: date, placement_id: UUID) -> tuple[WeekRow, PlacementRow]:
    take_turns(session, first_day)
    week, row = existing_week(session, first_day), live_placement(session, placement_id)
    if row.week_id != week.id:
        raise NotFound("meal")
    return week, row


def _check_place(session: HouseholdSession, week: WeekRow, to: Place) -> Eater:
    eater = eater_in_week(session, week.id, to.eater_id)
    if slot_in(session, to.slot_id).eater_id != eater.id:
        raise NotFound("slot")
    dates = week_dates(week.first_day, week.days)
    if to.day not in dates:
        raise InvalidInputs(
            [
                InvalidInput(
                    "meal",
                    say("That day is not in this week."),
                    say("{first} to {last}.", first=day_month(dates[0]), last=day_month(dates[-1])),
                )
            ]
        )
    return eater


def _check_suits(session: HouseholdSession, week: WeekRow, row: PlacementRow, eater: Eater) -> None:
    if row.eater_id == eater.id:
        return
    value = recipe_values(session, {row.recipe_id}, pinned_versions(week))[row.recipe_id]
    recipe = value.recipe if row.from_box is not None else cooked_in(session, week.id, value.recipe)
    problem = why_not_for(eater.exclusions, for_eater(recipe, str(eater.id)))
    if problem:
        raise InvalidInputs([InvalidInput("meal", problem, say("It stays where it was."))])


def _put(session: HouseholdSession, week: WeekRow, row: PlacementRow, to: Place) -> None:
    """Stand in another slot; the batch it was planned from still cooks it where that keeps until then."""
    row.eater_id, row.slot_id, row.day = to.eater_id, to.slot_id, to.day
    if not _keeps_its_session(session, week, row):
        row.cooked_in, row.is_frozen = None, False


def _keeps_its_session(session: HouseholdSession, week: WeekRow, row: PlacementRow) -> bool:
    """Whether the session that was chosen for a meal is over before it is eaten, and its box not past the guidance."""
    chosen = next((s.value() for s in week.sessions if s.id == row.cooked_in), None)
    if chosen is None or serving_session([chosen], row.day, slot_in(session, row.slot_id).at) is None:
        return False
    value = recipe_values(session, {row.recipe_id}, pinned_versions(week))[row.recipe_id]
    keeping = keeping_of(
        for_eater(cooked_in(session, week.id, value.recipe), str(row.eater_id)),
        keep_groups(),
        setup_of(session).capacity.keep_rule,
    )
    if keeping is None:
        return False
    return stay_of(str(row.id), keeping, chosen.starts_at.date(), row.day, is_frozen=row.is_frozen).place != PAST
