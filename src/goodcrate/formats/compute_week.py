"""The JSON of `crate compute week`: fit portions to days, or plan the gaps of a week, with bounds and reasons."""

from typing import Annotated, Literal

from pydantic import Field

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_faults import check_plan_problem
from goodcrate.core.week.week_problem import (
    PlanDay,
    PlanDish,
    PlannedMeal,
    PlanRules,
    PlanSession,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
)
from goodcrate.formats.compute import Model
from goodcrate.formats.compute_fit import BandIn, Day, FitWeekIn, FitWeekOut, Key, MeanIn, PerGram, fitted, verify_fit
from goodcrate.formats.compute_till import TillIn, WeighedIn, till_faults, till_given, weighs_given


class PlanBandIn(BandIn):
    """A day to be planned: also the energies of whole blocks a box may give."""

    block_sums: list[Annotated[int, Field(gt=0, le=6000)]] = Field(default_factory=list, max_length=60)


class DishIn(Model):
    """A recipe the planner may use; `keeps_days` counts from its session."""

    key: Key
    name: str = Field(max_length=160)
    kcal_per_g: float = Field(ge=0.01, le=9.1)
    protein_per_g: float = Field(ge=0, le=1)
    low_g: float = Field(ge=0.1, le=5000)
    high_g: float = Field(ge=0.1, le=5000)
    batches: int = Field(1, ge=1, le=40)
    hands_on_min: float = Field(ge=0, le=1440)
    keeps_days: int = Field(ge=0, le=400)
    freezes: bool
    cost_per_g: float | None = Field(None, ge=0, le=10_000)
    others_per_g: dict[str, PerGram] = Field(default_factory=dict, description="Other nutrients in a gram, for bands.")
    most_g: float | None = Field(
        None, ge=1, le=100_000, description="The most its vessels hold at once; null for no limit."
    )
    unit_g: float | None = Field(
        None, ge=0.05, le=5000, description="What one whole egg, tin or pack makes of it; null for any."
    )
    favourite: bool = False
    keeps_dry: bool = Field(False, description="Kept in the cupboard: it takes no place in the fridge.")
    weighs: list[WeighedIn] = Field(
        default_factory=list, max_length=100, description="What it takes of the till's foods."
    )


class SlotIn(Model):
    """A slot of one day with the dishes that may stand there, or the one that stays (with its grams)."""

    eater: Key
    day: Day
    slot: Key
    dishes: list[Key] = Field(default_factory=list, max_length=1000)
    fixed: tuple[Key, Annotated[float, Field(gt=0, le=5000)]] | None = None
    fixed_session: str = Field("", max_length=80)


class SessionIn(Model):
    """A prep session on a day (before the first is negative), and the slots it is over in time for."""

    key: Key
    day: int = Field(ge=-7, le=13)
    serves: list[tuple[Key, Day, Key]] = Field(max_length=700)


class LargePortionsIn(Model):
    """At most so many portions of more than so many g wait at the end of a session: each goes into one box."""

    over_g: float = Field(ge=0, le=10_000)
    at_most: int = Field(ge=0, le=200)


class PlanWeekIn(Model):
    """Empty slots are filled."""

    slots: list[SlotIn] = Field(max_length=700)
    days: list[PlanBandIn] = Field(max_length=84)
    means: list[MeanIn] = Field(default_factory=list, max_length=12)
    dishes: list[DishIn] = Field(max_length=1000)
    sessions: list[SessionIn] = Field(max_length=14)
    different: int = Field(2, ge=1, le=14)
    repeats: int = Field(7, ge=1, le=56)
    freezer_boxes: int = Field(6, ge=0, le=200)
    freezer_taken: int = Field(0, ge=0, le=200, description="Places in it that other boxes hold.")
    fridge_boxes: int | None = Field(None, ge=1, le=200)
    fridge_taken: int = Field(0, ge=0, le=200)
    box_count: int | None = Field(
        None, ge=1, le=200, description="Boxes there are, full ones too; null does not count them."
    )
    fillings: int = Field(9, ge=1, le=9, description="How often a session may fill a dish's vessels.")
    containers: list[LargePortionsIn] = Field(default_factory=list, max_length=20)
    step_g: Literal[1, 5] = Field(5, description="Portions are in such steps, in g.")
    alike: bool = Field(True, description="An eater's portion of a dish is the same on all days of one kind.")
    aim: Literal["least_cooking", "most_variety", "lowest_cost", "within_budget"] = "least_cooking"
    till: TillIn | None = Field(None, description="How food is bought; without it a dish costs its `cost_per_g`.")
    limit_seconds: float = Field(20, ge=0.1, le=60)
    seed: int = Field(1, ge=0, le=1_000_000)


