"""Figures as a household writes and reads them: marks, dates, weeks, weights, heights, heats, money."""

import csv
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path
from random import Random

import pytest

from goodcrate.core.foods.measures import read_amount
from goodcrate.core.ground import writing as w
from goodcrate.core.ground.amounts import is_read_otherwise, read_number
from goodcrate.core.ground.errors import InvalidInput

FOR_HOME = replace(
    w.PLAIN,
    marks="point",
    dates="mdy",
    first_weekday=6,
    body_weight="lb",
    body_height="ft",
    heat="F",
    money="$",
    money_first=True,
)


@contextmanager
def marks(key: str) -> Iterator[None]:
    with w.written(replace(w.PLAIN, marks=key)):
        yield


@pytest.mark.parametrize(
    ("key", "large", "small"),
    [
        ("ask", "1,250.5", "0.25"),
        ("point", "1,250.5", "0.25"),
        ("comma", "1.250,5", "0,25"),
        ("space", "1\u202f250,5", "0,25"),
        ("apostrophe", "1’250.5", "0.25"),
    ],
)
def test_marks_are_written_and_read_back(key: str, large: str, small: str) -> None:
    with marks(key):
        assert (w.shown(1250.5, 1), w.short(0.25), w.many(1250, "box", "boxes")) == (
            large,
            small,
            f"{large[:-2]} boxes",
        )
        chance = Random(key)  # noqa: S311 — chance, not a secret
        for _ in range(300):
            value = round(chance.uniform(0, 99_999), chance.choice((0, 1, 2)))
            assert read_number(w.shown(value, 2), "x") == value
            assert read_number(w.short(value), "x") == value


def test_what_may_be_either_is_asked_until_the_household_has_said() -> None:
    with pytest.raises(InvalidInput, match="two ways"):
        read_number("1.250", "x")
    with marks("point"):
        assert (read_number("1.250", "x"), read_number("1,250", "x")) == (1.25, 1250)
        assert read_amount("1.250 g").quantity == 1.25
    with marks("comma"):
        assert (read_number("1.250", "x"), read_number("1,250", "x")) == (1250, 1.25)
        assert read_amount("1.250 g").quantity == 1250, "read anew, not remembered from the other household"
        assert read_number("1.250", "x", largest=100) == 1.25, "only one of them can be meant"
        assert is_read_otherwise("1.250 g")
        assert not is_read_otherwise("1.25 kg")
    assert not is_read_otherwise("1.250 g")


@pytest.mark.parametrize(
    ("key", "with_year", "span", "over"),
    [
        ("dmy", "28 November 2026", "23–29 November", "28 December – 3 January 2027"),
        ("mdy", "November 28, 2026", "November 23–29", "December 28 – January 3, 2027"),
        ("ymd", "2026 November 28", "November 23–29", "December 28 – 2027 January 3"),
    ],
)
def test_dates_stand_in_the_households_order(key: str, with_year: str, span: str, over: str) -> None:
    today = w.TODAY.set(date(2026, 11, 28))
    try:
        with w.written(replace(w.PLAIN, dates=key)):
            assert w.dated(datetime(2026, 11, 28, 14)) == with_year
            assert w.span(date(2026, 11, 23), date(2026, 11, 29)) == span
            assert w.span(date(2026, 12, 28), date(2027, 1, 3)) == over
            there = w.span(date(2027, 1, 4), date(2027, 1, 10))
            assert there.count("2027") == 1
            assert "4–10" in there
    finally:
        w.TODAY.reset(today)


@pytest.mark.parametrize("first", w.FIRST_WEEKDAYS)
def test_weeks_begin_on_the_households_day(first: int) -> None:
    with w.written(replace(w.PLAIN, first_weekday=first)):
        for n in range(1, 29):
            day = date(2026, 11, n)
            start = w.week_start(day)
            assert start.weekday() == first
            assert 0 <= (day - start).days < 7
            length = w.week_length(day)
            assert 4 <= length <= 10
            assert (day.toordinal() + length - start.toordinal()) % 7 == 0, "after it the weeks are in step"
        assert w.week_length(w.week_start(date(2026, 11, 18))) == 7
        assert w.weekdays_in_order()[0] == first
        assert sorted(w.weekdays_in_order()) == list(range(7))
    assert w.week_number(date(2026, 11, 22)) == w.week_number(date(2026, 11, 23)) == 48, "Sunday’s week is Monday’s"


def test_bodies_are_measured_both_ways() -> None:
    assert (w.told_weight(72.5), w.body_height(172.72), w.weight_in_formula(72.5)) == ("72.5 kg", "172.7", "72.5 kg")
    with w.written(FOR_HOME):
        assert w.told_weight(72.5747792) == "160 lb"
        assert w.body_height(172.72) == "5′ 8″"
        assert w.body_height(182.87) == "6′ 0″", "no 5′ 12″"
        assert w.weight_in_formula(72.5747792) == "72.6 kg (160 lb)"
        assert w.height_in_formula(172.72) == "172.7 cm (5′ 8″)"
    for typed, cm in (("5′ 8″", 172.72), ("5 ft 8 in", 172.72), ("6'", 182.88), ("5'7.5\"", 171.45), ("5ft", 152.4)):
        assert w.feet_and_inches(typed) == pytest.approx(cm), typed
    assert w.feet_and_inches("172") is None


def test_heats_of_the_guidance_are_those_of_its_sources() -> None:
    table = Path(w.__file__).parents[2] / "reference" / "cook-temps.csv"
    rows = list(csv.DictReader(table.read_text(encoding="utf-8").splitlines()))
    assert len(rows) > 10
    with w.written(FOR_HOME):
        for row in rows:
            assert w.at_least_heat(float(row["core_c"])) == f"{row['core_f']} °F", row
        assert w.heat(180) == "356"
        assert w.heat(w.celsius_of(350)) == "350", "what is typed stands again"
        assert w.celsius_of(180, "c") == 180
        assert w.heats_told("fridge at 4 C or below, 60–63 °C hot") == (
            "fridge at 4 °C (39 °F) or below, 60–63 °C (140–145 °F) hot"
        )
    assert w.at_least_heat(74) == "74 °C"
    assert w.heats_told("4 C or below; vitamin C stays") == "4 °C or below; vitamin C stays"


def test_prices_have_their_sign_where_it_belongs() -> None:
    assert (w.price(2.4), w.coins(1250)) == ("2.40 ¤", "1250.00")
    with w.written(FOR_HOME):
        assert w.price(1250) == "$1,250.00"
    with w.written(replace(w.PLAIN, money="kr", money_first=True, money_decimals=0, marks="comma")):
        assert w.price(1249.6) == "kr 1.250"


def test_texts_of_tables_take_the_marks() -> None:
    with marks("comma"):
        assert w.figures_told("cup 237 ml, tablespoon 14.8 ml, 1,250 g.") == "cup 237 ml, tablespoon 14,8 ml, 1.250 g."
