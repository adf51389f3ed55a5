"""A figure over weeks as its page draws it: a line for each eater, marks of the axis, and the table beside it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from goodcrate.core.ground.nutrients import BY_KEY, KEYS
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import MINUS, price, shown, week_number
from goodcrate.core.review.over_time import (
    COST_A_DAY,
    DAYS_IN_BAND,
    FINISHED,
    MISS_G,
    SESSIONS_MIN,
    THROWN_G,
    Line,
    WeekSummary,
    axis_of,
    lines_of,
)
from goodcrate.web.figures import percent

FIGURES = {
    DAYS_IN_BAND: (Saying("days in band"), "%"),
    FINISHED: (Saying("boxes finished"), "%"),
    THROWN_G: (Saying("thrown away"), "g"),
    COST_A_DAY: (Saying("cost a day"), ""),
    MISS_G: (Saying("miss of a weighed box"), "g"),
    SESSIONS_MIN: (Saying("minutes of cooking"), "min"),
}
SHARES = (DAYS_IN_BAND, FINISHED)
WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 860, 300, 64, 110, 16, 34
DASHES = ("solid", "dashed", "dotted", "mixed")
"""How eaters' lines differ, so that no colour is needed to tell them."""


@dataclass(frozen=True)
class Mark:
    """A mark of an axis: where, and what stands at it."""

    at: float
    words: str


@dataclass(frozen=True)
class Drawn:
    """A line: its name, how it is dashed, its points as SVG wants them, and where its name stands."""

    name: str
    dash: str
    points: str
    dots: tuple[tuple[float, float, str], ...]
    end: tuple[float, float]


@dataclass(frozen=True)
class Chart:
    """A figure over weeks: what it is, its lines, the marks of both axes, and the same as a table."""

    title: str
    unit: str
    lines: tuple[Drawn, ...]
    values: tuple[Mark, ...]
    weeks: tuple[Mark, ...]
    heads: tuple[str, ...]
    rows: tuple[tuple[date, tuple[str, ...]], ...]


def choices() -> list[tuple[str, str]]:
    """Every figure there is, by its name in an address, with its words."""
    return [
        ("energy_kcal", str(BY_KEY["energy_kcal"].label)),
        ("protein_g", str(BY_KEY["protein_g"].label)),
        *((key, str(say(str(words)))) for key, (words, _) in FIGURES.items()),
        *((key, str(BY_KEY[key].label)) for key in KEYS if key not in ("energy_kcal", "protein_g")),
    ]


def chart_of(weeks: Sequence[WeekSummary], figure: str) -> Chart:
    """A figure over weeks, drawn."""
    lines = lines_of(weeks, figure)
    marks = axis_of([p.value for line in lines for p in line.points])
    days = [w.first_day for w in weeks]
    across = {day: LEFT + (WIDTH - LEFT - RIGHT) * (n + 0.5) / max(1, len(days)) for n, day in enumerate(days)}
    low, high = (marks[0], marks[-1]) if marks else (0.0, 1.0)

    def down(value: float) -> float:
        share = (value - low) / (high - low) if high > low else 0.5
        return round(HEIGHT - BOTTOM - share * (HEIGHT - TOP - BOTTOM), 1)

    drawn = []
    for n, line in enumerate(lines):
        dots = tuple(
            (round(across[p.first_day], 1), down(p.value), f"{_week(p.first_day)}: {_told(figure, p.value)}")
            for p in line.points
        )
        points = " ".join(f"{x},{y}" for x, y, _ in dots)
        drawn.append(Drawn(line.name, DASHES[n % len(DASHES)], points, dots, dots[-1][:2]))
    every = max(1, len(days) // 12)
    words, unit = FIGURES[figure] if figure in FIGURES else (BY_KEY[figure].label, str(BY_KEY[figure].unit))
    return Chart(
        str(say(str(words))),
        str(unit),
        tuple(drawn),
        tuple(Mark(down(m), _told(figure, m)) for m in marks),
        tuple(Mark(round(across[d], 1), str(week_number(d))) for d in days[::every]),
        heads=tuple(line.name or str(say(str(words))) for line in lines),
        rows=tuple((day, tuple(_cell(figure, line, day) for line in lines)) for day in reversed(days)),
    )


def _week(day: date) -> str:
    return say("week {n}", n=week_number(day))


def _told(figure: str, value: float) -> str:
    if figure in SHARES:
        return percent(value)
    if figure == COST_A_DAY:
        return price(value)
    digits = 0 if figure in (THROWN_G, SESSIONS_MIN) else 1 if figure == MISS_G else BY_KEY[figure].decimals
    return shown(value, digits).replace("-", MINUS)


def _cell(figure: str, line: Line, day: date) -> str:
    point = next((p for p in line.points if p.first_day == day), None)
    if point is None:
        return say("not known")
    told = _told(figure, point.value)
    return say("at least {told}", told=told) if point.is_at_least else told
