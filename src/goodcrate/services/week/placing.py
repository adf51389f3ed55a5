"""Placing meals: into a slot, larger or smaller, away and back; what is packed keeps its place."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import day_month, short
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.core.week.placings import kept_servings, week_dates
from goodcrate.db.cook import BatchRow
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxRow
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.services.calling import Caller, NotFound, StaleWrite, existing, older_than, saying_again
from goodcrate.services.recipes.library import recipe_values
from goodcrate.services.store.boxes import boxes_with
from goodcrate.services.targets.household_eaters import slot_in
from goodcrate.services.week.history import keep_up
from goodcrate.services.week.instead import cooked_in
from goodcrate.services.week.versions import pinned_versions
from goodcrate.services.week.week_targets import eater_in_week
from goodcrate.services.week.weeks import existing_week, take_turns

SMALLEST_SERVINGS, LARGEST_SERVINGS = 0.1, 10.0


@dataclass(frozen=True)
class PlaceInput:
    """One recipe to put into one slot on chosen days. `id` is made by the client; days get ids of their own from it."""

    id: UUID
    eater_id: UUID
    slot_id: UUID
    recipe_id: UUID
    servings: float
    days: tuple[date, ...]
    cooked_in: UUID | None = None
    is_frozen: bool = False
    from_job: UUID | None = None
    from_box: UUID | None = None


def place(caller: Caller, first_day: date, typed: PlaceInput) -> list[UUID]:
    """Put a recipe into a slot on one or more days; a meal that stands there gives way. Sending it twice places once.

    Raises:
        NotFound: when week, eater, slot or recipe is not the household's.
        InvalidInputs: for portions or days that cannot be, or a recipe the eater must not get.
        StaleWrite: when somebody filled the same slot at the same moment.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        return place_in(session, first_day, typed)


def place_in(session: HouseholdSession, first_day: date, typed: PlaceInput) -> list[UUID]:
    """The same inside the caller's transaction, which took its turn.

    Raises:
        NotFound: as `place` does.
        InvalidInputs: as `place` does.
        StaleWrite: as `place` does.
    """
    week = existing_week(session, first_day)
    eater = eater_in_week(session, week.id, typed.eater_id)
    slot = slot_in(session, typed.slot_id)
    recipe_row = existing(session, RecipeRow, typed.recipe_id, "recipe")
    if slot.eater_id != eater.id:
        raise NotFound("slot")
    _check_servings(typed.servings)
    dates = week_dates(week.first_day, week.days)
    if not typed.days or not set(typed.days) <= set(dates):
        raise InvalidInputs(
            [
                InvalidInput(
                    "days",
                    say("Choose days of this week."),
                    say("{first} to {last}.", first=day_month(dates[0]), last=day_month(dates[-1])),
                )
            ]
        )
    _pin_version(session, week, recipe_row)
    value = recipe_values(session, {recipe_row.id}, pinned_versions(week))[recipe_row.id]
    recipe = value.recipe if typed.from_box is not None else cooked_in(session, week.id, value.recipe)
    problem = why_not_for(eater.exclusions, for_eater(recipe, str(eater.id)))
    if problem:
        raise InvalidInputs([InvalidInput("recipe", problem, say("Choose another recipe."))])
    by_day = {uuid5(typed.id, day.isoformat()): day for day in typed.days}
    sent_before = {row.id: row for row in session.scalars(select(PlacementRow).where(PlacementRow.id.in_(by_day)))}
    revived = {row_id: row for row_id, row in sent_before.items() if typed.from_job and row.live is None}
    fresh = {row_id: day for row_id, day in by_day.items() if row_id not in sent_before or row_id in revived}
    for standing in standing_meals(session, eater.id, slot.id, set(fresh.values())):
        refuse_if_packed(session, standing)
        standing.live = None
    session.flush()
    for row_id, day in fresh.items():
        if row_id in revived:  # taken from a plan before, and taken out since
            revived[row_id].live, revived[row_id].servings = 1, kept_servings(typed.servings)
            continue
        session.add(_placement(week, typed, row_id, day))
    try:
        session.flush()
    except IntegrityError:
        raise StaleWrite("slot", 0) from None
    keep_up(session, week)
    return list(fresh)


def _placement(week: WeekRow, typed: PlaceInput, row_id: UUID, day: date) -> PlacementRow:
    return PlacementRow(
        id=row_id,
        week_id=week.id,
        eater_id=typed.eater_id,
        slot_id=typed.slot_id,
        recipe_id=typed.recipe_id,
        day=day,
        servings=kept_servings(typed.servings),
        version=1,
        cooked_in=typed.cooked_in,
        is_frozen=typed.is_frozen,
        from_job=typed.from_job,
        from_box=typed.from_box,
    )


def gave_way_to(session: HouseholdSession, copy_id: UUID) -> list[UUID]:
    """The meals a copy took the place of."""
    return list(session.scalars(select(PlacementRow.id).where(PlacementRow.gave_way_to == copy_id)))


