"""The week worked out: sessions, batches that follow, weighings that move boxes and days."""

from dataclasses import replace
from datetime import date, datetime, time
from math import isclose

import pytest

from goodcrate.core.cook.batch_record import (
    COOKED_DOWN,
    POT,
    TAKEN_OUT,
    BatchRecord,
    Weighing,
    check_lines,
    check_shortfall,
    cooked_state,
    net_weight_g,
    settled,
)
from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import KEYS, Composition, Tally
from goodcrate.core.portion.filled_boxes import DIVIDED, PLANNED, WEIGHED
from goodcrate.core.portion.week_outcome import WeekOutcome, planned_record, week_outcome
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.cooked_weight import POT_TO_POT
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.week.placings import (
    Placing,
    PrepSession,
    batches_that_follow,
    planned_line_g,
    serving_session,
    week_dates,
)

MEAT = Food("meat", "Turkey thigh, raw", "raw", "poultry", Composition.of({"energy_kcal": 114, "protein_g": 20.8}))
CABBAGE = Food("cabbage", "Cabbage, raw", "raw", "vegetable", Composition.of({"energy_kcal": 25, "protein_g": 1.3}))
STEW = Component(
    "stew",
    "stew",
    (IngredientLine("meat", MEAT, amount_of(1200)), IngredientLine("cabbage", CABBAGE, amount_of(900))),
    1680,
)
RECIPE = Recipe("turkey", "Turkey pot", 6, (STEW,))
PLACINGS = tuple(
    Placing(day, "turkey", servings, "sun") for day, servings in (("Mon", 1.0), ("Tue", 1.0), ("Wed", 2.0))
)


def outcome(*log: Weighing, pots: tuple[str, ...] = (POT,)) -> WeekOutcome:
    plan = batches_that_follow(PLACINGS, [RECIPE])[0]
    record = BatchRecord(planned_record(STEW, plan).lines, plan.cooked_g, log, pots)
    return week_outcome(PLACINGS, [RECIPE], {("sun", "stew"): record})


def grams(result: WeekOutcome) -> list[float]:
    return [part.grams for key in ("Mon", "Tue", "Wed") for part in result.boxes[key].parts]


def test_the_latest_session_that_is_over_serves_a_slot() -> None:
    sessions = [PrepSession("sun", datetime(2026, 11, 22, 14)), PrepSession("wed", datetime(2026, 11, 25, 18, 30))]
    wednesday = date(2026, 11, 25)
    for at, key in ((time(12, 30), "sun"), (time(19, 30), "sun"), (time(20, 30), "wed"), (time(3, 30), "sun")):
        served = serving_session(sessions, wednesday, at)
        assert served is not None
        assert served.key == key
    assert serving_session(sessions, date(2026, 11, 22), time(15)) is None


def test_a_batch_keeps_how_sure_its_expected_weight_is() -> None:
    (plan,) = batches_that_follow(PLACINGS, [RECIPE])
    assert plan.cooked_error_g == pytest.approx(POT_TO_POT * plan.cooked_g)
    record = planned_record(STEW, plan)
    half = tuple(Weighing(line.key, line.amount.grams / 2) for line in record.lines)
    state = cooked_state(replace(record, log=half))
    assert state.expected_g == pytest.approx(plan.cooked_g / 2)
    assert state.expected_error_g == pytest.approx(POT_TO_POT * plan.cooked_g / 2)
    assert cooked_state(replace(record, planned_error_g=None)).expected_error_g is None


def test_a_batch_is_sized_to_all_its_portions() -> None:
    (plan,) = batches_that_follow(PLACINGS, [RECIPE])
    assert isclose(plan.factor, 4 / 6)
    assert isclose(plan.cooked_g, 1680 * 4 / 6)
    assert [round(p.grams) for p in plan.portions] == [280, 280, 560]
    assert [planned_line_g(1200, plan.factor), planned_line_g(8, plan.factor)] == [800, 5.3]


def test_before_the_pot_is_weighed_portions_are_their_planned_share() -> None:
    result = outcome()
    assert [round(g) for g in grams(result)] == [280, 280, 560]
    assert {box.stage for box in result.boxes.values()} == {PLANNED}


def test_a_planned_box_holds_what_its_recipe_says_whatever_a_scale_can_show() -> None:
    odd = replace(RECIPE, components=(replace(STEW, lines=(IngredientLine("m", MEAT, amount_of(7.7)), *STEW.lines)),))
    one = odd.components[0].lines
    placings = [replace(p, servings=p.servings * 0.737) for p in PLACINGS]
    planned = week_outcome(placings, [odd], {})
    for placing in placings:
        for key, per_g in (("energy_kcal", 1.14), ("protein_g", 0.208)):
            cabbage = {"energy_kcal": 0.25, "protein_g": 0.013}[key]
            whole = per_g * (one[0].amount.grams + one[1].amount.grams) + cabbage * one[2].amount.grams
            there = planned.boxes[placing.key].tally.amount(key).value
            assert there == pytest.approx(whole / 6 * placing.servings, rel=1e-12)
    shown = planned.batches[0].record.lines
    assert [line.amount.grams for line in shown] == [3.8, 590, 442], "what is weighed out is what a scale can show"


def test_boxes_follow_the_weighed_ingredients() -> None:
    before, after = outcome(), outcome(Weighing("sun/meat", 840))
    energy = [o.boxes["Wed"].tally.amount("energy_kcal").value for o in (before, after)]
    assert isclose(energy[1] - energy[0], 40 * 1.14 / 2)
    assert after.batches[0].outcome.state.weighed_keys == {"sun/meat"}


