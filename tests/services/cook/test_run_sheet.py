"""A session's run sheet: made once for what it is made from, what it would be otherwise, and what it tells the week."""

from datetime import datetime, timedelta
from uuid import UUID, uuid4

import pytest

from goodcrate.core.cook.sheet_check import check_sheet
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook import cooking, elsewhere, run_sheet
from goodcrate.services.cook.run_sheet import SessionSheet, SheetAsked, ask_for_sheet, make_sheet, session_sheet
from goodcrate.services.jobs import process
from goodcrate.services.week import placing, weeks
from goodcrate.services.week.weeks import WeekPicture, week_picture
from tests.conftest import MONDAY

PLAIN = SheetAsked()


@pytest.fixture
def boat(own_demo: Caller, monkeypatch: pytest.MonkeyPatch) -> Caller:
    monkeypatch.setattr(process, "launch", lambda *_: None)
    return own_demo


def picture_of(caller: Caller) -> WeekPicture:
    picture = week_picture(caller, MONDAY)
    assert picture is not None
    return picture


def made(caller: Caller, session_key: str, asked: SheetAsked = PLAIN) -> SessionSheet:
    """The sheet, made here and now."""
    make_sheet(caller, ask_for_sheet(caller, MONDAY, uuid4(), session_key, asked))
    there = session_sheet(caller, MONDAY, session_key, asked)
    assert there.sheet is not None
    assert not [words for words in check_sheet(there.problem, there.sheet) if not there.pauses]
    return there


def test_the_sheet_of_a_session_is_made_once_and_anew_when_the_week_changes(boat: Caller) -> None:
    sunday = picture_of(boat).sessions[0].key
    assert session_sheet(boat, MONDAY, sunday, PLAIN).sheet is None
    there = made(boat, sunday)
    assert there.sheet is not None
    assert there.sheet.is_proven_shortest
    assert (len(there.dishes), sum(len(d.batches) for d in there.dishes.values())) == (8, 18)
    assert there.alone_min is not None
    assert there.alone_min > 2 * there.sheet.minutes
    assert {found.key for found in there.what_ifs} == {"minutes", "burners", "help", "pauses"}
    assert ask_for_sheet(boat, MONDAY, uuid4(), sunday, PLAIN) == (there.job.id if there.job else None)
    dish = next(iter(there.dishes))
    meals = elsewhere.meals_of(there.picture, sunday, dish)
    placing.change_servings(boat, meals[0], 1.9, 1)
    assert session_sheet(boat, MONDAY, sunday, PLAIN).sheet is None


def test_what_is_asked_changes_the_sheet(boat: Caller) -> None:
    sunday = picture_of(boat).sessions[0].key
    plain = made(boat, sunday)
    assert plain.sheet is not None
    later = session_sheet(boat, MONDAY, sunday, SheetAsked(start="17:10"))
    assert later.sheet == plain.sheet, "where it begins only moves it"
    assert later.starts_at == datetime(2026, 11, 22, 17, 10)
    one = made(boat, sunday, SheetAsked(burners=1))
    assert one.sheet is not None
    assert one.sheet.minutes > plain.sheet.minutes
    short = made(boat, sunday, SheetAsked(minutes=60))
    assert short.sheet is not None
    assert short.sheet.minutes <= 60
    assert 0 < len({task.dish for task in short.problem.tasks}) < len(short.dishes)
    paused = made(boat, sunday, SheetAsked(pauses=True))
    assert len(paused.pauses) >= 2


@pytest.mark.parametrize(
    "asked", [SheetAsked(start="25:00"), SheetAsked(help_at="noon"), SheetAsked(burners=0), SheetAsked(minutes=3)]
)
def test_what_cannot_be_asked_is_named(asked: SheetAsked) -> None:
    with pytest.raises(InvalidInput):
        asked.checked()


def test_a_time_of_day() -> None:
    assert [str(run_sheet.clock_of(typed)) for typed in ("17:10", "9", "7.05")] == ["17:10:00", "09:00:00", "07:05:00"]
    assert [run_sheet.clock_of(typed) for typed in ("24:00", "7:60", "", "x", "123:4")] == [None] * 5


def test_the_week_hears_when_the_food_is_ready(boat: Caller) -> None:
    picture = picture_of(boat)
    sunday = picture.sessions[0]
    elsewhere.keep_ready(boat, MONDAY, UUID(sunday.key), 148)
    now = picture_of(boat).sessions[0]
    assert now.ready_at == sunday.starts_at + timedelta(minutes=148)
    late = sunday.starts_at + timedelta(days=1)
    assert elsewhere.before_ready(picture, sunday.key, sunday.ready_at) == 0
    assert elsewhere.before_ready(picture, sunday.key, late) > 0
    with pytest.raises(InvalidInput):
        elsewhere.keep_ready(boat, MONDAY, UUID(sunday.key), 0)
    with pytest.raises(NotFound):
        elsewhere.keep_ready(boat, MONDAY, uuid4(), 60)


def test_a_dish_is_cooked_in_the_other_session_as_far_as_its_meals_come_later(boat: Caller) -> None:
    picture = picture_of(boat)
    sunday, wednesday = picture.sessions
    slots = {slot.id: slot for eater in picture.eaters for slot in eater.slots}
    for dish in {w.plan.recipe_key for w in picture.outcome.batches if w.plan.session_key == sunday.key}:
        mine = set(elsewhere.meals_of(picture, sunday.key, dish))
        later = [m for m in picture.meals if m.id in mine and wednesday.serves(m.day, slots[m.slot_id].at)]
        begun = any(w.is_started and w.plan.recipe_key == dish for w in picture.outcome.batches)
        if begun or not later:
            with pytest.raises(InvalidInput):
                elsewhere.cook_elsewhere(boat, MONDAY, sunday.key, dish, wednesday.key)
        else:
            moved = elsewhere.cook_elsewhere(boat, MONDAY, sunday.key, dish, wednesday.key)
            assert (moved.moved, moved.too_early) == (len(later), len(mine) - len(later))
    with pytest.raises(NotFound):
        elsewhere.cook_elsewhere(boat, MONDAY, sunday.key, "any", str(uuid4()))


def test_a_dish_goes_to_another_session_and_back_until_it_is_begun(boat: Caller) -> None:
    weeks.add_session(boat, MONDAY, datetime(2026, 11, 26, 18, 30))
    picture = picture_of(boat)
    wednesday, thursday = (next(s for s in picture.sessions if s.starts_at.day == day) for day in (25, 26))
    dish = next(w.plan.recipe_key for w in picture.outcome.batches if w.plan.session_key == thursday.key)
    mine = elsewhere.meals_of(picture, thursday.key, dish)
    for one, other in ((thursday, wednesday), (wednesday, thursday)):
        moved = elsewhere.cook_elsewhere(boat, MONDAY, one.key, dish, other.key)
        assert moved.moved >= len(mine)
        assert set(mine) <= set(elsewhere.meals_of(picture_of(boat), other.key, dish))
    batch = next(w for w in picture_of(boat).outcome.batches if w.plan.session_key == thursday.key)
    batch_id = cooking.batch_id_for(picture.week.id, batch.plan.session_key, batch.plan.component_key)
    cooking.start_batch(boat, MONDAY, batch_id)
    with pytest.raises(InvalidInput, match="being cooked already"):
        elsewhere.cook_elsewhere(boat, MONDAY, thursday.key, batch.plan.recipe_key, wednesday.key)
