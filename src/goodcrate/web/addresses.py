"""What stands in an address: days and numbers that can be."""

from datetime import date
from typing import Annotated

from pydantic import AfterValidator, Field

from goodcrate.core.ground.typed import EARLIEST_DAY, LATEST_DAY


def _of_our_age(day: date) -> date:
    if not EARLIEST_DAY <= day <= LATEST_DAY:
        raise ValueError("no day of our age")
    return day


Day = Annotated[date, AfterValidator(_of_our_age)]
"""A day in an address; one of another age is an address that is not there."""
Whole = Annotated[int, Field(ge=0, le=999_999)]
"""A whole number in an address; beyond, there is nothing at that address."""
