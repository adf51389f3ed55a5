"""How a day came from planned to eaten, as its page draws it: a bar for each step, and the tape with the working."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import accumulate, pairwise

from goodcrate.core.cook.against_plan import MOST_TOLD, Shift, against_plan
from goodcrate.core.ground.nutrients import BY_KEY
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import day_month, many, signed, weekday_whole
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
from goodcrate.core.store.at_table import FATE_WORDS, PART, Plate
from goodcrate.core.store.box import why_of
from goodcrate.core.targets.day_target import DayTarget
from goodcrate.services.review.week_story import EaterDayStory, WeekStory
from goodcrate.web.drawing import energy_beam, protein_beam
from goodcrate.web.figures import grams, number
from goodcrate.web.review.view import mean_of
from goodcrate.web.tape import Tape, TapeLine, Why

ORDER = (STOVE, PORTION, SWAP, TABLE, NOT_EATEN, TO_COME, BESIDES)
SMALL_SHARE = 0.002
"""Steps under so much of what was planned (5 of 2,400 kcal) are told together."""
BY_BOXES = (STOVE, PORTION)


@dataclass(frozen=True)
class StepTold:
    """A step in words, what it is by in a few more, its amount in the nutrient's unit and the grams behind it."""

    words: str
    amount: float
    kind: str
    note: str = ""
    grams: float = 0.0


@dataclass(frozen=True)
class Bar:
    """A step of a day as a bar: what it is, how much as it is shown, and from where to where it goes, in per cent."""

    words: str
    amount: str
    x_pct: float
    width_pct: float
    kind: str
    is_less: bool


@dataclass(frozen=True)
class DayBars:
    """How a day came from planned to eaten by a nutrient: bars, where the band stands, and the figures at both ends."""

    title: str
    nutrient: str
    unit: str
    planned: str
    eaten: str
    ends: tuple[float, float]
    bars: tuple[Bar, ...]
    band: tuple[float, float] | None
    band_words: str = ""


def _band(target: DayTarget | None, nutrient: str) -> tuple[float, float | None] | None:
    if target is None:
        return None
    if nutrient == "energy_kcal":
        return target.energy_low_kcal, target.energy_high_kcal
    return (target.protein_floor_g, None) if nutrient == "protein_g" else None


def bars_of(story: WeekStory, day: EaterDayStory, nutrient: str) -> DayBars:
    """The steps of a day, from what was planned to what was eaten; small ones together."""
    about, of_day = BY_KEY[nutrient], day.of(nutrient)
    scale = 10**about.decimals
    told = _told(story, of_day)
    steps = whole_steps([t.amount * scale for t in told], of_day.planned * scale, of_day.eaten * scale)
    first = int(of_day.planned * scale + 0.5)
    ends = list(accumulate(steps, initial=first))
    band = _band(day.eater.target_on(day.day.weekday()), nutrient)
    inside = [end * scale for end in band or () if end is not None]
    low, high = min(*ends, *inside), max(*ends, *inside)
    room = max(float(high - low), 1.0) * 1.08

    def at(value: float) -> float:
        return round(6 + 92 * (value - float(low)) / room, 1)

    bars = tuple(
        Bar(t.words, signed(n / scale, about.decimals), at(min(pair)), _width(at(pair[0]), at(pair[1])), t.kind, n < 0)
        for t, n, pair in zip(told, steps, pairwise(ends), strict=True)
    )
    return DayBars(
        _title(day, nutrient),
        nutrient,
        str(about.unit),
        number(first / scale, about.decimals),
        number(ends[-1] / scale, about.decimals),
        ends=(at(first), at(ends[-1])),
        bars=bars,
        band=None if band is None else (at(inside[0]), at(inside[1]) if len(inside) > 1 else 100.0),
        band_words=_band_words(band, nutrient),
    )


def _width(start: float, end: float) -> float:
    return round(max(abs(end - start), 0.4), 1)


def _band_words(band: tuple[float, float | None] | None, nutrient: str) -> str:
    if band is None:
        return ""
    low, high = band
    unit = str(BY_KEY[nutrient].unit)
    if high is None:
        return say("from {low} {unit} on", low=number(low, 0), unit=unit)
    return say("band {low} to {high} {unit}", low=number(low, 0), high=number(high, 0), unit=unit)


