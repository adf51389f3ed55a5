"""An answer of `crate compute week` is verified from problem and answer alone."""

import json
from pathlib import Path

import pytest
from typer.testing import CliRunner

from goodcrate.cli import app
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.formats.compute_week import WeekRequest, WeekResult, compute_week, verify_week
from tests.formats.test_compute_edges import FIT, PLAN

LEAST = {**PLAN, "plan": {**PLAN["plan"], "aim": "least_cooking"}}


def answered(request_: object) -> tuple[WeekRequest, WeekResult]:
    request = WeekRequest.model_validate(request_)
    return request, compute_week(request)


def test_a_plan_holds_and_each_lie_about_it_is_seen() -> None:
    request, answer = answered(LEAST)
    assert answer.plan is not None
    assert answer.plan.proven_best
    assert "5 g" in answer.plan.proven_of
    assert verify_week(request, answer).faults == []
    plan = answer.plan
    meal = plan.meals[0]
    lies = (
        {"meals": [meal.model_copy(update={"grams": meal.grams + 5000}), *plan.meals[1:]]},
        {"meals": [meal.model_copy(update={"dish": "nothing"}), *plan.meals[1:]]},
        {"meals": plan.meals[1:]},
        {"bound_batches": plan.batches + 1},
        {"bound_batches": plan.batches - 1},
        {"hands_on_min": plan.hands_on_min - 1},
    )
    for lie in lies:
        told = answer.model_copy(update={"plan": plan.model_copy(update=lie)})
        assert verify_week(request, told).faults, lie


def test_a_fit_holds_and_a_lie_about_it_is_seen() -> None:
    request, answer = answered(FIT)
    assert answer.fit is not None
    assert verify_week(request, answer).faults == []
    told = answer.model_copy(update={"fit": answer.fit.model_copy(update={"miss": answer.fit.miss + 0.1})})
    assert verify_week(request, told).faults == ["the misses do not add up"]
    with pytest.raises(InvalidInput, match="not “plan”"):
        verify_week(WeekRequest.model_validate(LEAST), answer)


def test_the_command_says_whether_an_answer_holds(tmp_path: Path) -> None:
    request, answer = answered(LEAST)
    asked, told = tmp_path / "asked.json", tmp_path / "told.json"
    asked.write_text(request.model_dump_json())
    told.write_text(answer.model_dump_json())
    done = CliRunner().invoke(app, ["compute", "week", str(asked), "--verify", str(told)])
    assert (done.exit_code, json.loads(done.stdout)) == (0, {"faults": []})
    assert answer.plan is not None
    told.write_text(answer.model_copy(update={"plan": answer.plan.model_copy(update={"batches": 0})}).model_dump_json())
    assert CliRunner().invoke(app, ["compute", "week", str(asked), "--verify", str(told)]).exit_code == 1
