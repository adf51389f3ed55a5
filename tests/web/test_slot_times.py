"""A slot's time as it is typed on a phone's keypad."""

from datetime import time

import pytest

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.web.targets.slot_form import time_of_day


@pytest.mark.parametrize(
    ("typed", "at"),
    [
        ("21:00", time(21)),
        ("2100", time(21)),
        ("645", time(6, 45)),
        ("6.45", time(6, 45)),
        ("06:45", time(6, 45)),
        ("7", time(7)),
        ("0330", time(3, 30)),
    ],
)
def test_a_time_needs_no_colon(typed: str, at: time) -> None:
    assert time_of_day(typed, "at") == at


@pytest.mark.parametrize("typed", ["", "2460", "99", "12345", "٣٣٠", "six", "6:7:8:9", "-1", "1e3", "12:"])
def test_what_is_no_time_is_refused(typed: str) -> None:
    with pytest.raises(InvalidInput, match="is no time of day"):
        time_of_day(typed, "at")
