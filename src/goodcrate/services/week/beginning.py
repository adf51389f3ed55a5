"""A first evening: the coming week is begun, with the sessions it takes."""

from datetime import date, timedelta

from sqlalchemy import select

from goodcrate.core.week.placings import days_from_now, second_session
from goodcrate.db.week import WeekRow
from goodcrate.services.calling import Caller
from goodcrate.services.week.weeks import add_session, open_week, week_of


def begin_week(caller: Caller, today: date) -> date:
    """Start the week that somebody plans on a first evening, with the sessions it takes; its first day.

    A week that holds the day it would begin on is taken instead.
    """
    first_day, days = days_from_now(today)
    there = week_of(caller, first_day)
    if there is not None:
        return there
    with caller.transaction() as session:
        taken = set(session.scalars(select(WeekRow.first_day)))
    days = next((n for n in range(1, days) if first_day + timedelta(days=n) in taken), days)
    open_week(caller, first_day, days, today)
    again = second_session(first_day, days)
    if again is not None:
        add_session(caller, first_day, again)
    return first_day