class WeekRequest(Model):
    """What to do with a week: `fit` or `plan`, with the part of that name."""

    mode: Literal["fit", "plan"]
    fit: FitWeekIn | None = None
    plan: PlanWeekIn | None = None


class MealOut(Model):
    """A dish in a slot."""

    eater: str
    day: int
    slot: str
    dish: str
    grams: float
    session: str
    frozen: bool
    fixed: bool


class ConflictOut(Model):
    """A rule that stands in the way, and the change that would free it."""

    rule: str
    words: str
    change: str
    field: str = Field("", description="What the nearest change that surely frees a week changes, if one was found.")
    value: int = 0
    way: int = Field(description="Conflicts of one way free a week together; each way does alone.")
    tried: bool = Field(False, description="A week was found with it.")
    least: bool = Field(False, description="It is proven that one less frees none.")


class PlanWeekOut(Model):
    """The best week found, and a certificate: no week of the set that `proven_of` tells takes less than its bounds."""

    meals: list[MealOut]
    batches: int
    hands_on_min: float
    bound_batches: int
    bound_min: float
    proven_best: bool
    gap_batches: int = Field(description="Batches between the week and its bound.")
    seed: int
    limit_seconds: float
    proven_of: str = Field(description="The weeks the bounds and the proof are about.")
    left_over_g: float
    polish_gap_pct: float | None
    fillings_again: int = Field(description="Fillings of vessels after a batch's first; their minutes are in the sum.")
    till: float | None = Field(description="What the list costs in whole packs; null without a till.")


class Verified(Model):
    """What is wrong with an answer; nothing when it holds."""

    faults: list[str]


class WeekResult(Model):
    """What was asked for; without a plan, the conflicts that keep it away."""

    mode: str
    fit: FitWeekOut | None = None
    plan: PlanWeekOut | None = None
    conflicts: list[ConflictOut] = Field(default_factory=list)
    ran_out: bool = Field(False, description="The time was not enough to tell; else, without a plan, none can be.")


def compute_week(request: WeekRequest) -> WeekResult:
    """Fit or plan a week.

    Raises:
        InvalidInput, InvalidInputs: naming the field that cannot be used.
    """
    if request.mode == "fit":
        if request.fit is None:
            raise InvalidInput("fit", "What is to be fitted?", "Give portions and days.")
        return WeekResult(mode="fit", fit=fitted(request.fit))
    if request.plan is None:
        raise InvalidInput("plan", "What is to be planned?", "Give slots, days, dishes and sessions.")
    return _planned(request.plan)


def _planned(given: PlanWeekIn) -> WeekResult:
    if faults := list(till_faults(given.till, [dish.weighs for dish in given.dishes], given.aim)):
        raise InvalidInputs(faults)
    problem = _plan_problem(given)
    check_plan_problem(problem)
    result = plan_week(problem)
    if result.plan is not None:
        return WeekResult(mode="plan", plan=_plan_out(result.plan, problem))
    conflicts = [
        ConflictOut(
            rule=c.rule,
            words=c.words,
            change=c.change,
            field=c.field,
            value=c.value,
            way=c.way,
            tried=c.is_tried,
            least=c.is_least,
        )
        for c in result.conflicts
    ]
    return WeekResult(mode="plan", conflicts=conflicts, ran_out=result.ran_out)


def _plan_problem(given: PlanWeekIn) -> WeekPlanProblem:
    return WeekPlanProblem(
        tuple(
            PlanSlot(s.eater, s.day, s.slot, tuple(s.dishes), s.fixed, fixed_session=s.fixed_session)
            for s in given.slots
        ),
        tuple(
            PlanDay(
                d.eater,
                d.day,
                d.kind,
                d.energy_low_kcal,
                d.energy_high_kcal,
                d.protein_floor_g,
                extra_kcal=d.fixed_kcal,
                extra_protein_g=d.fixed_protein_g,
                bands=d.other_bands,
                block_sums=tuple(d.block_sums),
            )
            for d in given.days
        ),
        _plan_dishes(given),
        tuple(PlanSession(s.key, s.day, frozenset(s.serves)) for s in given.sessions),
        PlanRules(
            given.different,
            given.repeats,
            given.freezer_boxes,
            given.fridge_boxes,
            given.box_count,
            given.fillings,
            freezer_taken=given.freezer_taken,
            fridge_taken=given.fridge_taken,
            aim=given.aim,
            limit_seconds=given.limit_seconds,
            seed=given.seed,
            containers=tuple((c.over_g, c.at_most) for c in given.containers),
            step_g=given.step_g,
            alike=given.alike,
        ),
        till=None if given.till is None else till_given(given.till),
        means=tuple(mean.value for mean in given.means),
    )


