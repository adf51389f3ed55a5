"""Weeks whose best another solver told, by a programme written anew: no false “no week”, no false bound or proof."""

from dataclasses import replace

import pytest

from bench.anchors import Best, best_of, digest_of, kept, small_week
from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_eased import eased
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import Conflict

ANCHORS = [anchor for anchor in kept() if anchor[2].status != "open"]
AMOUNTS = ("lower_floors_g", "widen_bands_kcal", "different", "repeats")
IN_THE_TEST = ANCHORS[:16]
"""The bench tries all of them, and random ones."""


@pytest.mark.parametrize(("seed", "digest", "best"), IN_THE_TEST, ids=str)
def test_what_is_said_of_a_week_is_true(seed: int, digest: str, best: Best) -> None:
    problem = small_week(seed)
    assert digest_of(problem) == digest, "the generator changed: the anchors are of other weeks"
    result = plan_week(problem, explain=False)
    if result.plan is None:
        assert result.ran_out or best.status == "none"
        return
    plan = result.plan
    assert check_plan(problem, plan) == []
    assert best.status == "best"
    assert (plan.batches, plan.hands_on_min) >= (best.batches, best.minutes)
    assert (plan.bound_batches, plan.bound_min) <= (best.batches, best.minutes)
    if plan.is_proven_best:
        assert (plan.batches, plan.hands_on_min) == (best.batches, best.minutes)


def test_a_way_out_frees_the_week_by_the_other_solver_too_and_less_does_not() -> None:
    """Of a week that cannot be: each way that is called least is, by the programme that was written anew."""
    seed = next(seed for seed, _, best in ANCHORS if best.status == "none" and len(small_week(seed).slots) < 16)
    problem = small_week(seed)
    assert best_of(problem).status == "none"
    ways: dict[int, list[Conflict]] = {}
    for conflict in plan_week(problem).conflicts:
        ways.setdefault(conflict.way, []).append(conflict)
    for way in ways.values():
        if not all(c.is_tried and c.field in AMOUNTS for c in way):
            continue
        freed = problem
        for conflict in way:
            freed = eased(freed, conflict)
        assert best_of(freed).status == "best"
        last = way[-1]
        if last.is_least:
            one_less = problem
            for conflict in [*way[:-1], replace(last, value=last.value - 1)]:
                one_less = eased(one_less, conflict)
            assert best_of(one_less).status == "none"


def test_there_are_enough_anchors_and_both_kinds() -> None:
    assert len(ANCHORS) >= 60
    assert {best.status for _, _, best in ANCHORS} == {"best", "none"}
