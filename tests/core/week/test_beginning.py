"""When a week that somebody begins today starts, ends and cooks: for every day there is."""

from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.week.placings import (
    SECOND_SESSION_AT,
    SECOND_SESSION_FROM_DAYS,
    days_from_now,
    first_session,
    second_session,
    week_dates,
)

days = st.dates(date(2001, 1, 1), date(2199, 12, 1))


@given(days)
def test_a_week_begun_is_still_to_come_and_ends_on_a_sunday(today: date) -> None:
    first, length = days_from_now(today)
    assert today < first <= today + timedelta(days=3)
    last = week_dates(first, length)[-1]
    assert last.weekday() == 6
    assert 3 <= length <= 7


@given(days)
def test_its_first_session_is_before_its_first_day_and_not_over_since_yesterday(today: date) -> None:
    first, _ = days_from_now(today)
    at = first_session(first, today)
    assert today <= at.date() < first


@given(days)
def test_no_box_waits_longer_than_four_days_for_its_session(today: date) -> None:
    """Usual advice keeps leftovers three or four days: with the sessions a week begins with, no day is further off."""
    first, length = days_from_now(today)
    again = second_session(first, length)
    sessions = [first_session(first, today).date()] + ([again.date()] if again else [])
    assert (again is not None) == (length >= SECOND_SESSION_FROM_DAYS)
    assert again is None or (again.time() == SECOND_SESSION_AT and again.date() in week_dates(first, length))
    for day in week_dates(first, length):
        waits = min((day - cooked).days for cooked in sessions if cooked < day)
        assert waits <= 4, (today, day)