def _pin_version(session: HouseholdSession, week: WeekRow, recipe: RecipeRow) -> None:
    """A week keeps the version a recipe had when it was first placed; one that is not in it any more is taken anew."""
    owners = {c.used.recipe_id for c in recipe.components if c.used is not None}
    for row in [recipe, *session.scalars(select(RecipeRow).where(RecipeRow.id.in_(owners)))]:
        if str(row.id) in week.recipe_versions and (row is not recipe or _is_in_week(session, week, row.id)):
            continue
        week.recipe_versions = {**week.recipe_versions, str(row.id): row.version}


def _is_in_week(session: HouseholdSession, week: WeekRow, recipe_id: UUID) -> bool:
    placed = select(PlacementRow.id).where(
        PlacementRow.week_id == week.id, PlacementRow.recipe_id == recipe_id, PlacementRow.live == 1
    )
    cooked = select(BatchRow.id).where(BatchRow.week_id == week.id, BatchRow.recipe_id == recipe_id)
    return any(session.scalar(found.limit(1)) is not None for found in (placed, cooked))


def change_servings(caller: Caller, placement_id: UUID, servings: float, version: int) -> None:
    """Make a placed meal larger or smaller.

    Raises:
        NotFound: when it is not the household's or was taken away.
        InvalidInputs: when the servings cannot be.
        StaleWrite: when somebody changed it in the meantime.
    """
    _check_servings(servings)
    with _at_its_week(caller, placement_id) as session:
        row = live_placement(session, placement_id)
        with saying_again(session, older_than("meal", row.version, version)):
            row.servings, row.servings_before = kept_servings(servings), None


@contextmanager
def _at_its_week(caller: Caller, placement_id: UUID) -> Iterator[HouseholdSession]:
    """A transaction that has a meal's week to itself. Everybody locks the week first: so nobody waits in a circle.

    Raises:
        NotFound: when the meal is not the household's.
    """
    with caller.transaction() as session:
        week = session.scalar(
            select(WeekRow.first_day)
            .join(PlacementRow, PlacementRow.week_id == WeekRow.id)
            .where(PlacementRow.id == placement_id)
        )
    if week is None:
        raise NotFound("meal")
    with caller.transaction() as session:
        take_turns(session, week)
        yield session


def take_out_meal(caller: Caller, placement_id: UUID) -> None:
    """Take a meal out of its slot. It can be put back with `put_back`.

    Raises:
        NotFound: when it is not the household's.
        InvalidInputs: when its box is already packed.
    """
    with _at_its_week(caller, placement_id) as session:
        row = existing(session, PlacementRow, placement_id, "meal")
        if row.live:
            refuse_if_packed(session, row)
            row.live = None


def put_back(caller: Caller, placement_id: UUID) -> None:
    """Put a meal that was taken away back into its slot.

    Raises:
        NotFound: when it is not the household's.
        InvalidInputs: when another meal stands there now.
    """
    with _at_its_week(caller, placement_id) as session:
        row = existing(session, PlacementRow, placement_id, "meal")
        if row.live:
            return
        if standing_meals(session, row.eater_id, row.slot_id, {row.day}):
            raise InvalidInputs(
                [InvalidInput("slot", say("Another meal stands in this slot now."), say("Clear it first."))]
            )
        row.live = 1


def standing_meals(session: HouseholdSession, eater_id: UUID, slot_id: UUID, days: set[date]) -> Sequence[PlacementRow]:
    """The meals that stand in an eater's slot on some days, inside the caller's transaction."""
    return session.scalars(
        select(PlacementRow).where(
            PlacementRow.eater_id == eater_id,
            PlacementRow.slot_id == slot_id,
            PlacementRow.day.in_(days),
            PlacementRow.live == 1,
        )
    ).all()


def live_placement(session: HouseholdSession, placement_id: UUID) -> PlacementRow:
    """A meal that stands in a slot, inside the caller's transaction.

    Raises:
        NotFound: when it is not the household's or was taken away.
    """
    row = existing(session, PlacementRow, placement_id, "meal")
    if not row.live:
        raise NotFound("meal")
    return row


def refuse_if_packed(session: HouseholdSession, placement: PlacementRow) -> None:
    """A weighed box keeps its place.

    Raises:
        InvalidInputs: when the meal's box is packed.
    """
    if any(box.is_there for box in boxes_with(session, BoxRow.packed_for == placement.id)):
        raise InvalidInputs(
            [InvalidInput("meal", say("This box is already packed."), say("Take it out at Portion first."))]
        )


def _check_servings(servings: float) -> None:
    if not SMALLEST_SERVINGS <= servings <= LARGEST_SERVINGS:
        raise InvalidInputs(
            [
                InvalidInput(
                    "servings",
                    say("{servings} servings in one box is not possible.", servings=short(servings)),
                    say(
                        "Give {SMALLEST_SERVINGS} to {LARGEST_SERVINGS}.",
                        SMALLEST_SERVINGS=short(SMALLEST_SERVINGS),
                        LARGEST_SERVINGS=short(LARGEST_SERVINGS),
                    ),
                )
            ]
        )