def test_a_weighed_pot_is_divided_in_whole_grams_with_all_its_nutrients() -> None:
    result = outcome(Weighing(POT, 1001, COOKED_DOWN))
    assert grams(result) == [251, 250, 500]
    assert {box.stage for box in result.boxes.values()} == {DIVIDED}
    together = Tally.sum(box.tally for box in result.boxes.values())
    for key in KEYS:
        assert isclose(
            together.amount(key).value, result.batches[0].outcome.state.batch.tally.amount(key).value, abs_tol=1e-9
        )


def test_cooked_down_keeps_the_nutrients_and_taken_out_keeps_the_density() -> None:
    down, out = outcome(Weighing(POT, 840, COOKED_DOWN)), outcome(Weighing(POT, 840, TAKEN_OUT))
    planned = outcome().boxes["Mon"].tally.amount("energy_kcal").value
    assert grams(down) == grams(out) == [210, 210, 420]
    assert isclose(down.boxes["Mon"].tally.amount("energy_kcal").value, planned, rel_tol=1e-9)
    assert isclose(out.boxes["Mon"].tally.amount("energy_kcal").value, planned * 840 / 1120, rel_tol=1e-9)


def test_an_overfilled_box_stays_and_the_others_share_the_rest() -> None:
    result = outcome(Weighing(POT, 1120), Weighing("Tue", 300))
    assert grams(result) == [274, 300, 546]
    assert result.boxes["Tue"].stage == WEIGHED
    assert result.batches[0].outcome.remainder_g == 0


def test_a_batch_in_several_pots_is_divided_when_all_are_weighed() -> None:
    trays = ("left tray", "right tray")
    half = outcome(Weighing("left tray", 560), pots=trays)
    assert list(half.batches[0].outcome.state.pots_g) == [560, None]
    assert {box.stage for box in half.boxes.values()} == {PLANNED}
    both = outcome(Weighing("left tray", 560), Weighing("right tray", 480, TAKEN_OUT), pots=trays)
    assert both.batches[0].outcome.state.pot_g == 1040
    assert both.batches[0].outcome.state.shortfall == TAKEN_OUT
    assert grams(both) == [260, 260, 520]


def test_a_box_for_nobody_yet_is_taken_off_the_pot() -> None:
    result = outcome(Weighing(POT, 1120), Weighing("spare", 120), Weighing("Tue", 300))
    worked = result.batches[0].outcome
    assert grams(result) == [234, 300, 466]
    assert [(p.placing_key, p.grams) for p in worked.spare] == [("spare", 120)]
    assert worked.left_g == 1120 - 420
    in_boxes = sum(box.tally.amount("protein_g").value for box in result.boxes.values())
    whole = worked.state.batch.tally.amount("protein_g").value
    assert isclose(in_boxes + worked.spare[0].tally.amount("protein_g").value, whole, abs_tol=1e-9)
    everything = outcome(Weighing(POT, 1120), Weighing("spare", 1120))
    assert grams(everything) == [0, 0, 0]
    assert everything.batches[0].outcome.left_g == 0


def test_taking_a_weighing_out_brings_the_plan_back() -> None:
    log = (Weighing(POT, 1120), Weighing("Tue", 300), Weighing("Tue", None), Weighing(POT, None))
    assert settled(log) == {}
    assert grams(outcome(*log)) == grams(outcome())


def test_boxes_that_hold_more_than_the_pot_are_refused() -> None:
    with pytest.raises(InvalidInputs, match="filled boxes hold"):
        outcome(Weighing(POT, 500), Weighing("Mon", 501))


def test_a_placing_no_session_cooks_is_counted_as_its_recipe_is_written() -> None:
    alone = week_outcome([Placing("Mon", "turkey", 1, None)], [RECIPE], {})
    assert alone.batches == ()
    assert isclose(alone.boxes["Mon"].tally.amount("energy_kcal").value, (1200 * 1.14 + 900 * 0.25) / 6)


def test_the_same_pot_eaten_twice_keeps_its_doubt_whole() -> None:
    result = outcome(Weighing(POT, 1120))
    both = result.boxes["Mon"].tally + result.boxes["Tue"].tally
    one = result.boxes["Mon"].tally.amount("energy_kcal").standard_error
    shared = both.amount("energy_kcal").standard_error
    assert one * 2**0.5 < shared < one * 2


def test_weights_of_the_pot() -> None:
    assert net_weight_g(2846, 1012) == 1834
    for gross, tare in ((1000, 1012), (1012, 1012), (50_000, 0), (10, -1)):
        with pytest.raises(InvalidInput):
            net_weight_g(gross, tare)
    assert check_shortfall(None, 990, 1000) is None
    assert check_shortfall(COOKED_DOWN, 900, 1000) == COOKED_DOWN
    assert check_shortfall(TAKEN_OUT, 91, 1000) == TAKEN_OUT
    with pytest.raises(InvalidInput, match="no pot cooks down so far"):
        check_shortfall(COOKED_DOWN, 91, 1000)
    with pytest.raises(InvalidInput, match="100 g lighter"):
        check_shortfall(None, 900, 1000)


def test_plans_have_one_to_fourteen_days_and_lines_plausible_weights() -> None:
    assert len(week_dates(date(2026, 11, 23), 14)) == 14
    for days in (0, 15, 60):
        with pytest.raises(InvalidInput, match="not possible"):
            week_dates(date(2026, 11, 23), days)
    with pytest.raises(InvalidInputs) as caught:
        check_lines([("a", -1), ("b", 5), ("c", 20_000)])
    assert [f.field for f in caught.value.faults] == ["a", "c"]


def test_a_batch_that_was_never_planned_to_weigh_anything_stays_empty() -> None:
    assert cooked_state(BatchRecord((), 0.0)).available_g == 0
