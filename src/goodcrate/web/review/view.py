"""A week looked back on as its page draws it: beams with planned, weighed and eaten, the steps of a day, nutrients."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import accumulate, pairwise

from goodcrate.core.ground.nutrients import BY_KEY, KEYS
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import short
from goodcrate.core.review.day_story import (
    BESIDES,
    NOT_EATEN,
    PORTION,
    STOVE,
    SWAP,
    TABLE,
    TO_COME,
    DayStory,
    Step,
    whole_steps,
)
from goodcrate.core.review.intakes import LOW, NEAR, NOT_KNOWN, OVER, Standing, standings
from goodcrate.core.store.at_table import FATE_WORDS
from goodcrate.core.targets.eater import Eater
from goodcrate.formats.reference import intake_table
from goodcrate.services.review.week_story import EaterDayStory, WeekStory, means
from goodcrate.web.drawing import Beam, energy_beam, protein_beam
from goodcrate.web.figures import number, whole

STEP_WORDS = {
    STOVE: Saying("{dish}: changed at the stove"),
    PORTION: Saying("{dish}: more or less in the box"),
    SWAP: Saying("another box instead of {dish}"),
    TABLE: Saying("{dish}: weighed otherwise at the table"),
    TO_COME: Saying("{dish}: still to be eaten"),
}
SMALL_KCAL = 5
"""Steps under so many kcal are told together."""


@dataclass(frozen=True)
class DayMark:
    """A day of an eater on its beams: where what was planned and what was weighed into the boxes stand on the energy
    beam, per cent of its width, and what was eaten (None while nothing is)."""

    key: str
    day: date
    planned_pct: float
    packed_pct: float
    energy: Beam | None
    protein: Beam | None
    words: str = ""


@dataclass(frozen=True)
class Bar:
    """A step of a day as a bar: what it is, how much in whole units, and from where to where it goes, in per cent."""

    words: str
    amount: int
    x_pct: float
    width_pct: float
    kind: str = ""


@dataclass(frozen=True)
class DayBars:
    """How a day came from planned to eaten: kcal, bars, and where the band stands."""

    who: str
    day: date
    planned: int
    eaten: int
    bars: tuple[Bar, ...]
    band: tuple[float, float] | None


@dataclass(frozen=True)
class NutrientLine:
    """A nutrient of an eater's mean day against what is asked: a bar, its words, and the share that is not known."""

    name: str
    bar_pct: float
    limit_pct: float | None
    words: str
    standing: str
    unknown_pct: float
    title: str
    is_at_least: bool


def marks_of(story: WeekStory, eater: Eater) -> list[DayMark]:
    """An eater's days on their beams."""
    return [_mark(day) for day in story.days if day.eater.id == eater.id]


def _mark(day: EaterDayStory) -> DayMark:
    target = day.eater.target_on(day.day.weekday())
    kcal, protein = day.of("energy_kcal"), day.of("protein_g")
    key = f"{day.eater.id}.{day.day.isoformat()}"
    if target is None or not day.meals:
        return DayMark(key, day.day, 50.0, 50.0, None, protein=None, words=say("nothing planned"))
    planned, packed = (energy_beam(value, target).marker_pct for value in (kcal.planned, kcal.packed))
    if not day.is_said:
        return DayMark(key, day.day, planned, packed, None, protein=None, words=say("nothing said of it yet"))
    if day.is_open:
        so_far = say(
            "{kcal} of {planned} kcal so far, {protein} g protein",
            kcal=whole(kcal.eaten),
            planned=whole(kcal.planned),
            protein=whole(protein.eaten),
        )
        return DayMark(key, day.day, planned, packed, None, protein=None, words=so_far)
    beams = energy_beam(kcal.eaten, target), protein_beam(protein.eaten, target)
    return DayMark(key, day.day, planned, packed, beams[0], protein=beams[1])


