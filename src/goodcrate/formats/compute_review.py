"""The JSON of `crate compute review`: a week planned, weighed and eaten in; its days, nutrients, proposals out."""

from collections.abc import Iterator
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import KEYS, Tally
from goodcrate.core.recipes.yields import learned_yield
from goodcrate.core.review.day_story import DayStory, MealStory, day_story
from goodcrate.core.review.intakes import standings
from goodcrate.core.review.learned import BoxFate, dish_fates
from goodcrate.core.review.proposals import better_yield, smaller_by
from goodcrate.core.store.at_table import OffPlan
from goodcrate.core.targets.day_target import DayTarget, judge_energy, judge_protein
from goodcrate.formats.compute import Model
from goodcrate.formats.reference import intake_table

Key = Annotated[str, Field(min_length=1, max_length=80)]
Grams = Annotated[float, Field(ge=0, le=50_000)]
Figures = dict[str, Annotated[float, Field(ge=0, le=1_000_000)]]


class AmountIn(Model):
    """Some food: its grams and what it holds. A nutrient that is left out is unknown for all of it, not 0."""

    grams: Grams
    holds: Figures = Field(description=f"By nutrient, each in its unit: {', '.join(KEYS)}.")


class TargetIn(Model):
    """What a day must keep to."""

    energy_kcal: float = Field(ge=200, le=10_000)
    protein_floor_g: float = Field(ge=0, le=500)
    energy_band_pct: float = Field(3.0, ge=0, le=30)


class MealIn(Model):
    """A meal at its stations. Each that is left out is as the one before it; `eaten` left out is still to come."""

    key: Key
    dish: Key
    planned: AmountIn
    cooked: AmountIn | None = Field(None, description="Its planned share of what was really in the pot.")
    packed: AmountIn | None = Field(None, description="The box as it was filled.")
    on_plate: AmountIn | None = Field(None, description="The box that stood there: another one, when it was swapped.")
    weighed: AmountIn | None = Field(None, description="The same with what was weighed at the table.")
    eaten_share: float | None = Field(None, ge=0, le=1, description="Of what stood there, what was eaten.")
    thrown_g: Grams = 0.0


class BesidesIn(Model):
    """Something that was eaten besides."""

    name: Key
    amount: AmountIn


class DayIn(Model):
    """A day of an eater."""

    eater: Key
    day: date
    target: TargetIn | None = None
    meals: list[MealIn] = Field(default_factory=list, max_length=20)
    besides: list[BesidesIn] = Field(default_factory=list, max_length=50)


class EaterIn(Model):
    """Who eats. Without sex and age the most is asked that is asked of any adult."""

    key: Key
    sex: Literal["female", "male", ""] = ""
    age_years: float | None = Field(None, ge=0, le=120)
    weight_kg: float | None = Field(None, ge=20, le=400)


class PotIn(Model):
    """A component of which pots were weighed: the yield its recipe expects, and those of its last pots, the last one
    last; each is cooked g per g weighed in."""

    name: Key
    expects: float = Field(gt=0, le=10)
    yields: list[Annotated[float, Field(gt=0, le=10)]] = Field(min_length=1, max_length=100)


class ReviewRequest(Model):
    """A week that was."""

    eaters: list[EaterIn] = Field(min_length=1, max_length=20)
    days: list[DayIn] = Field(min_length=1, max_length=300)
    pots: list[PotIn] = Field(default_factory=list, max_length=500)


class StepOut(Model):
    """Why a day has so much more or less: stove, portion, swap, table, not_eaten, to_come or besides."""

    kind: str
    of: str
    amount: float


class SumOut(Model):
    """A day by a nutrient: `planned` plus all steps is `eaten`."""

    planned: float
    packed: float
    eaten: float
    steps: list[StepOut]


class DayOut(Model):
    """A day: its sums, and how it stands where it is over and has a target."""

    eater: str
    day: date
    is_over: bool
    sums: dict[str, SumOut]
    energy: Literal["inside", "short", "over"] | None
    energy_by: float | None
    protein: Literal["inside", "short", "over"] | None


class StandingOut(Model):
    """A nutrient of an eater a day, on the mean of the days that are over, against what is asked."""

    eater: str
    nutrient: str
    known: float
    unknown_share: float
    wanted: float | None
    limits: list[float]
    says: str
    sources: list[str]


class ProposalOut(Model):
    """What to do otherwise: a yield to expect, or by what to multiply an eater's portions of a dish."""

    kind: Literal["yield", "smaller"]
    of: str
    eater: str
    now: float
    proposed: float


class ReviewResult(Model):
    """The week looked back on."""

    days: list[DayOut]
    nutrients: list[StandingOut]
    proposals: list[ProposalOut]


def compute_review(request: ReviewRequest) -> ReviewResult:
    """Look back on a week.

    Raises:
        InvalidInputs: naming every day of nobody, day that stands twice, and nutrient that is none.
    """
    faults = [*_faults(request)]
    if faults:
        raise InvalidInputs(faults)
    eaten: dict[str, list[Tally]] = {eater.key: [] for eater in request.eaters}
    boxes, days = list[BoxFate](), list[DayOut]()
    for day in request.days:
        meals = [_meal(meal) for meal in day.meals]
        besides = [OffPlan(b.name, day.day, b.name, _tally(b.amount)) for b in day.besides]
        is_over = bool(meals or besides) and not any(m.is_open for m in meals)
        if is_over:
            eaten[day.eater].append(Tally.sum([*(m.eaten for m in meals), *(b.tally for b in besides)]))
        for given, meal in zip(day.meals, meals, strict=True):
            if not meal.is_open:
                grams = meal.with_weighed.grams
                boxes.append(BoxFate(given.dish, day.eater, grams, meal.eaten.grams, given.thrown_g))
        days.append(_day(day, meals, besides, is_over=is_over))
    return ReviewResult(
        days=days,
        nutrients=[line for eater in request.eaters for line in _nutrients(eater, eaten[eater.key])],
        proposals=[*_smaller(boxes), *_yields(request)],
    )


