"""Targets of one week or one of its days, kept beside the household's own."""

from collections.abc import Sequence
from datetime import date
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.week_changes import TargetChange, changed, check_change
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import TargetChangeRow, WeekRow
from goodcrate.services.calling import Caller, NotFound, add_once, existing, utc_now
from goodcrate.services.targets.household_eaters import eater_in


def changes_of(session: HouseholdSession, week_id: UUID) -> tuple[TargetChange, ...]:
    """What is otherwise in a week, the first made first."""
    rows = select(TargetChangeRow).where(TargetChangeRow.week_id == week_id, TargetChangeRow.live == 1)
    return tuple(row.value() for row in session.scalars(rows.order_by(TargetChangeRow.made_at, TargetChangeRow.id)))


def as_in_week(session: HouseholdSession, week_id: UUID, eaters: Sequence[Eater]) -> list[Eater]:
    """Eaters as a week sees them."""
    changes = changes_of(session, week_id)
    return [changed(eater, changes) for eater in eaters] if changes else list(eaters)


def eater_in_week(session: HouseholdSession, week_id: UUID, eater_id: UUID) -> Eater:
    """An eater as a week sees them.

    Raises:
        NotFound: when the household has none with this id.
    """
    return changed(eater_in(session, eater_id), changes_of(session, week_id))


def list_changes(caller: Caller, first_day: date) -> tuple[TargetChange, ...]:
    """What is otherwise in the week that starts on a day.

    Raises:
        NotFound: when there is no such week.
    """
    with caller.transaction() as session:
        return changes_of(session, _week(session, first_day).id)


def _week(session: HouseholdSession, first_day: date) -> WeekRow:
    week = session.scalar(select(WeekRow).where(WeekRow.first_day == first_day))
    if week is None:
        raise NotFound("week")
    return week


def change_targets(caller: Caller, first_day: date, change: TargetChange) -> None:
    """Let a target be otherwise in one week. Sending it twice changes it once.

    Raises:
        NotFound: when there is no such week or eater.
        InvalidInputs: naming every field that cannot be used, or for a week that is closed or longer than seven days.
    """
    with caller.transaction() as session:
        week = _week(session, first_day)
        eater = eater_in(session, change.eater_id)
        if session.find(TargetChangeRow, UUID(change.key)) is not None:
            return
        if week.closed_at is not None or (week.days > 7 and change.weekday is not None):
            told = say("This week is closed.") if week.closed_at else say("This week has each weekday twice.")
            raise InvalidInputs([InvalidInput("day", told, say("Choose another week, or every day."))])
        check_change(eater, change, changes_of(session, week.id))
        row = TargetChangeRow(id=UUID(change.key), week_id=week.id, eater_id=eater.id, weekday=change.weekday)
        row.energy_kcal, row.protein_g = change.energy_kcal, change.protein_g
        row.bands, row.plants_only = dict(change.bands) or None, change.plants_only
        row.made_at = utc_now()
        add_once(session, row)


def take_change_back(caller: Caller, change_id: UUID) -> None:
    """The household's own target holds again.

    Raises:
        NotFound: when the household has no such change.
    """
    with caller.transaction() as session:
        existing(session, TargetChangeRow, change_id, say("change")).live = None