def _title(day: EaterDayStory, nutrient: str) -> str:
    """“Why Maren’s Tuesday was short”: in the words of the day's own band where it is over and outside."""
    who, when = day.eater.first_name, day.day
    target = day.eater.target_on(when.weekday())
    told = {"who": who, "day": weekday_whole(when), "what": BY_KEY[nutrient].label}
    if target is not None and day.is_over:
        eaten = day.of(nutrient).eaten
        beam = {"energy_kcal": energy_beam, "protein_g": protein_beam}.get(nutrient)
        standing = "" if beam is None else str(beam(eaten, target).standing)
        if standing == "short":
            return say("Why {who}’s {day} was short", **told)
        if standing == "over":
            return say("Why {who}’s {day} was over", **told)
    return say("How {who}’s {day} came about", **told)


def steps_told(story: WeekStory, day: EaterDayStory, nutrient: str, *, whole: bool = False) -> list[StepTold]:
    """The steps of a day in words; with `whole` the small ones each by itself."""
    of_day = day.of(nutrient)
    if whole:
        return [_step(story, step) for step in sorted(of_day.steps, key=lambda s: ORDER.index(s.kind))]
    return _told(story, of_day)


def _told(story: WeekStory, of_day: DayStory) -> list[StepTold]:
    """Steps in the order in which they came about, the small ones as one at the end."""
    small, told = 0.0, list[StepTold]()
    least = SMALL_SHARE * max(of_day.planned, of_day.eaten)
    for step in sorted(of_day.steps, key=lambda s: ORDER.index(s.kind)):
        if abs(step.amount) < least:
            small += step.amount
        else:
            told.append(_step(story, step))
    if small:
        told.append(StepTold(say("small differences"), small, "small"))
    return told


def _step(story: WeekStory, step: Step) -> StepTold:
    if step.kind == BESIDES:
        besides = (food for foods in story.table.off_plan.values() for food in foods)
        said = next((food.said for food in besides if food.key == step.key), say("food besides"))
        return StepTold(said, step.amount, step.kind, say("eaten besides"), step.grams)
    plate = story.table.plates[step.key]
    told = {
        "slot": _slot_name(story, step.key),
        "dish": story.table.recipe(plate).name,
        "g": grams(abs(step.grams)),
        "by": ", ".join(_shifts(story, step.key)) if step.kind == STOVE else "",
    }
    words, note = _worded(step, plate, told)
    return StepTold(words, step.amount, step.kind, note, step.grams)


def _slot_name(story: WeekStory, meal_key: str) -> str:
    """What a meal is called on its day: its slot."""
    meal = next(m for m in story.table.picture.meals if str(m.id) == meal_key)
    slots = (s.name for e in story.table.picture.eaters for s in e.slots if s.id == meal.slot_id)
    return next(slots, story.table.picture.recipes[str(meal.recipe_id)].name)


_PLAIN = {
    SWAP: (Saying("{slot}: another box"), Saying("swapped for {dish}")),
    TABLE: (Saying("{slot}: weighed otherwise"), Saying("{dish}, at the table")),
    TO_COME: (Saying("{slot}: still to be eaten"), Saying("{dish}; said on Today once it is")),
}


def _worded(step: Step, plate: Plate, told: Mapping[str, str]) -> tuple[str, str]:
    """A step in words, with what is to say besides."""
    if step.kind == STOVE:
        words = say("{slot}: {by}", **told) if told["by"] else say("{slot}: otherwise in the pot", **told)
        return words, say("changed at the stove")
    if step.kind == PORTION:
        more, less = say("{slot}: {g} g more in the box", **told), say("{slot}: {g} g less in the box", **told)
        return more if step.grams >= 0 else less, say("portioned")
    if step.kind == NOT_EATEN:
        why = why_of(plate.box)
        note = say("{dish}: {why}", why=why, **told) if why else told["dish"]
        if plate.fate == PART:
            return say("{slot}: {g} g left", **told), note
        fate = str(say(str(FATE_WORDS[plate.fate]))) if plate.fate in FATE_WORDS else say("not eaten")
        return say("{slot}: {fate}", fate=fate, **told), note
    words, note = _PLAIN[step.kind]
    return say(str(words), **told), say(str(note), **told)


def _shifts(story: WeekStory, meal_key: str) -> Iterator[str]:
    """What went into a meal's pots otherwise than planned, the largest shift first."""
    shifts: list[Shift] = []
    for worked in story.table.picture.outcome.batches:
        if any(p.placing_key == meal_key for p in worked.plan.portions):
            shifts += against_plan(worked.record.lines, worked.outcome.state, ()).shifts
    shifts.sort(key=lambda s: -abs(s.kcal or 0.0))
    for shift in shifts[: MOST_TOLD - 1]:
        g = grams(abs(shift.grams))
        more = say("{g} g more {name}", g=g, name=shift.name)
        yield more if shift.grams > 0 else say("{g} g less {name}", g=g, name=shift.name)