def _faults(request: ReviewRequest) -> Iterator[InvalidInput]:
    known, seen = {eater.key for eater in request.eaters}, set[tuple[str, date]]()
    for n, day in enumerate(request.days):
        if day.eater not in known:
            yield InvalidInput(f"days.{n}.eater", f"There is no eater “{day.eater}”.", "Name one of eaters.")
        if (day.eater, day.day) in seen:
            yield InvalidInput(f"days.{n}.day", f"{day.eater} has {day.day} twice.", "Give each day once.")
        seen.add((day.eater, day.day))
        for place, amount in _amounts(day):
            for key in amount.holds:
                if key not in KEYS:
                    told = f"“{key}” is no nutrient."
                    yield InvalidInput(f"days.{n}.{place}.holds", told, "See the schema for their names.")


def _amounts(day: DayIn) -> Iterator[tuple[str, AmountIn]]:
    for k, meal in enumerate(day.meals):
        for name in ("planned", "cooked", "packed", "on_plate", "weighed"):
            amount: AmountIn | None = getattr(meal, name)
            if amount is not None:
                yield f"meals.{k}.{name}", amount
    for k, one in enumerate(day.besides):
        yield f"besides.{k}.amount", one.amount


def _tally(given: AmountIn) -> Tally:
    known = tuple(given.holds.get(key, 0.0) for key in KEYS)
    unknown = tuple(0.0 if key in given.holds else given.grams for key in KEYS)
    return Tally(given.grams, known, unknown)


def _meal(given: MealIn) -> MealStory:
    stations = [_tally(given.planned)]
    for amount in (given.cooked, given.packed, given.on_plate, given.weighed):
        stations.append(stations[-1] if amount is None else _tally(amount))
    is_open = given.eaten_share is None
    eaten = Tally() if given.eaten_share is None else stations[-1].scaled(given.eaten_share)
    planned, cooked, packed, on_plate, weighed = stations
    return MealStory(given.key, planned, cooked, packed, on_plate, with_weighed=weighed, eaten=eaten, is_open=is_open)


def _day(day: DayIn, meals: list[MealStory], besides: list[OffPlan], *, is_over: bool) -> DayOut:
    keys = {key for _, amount in _amounts(day) for key in amount.holds}
    sums = {key: day_story(meals, besides, Tally(), key) for key in KEYS if key in keys}
    energy = protein = None
    if is_over and day.target is not None:
        target = DayTarget(day.target.energy_kcal, day.target.protein_floor_g, day.target.energy_band_pct)
        kcal, grams = (sums[key].eaten if key in sums else 0.0 for key in ("energy_kcal", "protein_g"))
        energy, protein = judge_energy(kcal, target), judge_protein(grams, target)
    return DayOut(
        eater=day.eater,
        day=day.day,
        is_over=is_over,
        sums={key: _sum(story) for key, story in sums.items()},
        energy=None if energy is None else energy.standing.value,
        energy_by=None if energy is None else energy.by,
        protein=None if protein is None else protein.standing.value,
    )


def _sum(story: DayStory) -> SumOut:
    steps = [StepOut(kind=s.kind, of=s.key, amount=s.amount) for s in story.steps]
    return SumOut(planned=story.planned, packed=story.packed, eaten=story.eaten, steps=steps)


def _nutrients(eater: EaterIn, days: list[Tally]) -> Iterator[StandingOut]:
    whole = Tally.sum(days)
    if not days or whole.grams <= 0:
        return
    amounts = {key: whole.amount(key) for key in KEYS}
    means = [(key, a.value / len(days), a.unknown_share) for key, a in amounts.items()]
    for one in standings(intake_table(), means, eater.sex, eater.age_years, eater.weight_kg):
        wanted = one.asked.wanted
        rows = (*((wanted,) if wanted else ()), *one.asked.limits)
        yield StandingOut(
            eater=eater.key,
            nutrient=one.nutrient,
            known=one.known,
            unknown_share=one.unknown_share,
            wanted=None if wanted is None else wanted.value,
            limits=[row.value for row in one.asked.limits],
            says=one.says,
            sources=list(dict.fromkeys(row.source for row in rows)),
        )


def _smaller(boxes: list[BoxFate]) -> Iterator[ProposalOut]:
    for fate in dish_fates(boxes):
        by = smaller_by(fate)
        if by is not None:
            a_box = fate.grams / fate.boxes
            yield ProposalOut(kind="smaller", of=fate.dish_key, eater=fate.eater_key, now=a_box, proposed=a_box * by)


def _yields(request: ReviewRequest) -> Iterator[ProposalOut]:
    for pot in request.pots:
        learned = learned_yield(pot.yields)
        if learned is not None and better_yield(pot.expects, learned.factor):
            yield ProposalOut(kind="yield", of=pot.name, eater="", now=pot.expects, proposed=learned.factor)
