"""Bands on the mean of the week: little on five days and more on two, planned and fitted so, against all sizes."""

from dataclasses import replace
from datetime import time
from itertools import product
from uuid import UUID

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.store.slip_moves import LEAVE, DayNow, Movable, slip_moves
from goodcrate.core.targets.day_target import DayTarget, MeanTarget, NutrientBand, Standing, with_room
from goodcrate.core.targets.eater import DayType, Eater
from goodcrate.core.targets.slot import Slot
from goodcrate.core.week.fit.fit_check import check_week_fit
from goodcrate.core.week.fit.fit_problem import FitDay, FitPortion, WeekFitProblem
from goodcrate.core.week.fit.week_fit import fit_week
from goodcrate.core.week.plan.week_check import check_plan, mean_totals
from goodcrate.core.week.plan.week_eased import eased
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import (
    Conflict,
    PlanBand,
    PlanDay,
    PlanDish,
    PlanMean,
    PlanSession,
    PlanSlot,
    WeekPlanProblem,
)

FAT = NutrientBand("fat_g", 40, 80)
LITTLE, MORE = DayTarget(1700, 90, 3, (FAT,)), DayTarget(2500, 110, 3)


def eater(room_pct: float | None) -> Eater:
    """Little from Monday to Friday, more on Saturday and Sunday."""
    fewer = DayType(UUID(int=1), "little", 1700, 90, weekdays=(0, 1, 2, 3, 4), bands=(FAT,))
    more = DayType(UUID(int=2), "more", 2500, 110, weekdays=(5, 6))
    slot = Slot(UUID(int=3), UUID(int=9), "dinner", time(19))
    return Eater(UUID(int=9), "Maren", (fewer, more), (slot,), day_room_pct=room_pct)


def test_a_day_has_room_and_the_mean_has_the_bands() -> None:
    alone, roomy = eater(None), eater(20)
    assert alone.target_on(0) == LITTLE
    assert alone.mean_over(range(7)) is None
    monday = roomy.target_on(0)
    assert monday is not None
    assert (monday.energy_low_kcal, monday.energy_high_kcal) == pytest.approx((1360, 2040))
    assert monday.protein_floor_g == 72
    assert monday.bands == (FAT,), "only some days have it: it holds for each of them"
    mean = roomy.mean_over(range(7))
    assert mean is not None
    assert mean.energy_kcal == pytest.approx((5 * 1700 + 2 * 2500) / 7)
    assert mean.energy_low_kcal == pytest.approx(mean.energy_kcal * 0.97)
    assert mean.protein_floor_g == pytest.approx((5 * 90 + 2 * 110) / 7)
    assert mean.bands == ()
    assert MeanTarget.of([LITTLE, LITTLE]).bands == (FAT,)
    assert with_room(LITTLE, 25, ("fat_g",)).bands == (NutrientBand("fat_g", 30, 100),)


def test_the_mean_is_judged_in_whole_units() -> None:
    mean = MeanTarget.of([LITTLE])
    assert [j.standing for j in mean.judge(1648.6, 89.5)] == [Standing.INSIDE, Standing.INSIDE]
    energy, protein = mean.judge(1648.4, 89.4)
    assert (energy.standing, energy.by, protein.standing, protein.by) == (Standing.SHORT, 1, Standing.SHORT, 1)
    assert mean.missed_bands({"fat_g": 80.4}) == []
    assert mean.missed_bands({"fat_g": 80.6}) == ["fat"]


def fit_problem(*sizes: float, mean: PlanMean | None) -> WeekFitProblem:
    """A portion on each day, each of its own recipe: 2 kcal and 0.1 g of protein in a gram."""
    portions = tuple(
        FitPortion("maren", f"r{n}", grams, 2.0, 0.1, 200, high_g=600, days=(n,), others_per_g={"fat_g": 0.1})
        for n, grams in enumerate(sizes)
    )
    band = PlanBand("fat_g", 0, 500)
    days = tuple(FitDay("maren", n, 500, 1100, 20, bands=(band,)) for n in range(len(sizes)))
    return WeekFitProblem(portions, days, 10, () if mean is None else (mean,))


def test_a_fit_brings_the_mean_into_its_band() -> None:
    """Every day is in its room already; only the mean pulls."""
    wanted = PlanMean("maren", 780, 820, 38, (PlanBand("fat_g", 38, None),))
    alone = fit_problem(300, 300, 350, mean=None)
    assert [p.moved_g for p in fit_week(alone).portions] == [0, 0, 0]
    together = fit_problem(300, 300, 350, mean=wanted)
    fit = fit_week(together)
    assert check_week_fit(together, fit) == []
    assert fit.miss == 0
    [mean] = fit.means
    assert (mean.day, mean.is_met, mean.was_met) == (None, True, False)
    assert 780 <= mean.kcal <= 820
    moved = replace(fit, means=(replace(mean, kcal=mean.kcal + 30),))
    assert check_week_fit(together, moved) == ["the mean of maren does not add up"]
    lied = replace(fit, means=(replace(mean, miss_kcal=5.0),))
    assert check_week_fit(together, lied) == ["the mean of maren is met or not, and is said otherwise"]


