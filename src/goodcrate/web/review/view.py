"""A week looked back on as its page draws it: each day on its beams with planned, in the boxes and eaten."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from urllib.parse import urlencode

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many
from goodcrate.core.targets.eater import Eater
from goodcrate.services.at_table.mean import MeanAtTable, mean_at_table
from goodcrate.services.review.week_story import EaterDayStory, WeekStory, is_in_band
from goodcrate.web.drawing import Beam, energy_beam, protein_beam
from goodcrate.web.figures import and_doubt, percent_signed, whole

SIDE_BY_SIDE = 2
"""So many eaters stand beside each other; more are drawn below."""


@dataclass(frozen=True)
class DayMark:
    """A day of an eater on its beams: where what was planned and what was weighed into the boxes stand on the energy
    beam, per cent of its width, and what was eaten (None while nothing is)."""

    key: str
    url: str
    planned_pct: float
    packed_pct: float
    energy: Beam | None
    protein: Beam | None
    doubt: str = ""
    words: str = ""
    protein_doubt: str = ""


@dataclass(frozen=True)
class DayRow:
    """A day with the marks of the eaters who stand beside each other."""

    day: date
    marks: tuple[DayMark, ...]


@dataclass(frozen=True)
class DaysTable:
    """Eaters beside each other: their names, their means in words, and their days."""

    heads: tuple[tuple[str, str], ...]
    rows: tuple[DayRow, ...]


def address(first_day: date, **chosen: str) -> str:
    """The page of a week with something chosen."""
    asked = urlencode({name: value for name, value in chosen.items() if value})
    return f"/review/{first_day}{'?' if asked else ''}{asked}"


def key_of(day: EaterDayStory) -> str:
    """A day of an eater as addresses name it."""
    return f"{day.eater.id}.{day.day.isoformat()}"


def tables_of(story: WeekStory) -> list[DaysTable]:
    """The days of all eaters, some beside each other."""
    picture, found = story.table.picture, []
    by_day = {(d.eater.id, d.day): d for d in story.days}
    for n in range(0, len(picture.eaters), SIDE_BY_SIDE):
        eaters = picture.eaters[n : n + SIDE_BY_SIDE]
        rows = tuple(
            DayRow(day, tuple(_mark(picture.week.first_day, by_day[e.id, day]) for e in eaters))
            for day in picture.dates
        )
        found.append(DaysTable(tuple((e.first_name, mean_words(story, e)) for e in eaters), rows))
    return found


def _mark(first_day: date, day: EaterDayStory) -> DayMark:
    target = day.eater.target_on(day.day.weekday())
    kcal, protein = day.of("energy_kcal"), day.of("protein_g")
    key = key_of(day)
    url = address(first_day, day=key)
    if target is None or not day.meals:
        return DayMark(key, url, 50.0, 50.0, None, protein=None, words=say("nothing planned"))
    planned, packed = (energy_beam(value, target).marker_pct for value in (kcal.planned, kcal.packed))
    if not day.is_said:
        return DayMark(key, url, planned, packed, None, protein=None, words=say("nothing said of it yet"))
    if day.is_open:
        so_far = say(
            "{kcal} of {planned} kcal so far, {protein} g protein",
            kcal=whole(kcal.eaten),
            planned=whole(kcal.planned),
            protein=whole(protein.eaten),
        )
        return DayMark(key, url, planned, packed, None, protein=None, words=so_far)
    beams = energy_beam(kcal.eaten, target), protein_beam(protein.eaten, target)
    measured = day.eaten.amount("energy_kcal")
    doubt = and_doubt(measured.standard_error)
    if measured.is_at_least:
        doubt = say("{doubt}, at least", doubt=doubt).strip(", ")
    in_protein = and_doubt(day.eaten.amount("protein_g").standard_error)
    return DayMark(key, url, planned, packed, beams[0], protein=beams[1], doubt=doubt, protein_doubt=in_protein)


def mean_words(story: WeekStory, eater: Eater) -> str:
    """How an eater's mean stands: of the whole days, against the mean of their targets."""
    mean = mean_of(story, eater)
    return "" if mean is None else say("mean {by}", by=percent_signed(mean.by_pct))


def mean_of(story: WeekStory, eater: Eater) -> MeanAtTable | None:
    """The mean of an eater's whole days, once one of them is over; None before."""
    if not any(d.is_over for d in story.days if d.eater.id == eater.id):
        return None
    return mean_at_table(story.table, eater)


def week_words(story: WeekStory, eaters: Sequence[Eater]) -> tuple[str, str]:
    """How many days kept to their bands, and whether the means are close to what is wanted; both empty before a day
    is over."""
    over = [d for d in story.days if d.is_over and d.eater.target_on(d.day.weekday()) is not None]
    if not over:
        return "", ""
    inside = sum(map(is_in_band, over))
    means = [(e.first_name, mean) for e in eaters if (mean := mean_of(story, e)) is not None]
    days = say("{inside} of {days} in band", inside=inside, days=many(len(over), "day"))
    return days, _means_told(means)


def _means_told(means: Iterable[tuple[str, MeanAtTable]]) -> str:
    there = list(means)
    far = [name for name, mean in there if not mean.is_close]
    if not there:
        return ""
    if far:
        return say("the mean of {names} more than 2 % away", names=", ".join(far))
    return say("each mean within 2 %")