def _plan_dishes(given: PlanWeekIn) -> tuple[PlanDish, ...]:
    return tuple(
        PlanDish(
            d.key,
            d.name,
            d.kcal_per_g,
            d.protein_per_g,
            d.low_g,
            d.high_g,
            batches=d.batches,
            hands_on_min=d.hands_on_min,
            keeps_days=d.keeps_days,
            freezes=d.freezes,
            cost_per_g=d.cost_per_g,
            others_per_g=d.others_per_g,
            most_g=d.most_g,
            unit_g=d.unit_g,
            is_favourite=d.favourite,
            keeps_dry=d.keeps_dry,
            weighs=weighs_given(d.weighs),
        )
        for d in given.dishes
    )


def proven_of(rules: PlanRules) -> str:
    """The weeks that bounds and proof are about."""
    alike = "is the same on all days of one kind" if rules.alike else "may differ from day to day"
    return (
        "Every slot gets one of its dishes, from a session that is over in time; an eater's portion of a dish "
        f"{alike}, in steps of {rules.step_g:.0f} g (whole blocks for who eats in them); days, floors and bands are "
        "judged in whole kcal and grams. A batch counts as 1,000 hands-on minutes."
    )


def verify_week(request: WeekRequest, answer: WeekResult) -> Verified:
    """Hold an answer against its request, from the two alone: nothing of how it was found is used.

    Raises:
        InvalidInput, InvalidInputs: naming the field that cannot be used.
    """
    if answer.mode != request.mode:
        raise InvalidInput(
            "mode", f"It answers “{answer.mode}”, not “{request.mode}”.", "Give the answer to this request."
        )
    if request.fit is not None and answer.fit is not None:
        return Verified(faults=verify_fit(request.fit, answer.fit))
    if request.plan is None or answer.plan is None:
        raise InvalidInput("plan", "There is no plan in the answer.", "Verify an answer with a plan or a fit.")
    problem, told = _plan_problem(request.plan), answer.plan
    check_plan_problem(problem)
    meals = tuple(
        PlannedMeal(m.eater, m.day, m.slot, m.dish, m.grams, m.session, is_frozen=m.frozen, is_fixed=m.fixed)
        for m in told.meals
    )
    known = {(s.eater_key, s.day, s.slot_key) for s in problem.slots}
    strange = [
        m for m in meals if (m.eater_key, m.day, m.slot_key) not in known or m.dish_key not in problem_keys(problem)
    ]
    if strange:
        return Verified(
            faults=[
                f"{m.dish_key} in {m.slot_key} of {m.eater_key}, day {m.day}, is not of this request" for m in strange
            ]
        )
    plan = WeekPlan(
        meals,
        told.batches,
        told.hands_on_min,
        told.bound_batches,
        told.bound_min,
        is_proven_best=told.proven_best,
        deterministic_time=0.0,
        fillings_again=told.fillings_again,
        till=told.till,
    )
    faults = check_plan(problem, plan)
    if (told.bound_batches, told.bound_min) > (told.batches, told.hands_on_min):
        faults.append("the bound is above the week itself")
    if told.proven_best and (told.bound_batches, round(told.bound_min, 2)) != (
        told.batches,
        round(told.hands_on_min, 2),
    ):
        faults.append("it is called proven best, and is not at its bound")
    return Verified(faults=faults)


def problem_keys(problem: WeekPlanProblem) -> frozenset[str]:
    """The keys of a problem's dishes."""
    return frozenset(d.key for d in problem.dishes)


def _plan_out(plan: WeekPlan, problem: WeekPlanProblem) -> PlanWeekOut:
    meals = [
        MealOut(
            eater=m.eater_key,
            day=m.day,
            slot=m.slot_key,
            dish=m.dish_key,
            grams=m.grams,
            session=m.session_key,
            frozen=m.is_frozen,
            fixed=m.is_fixed,
        )
        for m in plan.meals
    ]
    return PlanWeekOut(
        meals=meals,
        batches=plan.batches,
        hands_on_min=plan.hands_on_min,
        bound_batches=plan.bound_batches,
        bound_min=plan.bound_min,
        proven_best=plan.is_proven_best,
        gap_batches=plan.batches - plan.bound_batches,
        seed=problem.rules.seed,
        limit_seconds=problem.rules.limit_seconds,
        proven_of=proven_of(problem.rules),
        left_over_g=plan.left_over_g,
        polish_gap_pct=plan.polish_gap_pct,
        fillings_again=plan.fillings_again,
        till=plan.till,
    )
