"""What pages say in words: tapes of boxes and days, the uneven box, the route's states."""

from dataclasses import replace
from uuid import UUID, uuid4

import pytest

from goodcrate.core.cook.batch_record import COOKED_DOWN
from goodcrate.core.recipes.figures_shown import USUAL_FIGURES
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.portion import filling
from goodcrate.services.route import route_states
from goodcrate.services.week import weeks
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.cook.tapes import batch_tape
from goodcrate.web.cook.view import BatchCard, batch_cards, by_session_and_recipe
from goodcrate.web.portion.view import boxes_on_bench, took_other_than_divided
from goodcrate.web.week.tapes import box_tape, day_tape, still_lacking
from goodcrate.web.week.view import week_view
from tests.services.kitchen import MONDAY, Kitchen, furnish


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household, servings=2.0, days=3)


def look(kitchen: Kitchen) -> tuple[WeekPicture, BatchCard]:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return picture, batch_cards(picture)[0]


def weigh(kitchen: Kitchen, pot_g: float, *boxes_g: float) -> tuple[WeekPicture, BatchCard]:
    _, card = look(kitchen)
    filling.weigh_pot(kitchen.caller, MONDAY, card.id, uuid4(), pot_g, 0, shortfall=COOKED_DOWN)
    for p, grams in zip(card.worked.outcome.portions, boxes_g, strict=False):
        filling.weigh_box(kitchen.caller, MONDAY, card.id, UUID(p.placing_key), uuid4(), grams)
    return look(kitchen)


def test_a_box_says_how_far_it_has_come(kitchen: Kitchen) -> None:
    picture, _ = look(kitchen)
    notes = []
    for _ in range(2):
        row = week_view(picture, MONDAY).rows[0]
        cell = row.eaters[0].cells[0]
        assert cell.placement is not None
        tape = box_tape(picture, row.eaters[0], cell, cell.placement, row.day)
        notes.append(tape.lines[0].note)
        picture, _ = weigh(kitchen, 1500, 500)
    assert notes[0].startswith("planned; batch 2,140")
    assert notes[1] == "weighed in the box; batch 2,140 → 1,500 g"


def test_a_day_is_told_against_its_target(kitchen: Kitchen) -> None:
    picture, _ = look(kitchen)
    rows = week_view(picture, MONDAY).rows
    tape = day_tape(picture, rows[0].eaters[0], rows[0].day)
    assert tape.title == "Maren, Monday"
    assert [line.what for line in tape.lines] == ["dinner"]
    assert tape.whys[0].text.startswith("Energy short by 1,")
    assert "runs from 2,377 to 2,524" in tape.whys[0].text
    lacking = still_lacking(rows[0].eaters[0])
    assert lacking.startswith("The day still lacks 1,")
    assert "g of protein" in lacking
    assert rows[6].eaters[0].energy is None
    assert day_tape(picture, rows[6].eaters[0], rows[6].day).lines[0].note == "nothing placed"


@pytest.mark.parametrize(
    ("filled", "says"),
    [
        ((500,), ""),
        ((502,), ""),
        ((520,), "Monday took 20 g more than its even share of 500 g. It stays; the rest is divided again over"),
        ((500, 470), "Tuesday took 30 g less than its even share of 500 g. It stays; the last box takes the rest."),
        ((500, 500, 450), "Wednesday took 50 g less than its even share of 500 g. It stays; its day is counted"),
    ],
)
def test_an_uneven_box_is_told(kitchen: Kitchen, filled: tuple[float, ...], says: str) -> None:
    picture, card = weigh(kitchen, 1500, *filled)
    packed = [box for box in boxes_on_bench(picture, card) if box.is_packed]
    sentence = took_other_than_divided(card, packed[-1])
    assert sentence.startswith(says) if says else sentence == ""


def test_the_bench_has_one_current_box_once_the_pot_is_weighed(kitchen: Kitchen) -> None:
    picture, card = look(kitchen)
    assert [b.is_current for b in boxes_on_bench(picture, card)] == [False, False, False]
    picture, card = weigh(kitchen, 1500, 510)
    assert [(b.is_packed, b.is_current) for b in boxes_on_bench(picture, card)] == [
        (True, False),
        (False, True),
        (False, False),
    ]
    assert (card.is_open, card.is_done, card.packed) == (True, False, 1)


def test_begun_batches_come_first_and_the_tape_tells_the_change(kitchen: Kitchen) -> None:
    _, card = look(kitchen)
    cooking.start_batch(kitchen.caller, MONDAY, card.id)
    _, card = look(kitchen)
    oil = UUID(card.worked.outcome.state.lines[2].key)
    cooking.weigh_ingredient(kitchen.caller, MONDAY, card.id, oil, uuid4(), 50)
    picture, card = look(kitchen)
    assert card.is_weighing_in
    assert card.state == "1 of 3 ingredients weighed"
    assert list(by_session_and_recipe(picture).values()) == [{"Turkey pot": [card]}]
    whys = batch_tape(card, USUAL_FIGURES).whys
    assert whys[0].text == "As weighed, the whole batch holds +90 kcal against the plan."
    assert batch_tape(replace(card, name="all of it"), USUAL_FIGURES).of.startswith("Turkey pot · ")


def test_the_route_tells_where_the_week_stands(kitchen: Kitchen, household: Caller) -> None:
    words = {stage: state.words for stage, state in route_states(household, MONDAY).items()}
    assert words["targets"] == "1 eater set"
    assert words["recipes"] == "1 recipe"
    assert words["week"] == "3 of 7 placed"
    assert (words["cook"], words["portion"]) == ("nothing begun", "no pot weighed")
    _, card = weigh(kitchen, 1500)
    words = {stage: state.words for stage, state in route_states(household, MONDAY).items()}
    assert (words["cook"], words["portion"]) == ("1 batch begun", "1 pot weighed")
    filling.take_out_pot(household, MONDAY, card.id, uuid4())
    assert route_states(household, MONDAY)["portion"].words == "no pot weighed"
