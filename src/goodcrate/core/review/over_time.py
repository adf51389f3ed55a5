"""Closed weeks beside each other: what of each is kept, and a figure over weeks as a line."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from math import floor, log10

DAYS_IN_BAND, COST_A_DAY, THROWN_G, FINISHED, MISS_G, SESSIONS_MIN = (
    "days_in_band",
    "cost_a_day",
    "thrown_g",
    "finished",
    "miss_g",
    "sessions_min",
)
"""Figures of a week besides nutrients: days in band as a share (of an eater), cost a day in the household's money, g
thrown away, boxes finished as a share, the mean miss of a weighed box in g, minutes of its sessions."""
OF_EATERS = frozenset({DAYS_IN_BAND})
"""Those that are of each eater, as nutrients are; the others are of the whole week."""


@dataclass(frozen=True, slots=True)
class EaterWeek:
    """An eater's closed week: days that are over, how many of them kept to their bands, the mean target in kcal a day
    (None without one), and by nutrient the known mean a day with the share of the weight that is not known."""

    name: str
    days: int
    in_band: int
    target_kcal: float | None
    means: Mapping[str, tuple[float, float]]


@dataclass(frozen=True, slots=True)
class WeekSummary:
    """A closed week as it was judged: its eaters by their keys, and figures of the whole week by name, left out where
    they are not known."""

    first_day: date
    eaters: Mapping[str, EaterWeek]
    whole: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Point:
    """A week's value of a figure; `is_at_least` where some of it is not known."""

    first_day: date
    value: float
    is_at_least: bool = False


@dataclass(frozen=True, slots=True)
class Line:
    """A figure over weeks, of an eater or of the whole household (then without a name)."""

    key: str
    name: str
    points: tuple[Point, ...]


def lines_of(weeks: Sequence[WeekSummary], figure: str) -> list[Line]:
    """A figure over weeks, the oldest first: a line for each eater, or one of all. A week that does not know it has no
    point."""
    ordered = sorted(weeks, key=lambda w: w.first_day)
    if figure in (COST_A_DAY, THROWN_G, FINISHED, MISS_G, SESSIONS_MIN):
        points = tuple(Point(w.first_day, w.whole[figure]) for w in ordered if figure in w.whole)
        return [Line("", "", points)] if points else []
    names: dict[str, str] = {}
    points_of: dict[str, list[Point]] = {}
    for week in ordered:
        for key, eater in week.eaters.items():
            names[key] = eater.name
            point = _point(week.first_day, eater, figure)
            if point is not None:
                points_of.setdefault(key, []).append(point)
    return [Line(key, names[key], tuple(points)) for key, points in points_of.items()]


def _point(first_day: date, eater: EaterWeek, figure: str) -> Point | None:
    if eater.days == 0:
        return None
    if figure == DAYS_IN_BAND:
        return Point(first_day, eater.in_band / eater.days)
    if figure not in eater.means:
        return None
    known, unknown = eater.means[figure]
    return None if unknown >= 1 and not known else Point(first_day, known, is_at_least=unknown > 0)


def axis_of(values: Sequence[float]) -> list[float]:
    """Round figures for an axis from 0, or from near the least where all are far above it, to above the most: four to
    six of them; empty without values."""
    if not values:
        return []
    low, high = min(values), max(values)
    start = 0.0 if low < 0.7 * high or high <= 0 else low - (high - low or 0.1 * high) * 0.5
    raw = ((high - start) or 1.0) / 4
    power = 10 ** floor(log10(raw))
    step = next(n * power for n in (1, 2, 2.5, 5, 10) if n * power >= raw - 1e-12)
    first = floor(start / step) * step
    marks = [first, first + step]
    while marks[-1] < high - 1e-9:
        marks.append(first + step * len(marks))
    return marks
