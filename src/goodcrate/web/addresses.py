"""What stands in an address: days that can be."""

from datetime import date
from typing import Annotated

from pydantic import AfterValidator

from goodcrate.core.ground.typed import EARLIEST_DAY, LATEST_DAY


def _of_our_age(day: date) -> date:
    if not EARLIEST_DAY <= day <= LATEST_DAY:
        raise ValueError("no day of our age")
    return day


Day = Annotated[date, AfterValidator(_of_our_age)]
"""A day in an address; one of another age is an address that is not there."""
