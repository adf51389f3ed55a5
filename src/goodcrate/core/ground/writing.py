"""How a household writes and reads figures: decimal sign, dates, first day of the week, kg or lb, °C or °F, money.

The one place where a figure becomes text. What is being answered is written as `WRITING` says; computing goes on in
grams, kilograms, centimetres and °C, and files are written `plainly`.
"""

import re
from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from math import copysign, floor

from goodcrate.core.ground.wording import ENGLISH, IN_ENGLISH, WORDS, Saying

MINUS = "−"
KG_PER_LB, CM_PER_INCH = 0.45359237, 2.54
"""The international pound and inch of 1959."""


@dataclass(frozen=True, slots=True)
class Marks:
    """The decimal sign and what stands between thousands; `is_sure` when typed figures are read by it unasked."""

    words: str
    decimal: str
    thousands: str
    is_sure: bool = True


MARKS: Mapping[str, Marks] = {
    "ask": Marks(Saying("1,250.5, asked when unclear"), ".", ",", is_sure=False),
    "point": Marks("1,250.5", ".", ","),
    "comma": Marks("1.250,5", ",", "."),
    "space": Marks("1 250,5", ",", "\u202f"),
    "apostrophe": Marks("1’250.5", ".", "’"),
}
DATES = ("dmy", "mdy", "ymd")
FIRST_WEEKDAYS: Mapping[int, str] = {0: Saying("Monday"), 5: Saying("Saturday"), 6: Saying("Sunday")}
WEIGHTS: Mapping[str, str] = {"kg": Saying("kilograms"), "lb": Saying("pounds")}
HEIGHTS: Mapping[str, str] = {"cm": Saying("centimetres"), "ft": Saying("feet and inches")}
HEATS: Mapping[str, str] = {"C": "°C", "F": "°F"}
MOST_MONEY_DECIMALS = 3
WAYS: Mapping[str, Collection[str] | Collection[int]] = {
    "marks": MARKS,
    "dates": DATES,
    "first_weekday": FIRST_WEEKDAYS,
    "body_weight": WEIGHTS,
    "body_height": HEIGHTS,
    "heat": HEATS,
}
"""What each part of a household's way can be."""


@dataclass(frozen=True, slots=True)
class Writing:
    """One household's way; keys of the tables above. `money` is the sign beside a price, before or after it."""

    marks: str = "ask"
    dates: str = "dmy"
    first_weekday: int = 0
    body_weight: str = "kg"
    body_height: str = "cm"
    heat: str = "C"
    money: str = "¤"
    money_first: bool = False
    money_decimals: int = 2
    language: str = ENGLISH

    @property
    def decimal(self) -> str:
        """The sign that is surely the decimal one; empty where it must be asked."""
        marks = MARKS[self.marks]
        return marks.decimal if marks.is_sure else ""


PLAIN = Writing()
WRITING: ContextVar[Writing] = ContextVar("writing", default=PLAIN)
"""How what is being answered is written."""


@contextmanager
def written(writing: Writing) -> Iterator[None]:
    """Everything inside is written in this way; files are written `PLAIN`."""
    before = WRITING.set(writing)
    try:
        yield
    finally:
        WRITING.reset(before)


@contextmanager
def plainly() -> Iterator[None]:
    """Everything inside is written as files are: English, with a decimal point, °C."""
    words = WORDS.set(IN_ENGLISH)
    try:
        with written(PLAIN):
            yield
    finally:
        WORDS.reset(words)


def round_half_up(value: float, decimals: int = 0) -> float:
    """Round as people do: 172.5 is 173, −0.5 is −1. The one rounding of shown figures and of judgements on them.

    A hair (1e-9 of the last place) is allowed for, so that a decimal stored as the binary just below it rounds up.
    """
    scale = 10.0**decimals
    return copysign(floor(abs(value) * scale + 0.5 + 1e-9) / scale, value)


def _marked(plain: str) -> str:
    """A figure as Python groups it (1,250.5), with the household's marks."""
    key = WRITING.get().marks
    if key in ("ask", "point"):
        return plain
    marks = MARKS[key]
    return plain.translate({ord(","): marks.thousands, ord("."): marks.decimal})


def shown(value: float, decimals: int = 0, *, grouped: bool = True) -> str:
    """A figure as sentences write it: rounded half up, thousands separated. 1250 is 1,250, and 2.5 is 3."""
    return _marked(f"{round_half_up(value, decimals) + 0.0:{',' if grouped else ''}.{decimals}f}")


def short(value: float, decimals: int = 3, *, grouped: bool = False) -> str:
    """A figure with no more decimals than it has, at most so many: 4, 0.75."""
    text = f"{value:{',' if grouped else ''}.{decimals}f}"
    return _marked(text.rstrip("0").rstrip(".") if "." in text else text)