def tape_of(story: WeekStory, day: EaterDayStory, nutrient: str) -> Tape:
    """The working of a day: from what was planned over what was in the boxes to what was eaten, each step by its grams,
    with the doubt and where the day's band is."""
    about, of_day = BY_KEY[nutrient], day.of(nutrient)
    digits, unit = about.decimals + 1, str(about.unit)
    told = _told(story, of_day)
    boxes = [line for line in told if line.kind in BY_BOXES]
    lines = [TapeLine(_planned_words(day), "", number(of_day.planned, digits)), *_lines(boxes, digits)]
    between = of_day.planned + sum(line.amount for line in boxes)
    lines.append(TapeLine(say("in the boxes"), "", number(between, digits)))
    lines += _lines([line for line in told if line.kind not in BY_BOXES], digits)
    kind = day.eater.day_type_on(day.day.weekday())
    of = [day_month(day.day), "" if kind is None else kind.name, f"{unit}, {say('to {digits} decimal', digits=digits)}"]
    return Tape(
        say("{who}’s {day}", who=day.eater.first_name, day=weekday_whole(day.day)),
        ", ".join(part for part in of if part),
        tuple(lines),
        tuple(_sums(day, nutrient, digits)),
        tuple(_whys(story, day)),
        heading=unit,
    )


def _planned_words(day: EaterDayStory) -> str:
    return say("planned, {boxes}", boxes=many(len(day.meals), "box", "boxes"))


def _lines(told: Iterable[StepTold], digits: int) -> Iterator[TapeLine]:
    for one in told:
        a_gram = one.amount / one.grams if abs(one.grams) >= 0.5 and one.amount * one.grams > 0 else None
        working = "" if a_gram is None else f"{grams(abs(one.grams))} g × {number(a_gram, 2)}"
        yield TapeLine(one.words, working, signed(one.amount, digits), one.note)


def _sums(day: EaterDayStory, nutrient: str, digits: int) -> Iterator[TapeLine]:
    measured, target = day.eaten.amount(nutrient), day.eater.target_on(day.day.weekday())
    note = ""
    if measured.is_at_least:
        share = number(100 * measured.unknown_share, 0)
        note = say("at least: of {share} % of the weight it is not known", share=share)
    yield TapeLine(say("eaten"), "", number(measured.value, digits), note)
    if measured.standard_error:
        yield TapeLine(say("give or take"), "", f"± {number(max(measured.standard_error, 10.0**-digits), digits - 1)}")
    band = _band(target, nutrient)
    if target is None or band is None or not day.is_over:
        return
    beam = (energy_beam if nutrient == "energy_kcal" else protein_beam)(measured.value, target)
    yield TapeLine(_band_words(band, nutrient), "", beam.words)


def _whys(story: WeekStory, day: EaterDayStory) -> Iterator[Why]:
    if day.is_open:
        yield Why(say("A meal of it is still to be eaten: it is not judged yet."))
        return
    yield Why(say("The parts sum to the last digit: nothing is left unexplained."))
    mean = mean_of(story, day.eater)
    if mean is not None:
        told = {
            "kcal": number(mean.kcal, 0),
            "wanted": number(mean.target_kcal, 0),
            "by": number(abs(mean.by_pct), 1),
            "days": many(mean.days, "whole day"),
        }
        close = say(
            "The mean of {days} is {kcal} of {wanted} kcal, {by} % away: within 2 %, nothing to make up.", **told
        )
        far = say("The mean of {days} is {kcal} of {wanted} kcal, {by} % away.", **told)
        yield Why(close if mean.is_close else far)


def chosen_day(days: Sequence[EaterDayStory], asked: str) -> EaterDayStory | None:
    """The day that an address names, else the last one that is over and outside its band, else the last said one."""
    by_key = {f"{d.eater.id}.{d.day.isoformat()}": d for d in days}
    if asked in by_key:
        return by_key[asked]
    said = [d for d in days if d.is_said]
    return next((d for d in reversed(said) if _is_outside(d)), said[-1] if said else None)


def _is_outside(day: EaterDayStory) -> bool:
    target = day.eater.target_on(day.day.weekday())
    return day.is_over and target is not None and not energy_beam(day.of("energy_kcal").eaten, target).is_inside