def bars_of(story: WeekStory, day: EaterDayStory) -> DayBars:
    """The steps of a day, from its planned to its eaten kcal; small ones together."""
    kcal = day.of("energy_kcal")
    told = list(_told(story, kcal))
    amounts = whole_steps([amount for _, amount, _ in told], kcal.planned, kcal.eaten)
    planned = int(kcal.planned + 0.5)
    ends = list(accumulate(amounts, initial=planned))
    target = day.eater.target_on(day.day.weekday())
    edges = [*ends, *((target.energy_low_kcal, target.energy_high_kcal) if target else ())]
    low, high = min(edges), max(edges)
    room = max(float(high - low), 1.0) * 1.1

    def at(value: float) -> float:
        return round(4 + 92 * (float(value) - float(low)) / room, 1)

    bars = tuple(
        Bar(words, amount, at(min(pair)), round(max(abs(at(pair[1]) - at(pair[0])), 0.4), 1), kind)
        for (words, _, kind), amount, pair in zip(told, amounts, pairwise(ends), strict=True)
    )
    band = (at(target.energy_low_kcal), at(target.energy_high_kcal)) if target else None
    return DayBars(day.eater.first_name, day.day, planned, ends[-1], bars, band)


def _told(story: WeekStory, kcal: DayStory) -> Iterator[tuple[str, float, str]]:
    """Steps with their words and kinds, the small ones as one at the end."""
    small = 0.0
    for step in kcal.steps:
        if abs(step.amount) < SMALL_KCAL:
            small += step.amount
        else:
            yield _words(story, step), step.amount, step.kind
    if small:
        yield say("small differences"), small, "small"


def _words(story: WeekStory, step: Step) -> str:
    if step.kind == BESIDES:
        besides = (food for foods in story.table.off_plan.values() for food in foods)
        return next((food.said for food in besides if food.key == step.key), say("food besides"))
    plate = story.table.plates[step.key]
    dish = story.table.recipe(plate).name
    if step.kind == NOT_EATEN:
        fate = str(say(str(FATE_WORDS[plate.fate]))) if plate.fate in FATE_WORDS else say("not eaten")
        return say("{dish}: {fate}", dish=dish, fate=fate)
    return say(str(STEP_WORDS[step.kind]), dish=dish)


def nutrients_of(days: Sequence[EaterDayStory], eater: Eater) -> list[NutrientLine]:
    """What an eater's days with something eaten brought on their mean, of every nutrient that is asked for."""
    told = standings(intake_table(), means(days, KEYS), eater.sex, eater.age_years)
    return [_line(standing) for standing in told if standing.asked.wanted is not None or standing.asked.limits]


def _line(one: Standing) -> NutrientLine:
    nutrient, wanted = BY_KEY[one.nutrient], one.asked.wanted
    full = 2 * wanted.value if wanted is not None else 1.2 * one.asked.limits[0].value
    limit = one.asked.limits[0] if one.asked.limits else None
    known, unit = number(one.known, nutrient.decimals), str(nutrient.unit)
    least = say("at least {known} {unit}", known=known, unit=unit) if one.is_at_least else f"{known} {unit}"
    words = (
        least if wanted is None else say("{known} of {wanted}", known=least, wanted=short(wanted.value, grouped=True))
    )
    if one.says == LOW and wanted is not None:
        words = say("{words}, low", words=words)
    if one.says == NOT_KNOWN:
        words = say("{words}; too much is not known to call it low", words=words)
    if one.limit is not None:
        told = {"words": words, "limit": short(one.limit.value, grouped=True)}
        near = say("{words}, near the limit of {limit}", **told)
        words = say("{words}, over the limit of {limit}", **told) if one.says == OVER else near
    sources = dict.fromkeys(row.source for row in ((wanted,) if wanted else ()) + one.asked.limits)
    notes = [row.note for row in ((wanted,) if wanted else ()) + one.asked.limits if row.note]
    at_limit = None if limit is None or limit.value > full else round(100 * limit.value / full, 1)
    return NutrientLine(
        str(nutrient.label),
        round(min(100.0, 100 * one.known / full), 1),
        at_limit,
        words,
        "bad" if one.says in (LOW, OVER) else "near" if one.says == NEAR else "",
        unknown_pct=round(100 * one.unknown_share, 0),
        title=" ".join([*sources, *notes]),
        is_at_least=one.is_at_least,
    )


def mean_words(days: Sequence[EaterDayStory]) -> str:
    """The mean energy of the days that are over: nothing of them is still to be eaten."""
    return next((say("mean {kcal} kcal", kcal=whole(kcal)) for _, kcal, _ in means(days, ["energy_kcal"])), "")