@settings(max_examples=40, deadline=None)
@given(st.lists(st.sampled_from([200, 260, 330, 480, 600]), min_size=2, max_size=3), st.integers(300, 1300))
def test_no_other_sizes_bring_days_and_mean_nearer(sizes: list[int], middle: int) -> None:
    """Held against every size on a grid of the fit's own step."""
    problem = fit_problem(*map(float, sizes), mean=PlanMean("maren", middle * 0.97, middle * 1.03, 0.05 * middle))
    fit = fit_week(problem)
    assert check_week_fit(problem, fit) == []
    [wanted] = problem.means

    def miss(grams: tuple[int, ...]) -> float:
        def off(kcal: float, low: float, high: float, floor: float) -> float:
            return max(0, low - kcal) / low + max(0, kcal - high) / high + max(0, floor - kcal * 0.05) / floor

        kcal = [2.0 * g for g in grams]
        mean = sum(kcal) / len(kcal)
        on_mean = off(mean, wanted.energy_low_kcal, wanted.energy_high_kcal, wanted.protein_floor_g)
        return sum(off(k, 500, 1100, 20) for k in kcal) + len(kcal) * on_mean

    best = min(miss(grams) for grams in product(range(200, 601, 20), repeat=len(sizes)))
    assert fit.bound <= best + 1e-9
    assert fit.miss <= best + 0.05, "rounding to the step moves little"


def test_a_mean_that_cannot_be_is_named() -> None:
    bad = PlanMean("maren", 900, 800, 600, (PlanBand("sodium_mg", None, 2000),))
    with pytest.raises(InvalidInputs) as caught:
        fit_week(fit_problem(300.0, mean=bad))
    named = [f.field for f in caught.value.faults]
    assert named == ["means.0.energy_low_kcal", "means.0.protein_floor_g", "means.0.bands.0"]


def plan_problem(most_g: float, mean: PlanMean | None) -> WeekPlanProblem:
    """Four lunches, two of them little: of the one dish at most so many grams, 2 kcal in each."""
    dish = PlanDish("stew", "Stew", 2.0, 0.1, 100, most_g, batches=1, hands_on_min=20, keeps_days=9, freezes=True)
    slots = tuple(PlanSlot("maren", day, "lunch", ("stew",)) for day in range(4))
    kinds = (("little", 300, 500), ("more", 560, 1000))
    days = tuple(PlanDay("maren", day, *kinds[day % 2], 15) for day in range(4))
    session = PlanSession("sunday", -1, frozenset(("maren", day, "lunch") for day in range(4)))
    return WeekPlanProblem(slots, days, (dish,), (session,), means=() if mean is None else (mean,))


WANTED = PlanMean("maren", 600, 650, 30)


def test_a_plan_keeps_the_mean_and_says_when_none_can() -> None:
    free = plan_week(plan_problem(310, None)).plan
    assert free is not None, "each day by itself can be"
    assert plan_week(plan_problem(310, WANTED)).plan is None, "at most 500 and 620 kcal: 560 on the mean"
    problem = plan_problem(400, WANTED)
    plan = plan_week(problem).plan
    assert plan is not None
    assert check_plan(problem, plan) == []
    [total] = mean_totals(problem, plan)
    assert 600 <= total.kcal <= 650
    less = replace(plan, meals=tuple(replace(m, grams=150 if m.day % 2 == 0 else 300) for m in plan.meals))
    assert check_plan(problem, less) == [
        "the mean of maren is 450 kcal a day",
        "the mean of maren is 23 g of protein a day",
    ]


def test_a_way_out_moves_the_mean_too() -> None:
    """Bands wider by 80 kcal: the mean may then be 520, and a week of 560 stands in it."""
    found = plan_week(plan_problem(310, WANTED))
    assert "energy" in {c.rule for c in found.conflicts}
    wider = eased(plan_problem(310, WANTED), Conflict("energy", "", "", "widen_bands_kcal", 80))
    assert (wider.means[0].energy_low_kcal, wider.means[0].energy_high_kcal) == (520, 730)
    assert plan_week(eased(wider, Conflict("protein", "", "", "lower_floors_g", 5))).plan is not None


def test_a_slip_is_measured_by_the_mean() -> None:
    """The day itself is in its room; the mean is over, and a smaller box brings it back. In its band it is left."""
    room, mean = with_room(DayTarget(2000, 90, 3), 20), MeanTarget.of([DayTarget(2000, 90, 3)] * 3)
    over = [DayNow(0, 2300, 110, room), DayNow(1, 2050, 110, room), DayNow(2, 2000, 110, room)]
    box = Movable("dinner", 0, 500, 1.4, 0.03)
    assert slip_moves(0, over, [box]) == ()
    [less] = slip_moves(0, over, [box], mean=mean)
    assert less.days[0].kcal < 2300
    within = [DayNow(0, 2450, 110, room), DayNow(1, 1800, 110, room), DayNow(2, 1800, 110, room)]
    moves = slip_moves(0, within, [box], mean=mean)
    assert moves[0].kind == LEAVE