_POINTED = re.compile(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d+\.\d+")


def signed(value: float, decimals: int = 0) -> str:
    """A difference with its sign: +12, −18, ±0, +0.4."""
    rounded = round_half_up(value, decimals)
    if rounded == 0:
        return "±0"
    return f"{'+' if rounded > 0 else MINUS}{shown(abs(rounded), decimals)}"


def figures_told(text: str) -> str:
    """A text that stands in a table of ours, its figures with the household's marks. Never one with typed or worked
    figures in it: those have the marks already."""
    return _POINTED.sub(lambda found: _marked(found[0]), text)


def near(value: float, digits: int = 3) -> str:
    """A figure with so many digits that count: 0.333, 28.3."""
    return _marked(f"{value:.{digits}g}")


def many(count: int, one: str, more: str = "") -> str:
    """So many things: 1 day, 2 days, 1,250 boxes (`more` where it is not `one` with an s)."""
    return f"{shown(count)} {WORDS.get().counted(count, one, more or plural_of(one))}"


def plural_of(one: str) -> str:
    """The English word for more of something: boxes, days."""
    return f"{one}{'es' if one.endswith(('x', 'ch', 'sh', 's')) else 's'}"


def price(value: float, decimals: int | None = None) -> str:
    """An amount of the household's money with its sign: “2.40 ¤”, “$2.40”; dearer or cheaper things may need other
    decimals than its coins."""
    writing = WRITING.get()
    text = shown(value, writing.money_decimals if decimals is None else decimals)
    if not writing.money_first:
        return f"{text} {writing.money}"
    return f"{writing.money}{' ' if writing.money[-1:].isalpha() else ''}{text}"


def coins(value: float) -> str:
    """An amount of money as a field holds it: no sign, no grouping, the decimals of the household's coins."""
    return shown(value, WRITING.get().money_decimals, grouped=False)


def fahrenheit(celsius: float) -> float:
    """°C in °F."""
    return celsius * 9 / 5 + 32


def celsius_of(heat: float, unit: str = "") -> float:
    """A typed heat in °C, to two decimals; without a unit of its own it is in the household's."""
    return heat if (unit.upper() or WRITING.get().heat) == "C" else round((heat - 32) * 5 / 9, 2)


def heat(celsius: float) -> str:
    """A heat without its unit: 180, or 356."""
    if WRITING.get().heat == "C":
        return short(round_half_up(celsius, 1))
    return shown(fahrenheit(celsius), grouped=False)


def heat_unit() -> str:
    """What heats are given in."""
    return HEATS[WRITING.get().heat]


def at_least_heat(celsius: float) -> str:
    """A heat of the guidance, with its unit: 74 °C, or 165 °F to the degree, as its sources give both."""
    return f"{heat(celsius)} {heat_unit()}"


_CELSIUS = re.compile(r"(?P<low>\d+(?:\.\d+)?)(?:(?P<dash>\s*(?:[–-]|to)\s*)(?P<high>\d+(?:\.\d+)?))? (?P<unit>°?C)\b")


def heats_told(text: str) -> str:
    """A sentence of a table of guidance, with its degrees as signs; where the household thinks in °F those stand behind
    its °C: a source's figure is not rounded away."""
    in_f = WRITING.get().heat == "F"

    def both(found: re.Match[str]) -> str:
        ends = [f"{round_half_up(fahrenheit(float(end))):.0f}" for end in (found["low"], found["high"]) if end]
        behind = f" ({(found['dash'] or '').join(ends)} °F)" if in_f else ""
        return f"{found[0].removesuffix(found['unit'])}°C{behind}"

    return _CELSIUS.sub(both, text)


def body_weight(kg: float, decimals: int = 1) -> str:
    """A body weight without its unit, to a tenth."""
    return short(round_half_up(kg if WRITING.get().body_weight == "kg" else kg / KG_PER_LB, decimals))


def told_weight(kg: float, decimals: int = 1) -> str:
    """A body weight with its unit: 0.5 kg, 1.1 lb."""
    return f"{body_weight(kg, decimals)} {WRITING.get().body_weight}"


def _also(in_si: str, own: str) -> str:
    return in_si if in_si == own else f"{in_si} ({own})"


def weight_in_formula(kg: float) -> str:
    """A body weight as a formula in kg takes it, with the household's own behind: 72.6 kg (160 lb)."""
    return _also(f"{short(round_half_up(kg, 1))} kg", told_weight(kg))


def height_in_formula(cm: float) -> str:
    """A height as a formula in cm takes it, with the household's own behind: 172.7 cm (5′ 8″)."""
    own = body_height(cm)
    return _also(f"{short(round_half_up(cm, 1))} cm", f"{own} cm" if WRITING.get().body_height == "cm" else own)


def body_height(cm: float) -> str:
    """A height without its unit in cm, with its signs in feet and inches: 172, or 5′ 8″."""
    if WRITING.get().body_height == "cm":
        return short(round_half_up(cm, 1))
    inches = round_half_up(cm / CM_PER_INCH, 1)
    feet = floor(inches / 12 + 1e-9)
    return f"{feet}′ {short(round_half_up(inches - 12 * feet, 1))}″"


_FEET = re.compile(
    r"(\d{1,2})\s*(?:′|'|’|ft\.?|feet|foot)\s*(?:(\d{1,2}(?:[.,]\d)?)\s*(?:″|\"|”|''|in\.?|inch(?:es)?)?)?", re.I
)


def feet_and_inches(text: str) -> float | None:
    """A height typed in feet and inches (5′ 8″, 5 ft 8 in) in cm; None when it is none."""
    found = _FEET.fullmatch(text.strip())
    if found is None:
        return None
    return (12 * int(found[1]) + float((found[2] or "0").replace(",", "."))) * CM_PER_INCH


def clock(at: time) -> str:
    """A time of day: 06:45."""
    return f"{at:%H:%M}"


TODAY: ContextVar[date | None] = ContextVar("today", default=None)
"""What day it is, for the request being answered: dates of another year say their year."""


def wall_clock(at: datetime) -> str:
    """A moment by the clock on this kitchen's wall: in its time zone, summer time as it is then."""
    return clock(at.astimezone().time())


def day_month(day: date) -> str:
    """A date: 23 November; with its year when it is not this one."""
    today = TODAY.get()
    return _day(day, with_year=today is not None and today.year != day.year)


def dated(at: date | datetime) -> str:
    """A day with its year: 28 November 2026."""
    return _day(at, with_year=True)


def _month(day: date) -> str:
    return WORDS.get().months[day.month - 1]


def _day(day: date, *, with_year: bool) -> str:
    match WRITING.get().dates:
        case "mdy":
            return f"{_month(day)} {day.day}" + (f", {day.year}" if with_year else "")
        case "ymd":
            return (f"{day.year} " if with_year else "") + f"{_month(day)} {day.day}"
        case _:
            return f"{day.day} {_month(day)}" + (f" {day.year}" if with_year else "")


def span(first: date, last: date) -> str:
    """A span of dates: 23–29 November, or 28 December – 3 January."""
    if (first.year, first.month) != (last.year, last.month):
        return f"{day_month(first)} – {day_month(last)}"
    days = f"{first.day}–{last.day}"
    return day_month(last).replace(str(last.day), days, 1) if WRITING.get().dates == "dmy" else _span(last, days)


def _span(last: date, days: str) -> str:
    month, year = _month(last), day_month(last).partition(str(last.year))[1]
    if WRITING.get().dates == "mdy":
        return f"{month} {days}" + (f", {year}" if year else "")
    return (f"{year} " if year else "") + f"{month} {days}"


def weekday(day: date) -> str:
    """A day's short name: Mon."""
    return weekday_name(day.weekday())


def weekday_name(n: int) -> str:
    """The short name of a weekday, Monday being 0: Mon."""
    return WORDS.get().days_short[n]


def weekday_whole(day: date) -> str:
    """A day's name: Monday."""
    return WORDS.get().days[day.weekday()]


def session_time(at: datetime) -> str:
    """When a prep session starts: Sun 22, 14:00."""
    return f"{weekday(at)} {at.day}, {clock(at.time())}"


FEWEST_DAYS_TO_TURN = 4
"""A week of another beginning that would leave fewer days than these goes on into the next: our line."""


def week_start(day: date) -> date:
    """The first day of a day's week, as the household counts."""
    return day - timedelta(days=(day.weekday() - WRITING.get().first_weekday) % 7)


def week_length(first_day: date) -> int:
    """Days of a week that begins on any day until the household's weeks begin: 7, or 4 to 10 that turn into them."""
    left = (week_start(first_day) + timedelta(days=7) - first_day).days
    return left if left >= FEWEST_DAYS_TO_TURN else left + 7


def week_number(first_day: date) -> int:
    """The number of a week (ISO 8601) by its fourth day, whatever day it begins on."""
    return (first_day + timedelta(days=3)).isocalendar().week


def weekdays_in_order() -> tuple[int, ...]:
    """The weekdays (Monday is 0) in the household's order."""
    first = WRITING.get().first_weekday
    return tuple((first + n) % 7 for n in range(7))
