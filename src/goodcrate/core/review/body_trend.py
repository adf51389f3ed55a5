"""A body weight smoothed: its trend with a band, what it was predicted to do, and the need that would fit it.

Simple exponential smoothing (R. G. Brown, Statistical Forecasting for Inventory Control, 1959) over uneven days: a
weighing moves the trend by 1 − e^(−days/7) of its distance. Nothing here is a diagnosis or a goal.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from math import exp, sqrt

from goodcrate.core.targets.body import KCAL_PER_KG

SMOOTH_DAYS = 7.0
"""A week of weighings carries most of the trend: our choice."""
BAND_DEVIATIONS = 2.0
FIRST_BAND_KG = 1.0
"""How far a single weighing is from the weight behind it within a day: food, drink and salt. Our estimate, used until
five weighings say it better."""
OWN_BAND_FROM = 5
NEED_DAYS, NEED_WEIGHINGS = 28, 8
"""A need is worked out again only from four weeks and eight weighings on."""


@dataclass(frozen=True, slots=True)
class Weighing:
    """A body weight in kg on a day."""

    day: date
    kg: float


@dataclass(frozen=True, slots=True)
class TrendPoint:
    """A day of the trend: what was weighed, the smoothed weight, and how far it may be off either way, in kg."""

    day: date
    kg: float
    trend_kg: float
    band_kg: float


def trend_of(weighings: Sequence[Weighing]) -> list[TrendPoint]:
    """The trend through all weighings, the oldest first; of one, itself."""
    points: list[TrendPoint] = []
    squares = 0.0
    for n, one in enumerate(sorted(weighings, key=lambda w: w.day)):
        if not points:
            points.append(TrendPoint(one.day, one.kg, one.kg, BAND_DEVIATIONS * FIRST_BAND_KG))
            continue
        before = points[-1]
        share = 1 - exp(-max(1, (one.day - before.day).days) / SMOOTH_DAYS)
        off = one.kg - before.trend_kg
        squares += off * off
        spread = sqrt(squares / n) if n >= OWN_BAND_FROM else FIRST_BAND_KG
        band = BAND_DEVIATIONS * spread * sqrt(share / (2 - share))
        points.append(TrendPoint(one.day, one.kg, before.trend_kg + share * off, band))
    return points


@dataclass(frozen=True, slots=True)
class Slope:
    """How a weight changes, in kg a week, with its standard error, over so many weighings and days."""

    kg_a_week: float
    standard_error: float
    weighings: int
    days: int


def slope_of(weighings: Sequence[Weighing], last_days: int = NEED_DAYS) -> Slope | None:
    """The straight line through the last days' weighings by least squares; None for fewer than three."""
    ordered = sorted(weighings, key=lambda w: w.day)
    if not ordered:
        return None
    since = ordered[-1].day - timedelta(days=last_days)
    own = [w for w in ordered if w.day >= since]
    at = [(w.day - own[0].day).days for w in own]
    count, mean_at, mean_kg = len(own), sum(at) / len(own), sum(w.kg for w in own) / len(own)
    spread = sum((x - mean_at) ** 2 for x in at)
    if count < 3 or spread == 0:
        return None
    slope = sum((x - mean_at) * (w.kg - mean_kg) for x, w in zip(at, own, strict=True)) / spread
    left = sum((w.kg - mean_kg - slope * (x - mean_at)) ** 2 for x, w in zip(at, own, strict=True))
    error = sqrt(left / (count - 2) / spread)
    return Slope(7 * slope, 7 * error, count, at[-1])


@dataclass(frozen=True, slots=True)
class NeedTold:
    """The need in kcal a day that fits what was eaten and how the weight changed, with its standard error."""

    kcal: float
    standard_error: float


def need_by(slope: Slope | None, eaten_kcal: float | None) -> NeedTold | None:
    """The need that fits: what was eaten a day less what went into (or came out of) the body, by 7,700 kcal a kg. None
    before four weeks and eight weighings, or where what was eaten is not known."""
    if slope is None or eaten_kcal is None or slope.days < NEED_DAYS or slope.weighings < NEED_WEIGHINGS:
        return None
    a_day = KCAL_PER_KG / 7
    return NeedTold(eaten_kcal - slope.kg_a_week * a_day, slope.standard_error * a_day)


def predicted_kg_a_week(eaten_kcal: float, need_kcal: float) -> float:
    """What a need would have the weight do by what was eaten (both kcal a day), in kg a week."""
    return 7 * (eaten_kcal - need_kcal) / KCAL_PER_KG
