"""A session while it is cooked: begun once with its sheet, each word logged once, two devices, and what stays."""

import time
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid4

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from goodcrate.core.cook.running import DONE, MORE, PUT_OFF, Tick
from goodcrate.core.ground.clocks import minutes_later
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.writing import wall_clock
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook import elsewhere, running
from goodcrate.services.cook.run_sheet import SheetAsked, ask_for_sheet, make_sheet
from goodcrate.services.jobs import process
from goodcrate.services.recipes import saving
from goodcrate.services.week import placing, weeks
from tests.services.kitchen import MONDAY, Kitchen, furnish, turkey_pot


@pytest.fixture
def kitchen(household: Caller, monkeypatch: pytest.MonkeyPatch) -> Kitchen:
    monkeypatch.setattr(process, "launch", lambda *_: None)
    return furnish(household, 1.5, days=4)


def session_of(kitchen: Kitchen) -> UUID:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return UUID(picture.sessions[0].key)


@pytest.fixture
def begun(kitchen: Kitchen) -> tuple[Caller, UUID, str]:
    """The household, the session that is being cooked, and how its task keys begin."""
    caller, session_id = kitchen.caller, session_of(kitchen)
    with pytest.raises(InvalidInput, match="not made yet"):
        running.begin_cooking(caller, MONDAY, session_id, SheetAsked())
    make_sheet(caller, ask_for_sheet(caller, MONDAY, uuid4(), str(session_id), SheetAsked()))
    first = running.begin_cooking(caller, MONDAY, session_id, SheetAsked())
    assert running.begin_cooking(caller, MONDAY, session_id, SheetAsked()) == first
    return caller, session_id, str(kitchen.recipe_id)


def said(caller: Caller, session_id: UUID, key: str, kind: str, minutes: int = 0, event: UUID | None = None) -> None:
    running.tick(caller, MONDAY, session_id, event or uuid4(), Tick(key, kind, 0, minutes))


def test_a_step_ticked_on_two_devices_is_done_once_and_the_next_is_taken_up(
    begun: tuple[Caller, UUID, str], monkeypatch: pytest.MonkeyPatch
) -> None:
    caller, session_id, dish = begun
    there = running.running(caller, MONDAY, session_id)
    # No steps are written: 20 min of work that is guessed, then four boxes.
    keys = [task.key for task in there.problem.tasks]
    assert len(keys) == 2
    work, box = keys
    assert there.goes_on.sheet.starts == {work: 0, box: 20}
    assert there.states[work].is_running, "begun with the session"
    later = there.begun_at + timedelta(minutes=15, seconds=30)
    monkeypatch.setattr(running, "utc_now", lambda: later)
    event = uuid4()
    for _ in range(2):
        said(caller, session_id, work, DONE, event=event)
    said(caller, session_id, work, DONE)
    there = running.running(caller, MONDAY, session_id)
    assert there.states[work].done_at == 15
    assert there.goes_on.sheet.starts[box] == 15
    assert there.states[box].is_running, "what comes next is in hand"
    assert not there.is_over
    said(caller, session_id, box, MORE, 10)
    assert running.running(caller, MONDAY, session_id).goes_on.sheet.minutes == 15 + 4 + 10
    said(caller, session_id, box, DONE)
    assert running.running(caller, MONDAY, session_id).is_over
    assert dish in work


def test_what_was_begun_keeps_its_sheet_when_the_recipe_or_the_week_changes(
    begun: tuple[Caller, UUID, str], kitchen: Kitchen
) -> None:
    caller, session_id, _ = begun
    before = running.running(caller, MONDAY, session_id)
    recipe = turkey_pot("Another pot", version=1, recipe=kitchen.recipe_id, component=kitchen.component_id)
    saving.save_recipe(caller, replace(recipe, servings=9))
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    placing.take_out_meal(caller, picture.meals[0].id)
    after = running.running(caller, MONDAY, session_id)
    assert (after.problem, after.sheet, after.told) == (before.problem, before.sheet, before.told)
    weeks.add_session(caller, MONDAY, datetime(2026, 11, 26, 18, 30))
    later = next(s.key for s in weeks.week_picture(caller, MONDAY).sessions if s.key != str(session_id))  # type: ignore[union-attr]
    with pytest.raises(InvalidInput, match="being cooked already"):
        elsewhere.cook_elsewhere(caller, MONDAY, str(session_id), str(kitchen.recipe_id), later)
    with pytest.raises(InvalidInput, match="Cooking has started"):
        weeks.take_session_out(caller, MONDAY, session_id)


def test_what_was_said_stays_and_nothing_else_is_said(begun: tuple[Caller, UUID, str]) -> None:
    caller, session_id, _ = begun
    work = running.running(caller, MONDAY, session_id).problem.tasks[0].key
    said(caller, session_id, work, PUT_OFF)
    assert running.running(caller, MONDAY, session_id).states[work].is_put_off
    for kind, minutes in (("burnt", 0), (MORE, -1)):
        with pytest.raises(InvalidInput):
            said(caller, session_id, work, kind, minutes)
    with pytest.raises(NotFound):
        said(caller, session_id, "no such step", DONE)
    with pytest.raises(NotFound):
        said(caller, uuid4(), work, DONE)
    for change in ("UPDATE cook_tick SET kind = 'done'", "DELETE FROM cook_tick"):
        with caller.database.engine.connect() as connection, pytest.raises(DBAPIError, match="stays"):
            connection.execute(text(change))


def test_another_order_is_kept_with_what_it_is_better_than(
    begun: tuple[Caller, UUID, str], monkeypatch: pytest.MonkeyPatch
) -> None:
    caller, session_id, _ = begun
    there = running.running(caller, MONDAY, session_id)
    work, box = (task.key for task in there.problem.tasks)
    other = replace(there.order, starts={work: 0, box: 33})
    monkeypatch.setattr(running, "in_better_order", lambda *_: other)
    event = uuid4()
    for _n in range(2):
        said(caller, session_id, work, MORE, 10, event=event)
    monkeypatch.undo()
    after = running.running(caller, MONDAY, session_id)
    assert after.order.starts[box] == 33
    assert after.changed is not None
    assert after.changed.kept_min == 34, "20 min of work and 10 more, four boxes"
    assert after.sheet == there.sheet, "what it was begun with stays"
    for change in ("UPDATE cook_order SET seq = 1", "DELETE FROM cook_order"):
        with caller.database.engine.connect() as connection, pytest.raises(DBAPIError, match="stays"):
            connection.execute(text(change))


def test_minutes_are_minutes_when_the_clocks_change(
    begun: tuple[Caller, UUID, str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Begun at 1:30, half an hour before the clocks go on: an hour later the wall says 3:30, and 60 min have gone."""
    caller, session_id, _ = begun
    there = running.running(caller, MONDAY, session_id)
    monkeypatch.setenv("TZ", "Europe/Berlin")
    time.tzset()
    try:
        begun_at = datetime(2027, 3, 28, 0, 30, tzinfo=UTC)
        assert wall_clock(begun_at) == "01:30"
        there = replace(there, begun_at=begun_at)
        assert wall_clock(there.at(60)) == "03:30"
        assert there.at(60) - there.at(0) == timedelta(hours=1)
        planned = datetime(2027, 3, 28, 1, 30)
        assert minutes_later(planned, 60) == planned.replace(hour=3)
        back = datetime(2027, 10, 31, 1, 30)
        assert minutes_later(back, 150) == back.replace(hour=3, minute=0)
    finally:
        monkeypatch.undo()
        time.tzset()


def test_help_comes_at_its_time_whenever_the_session_is_begun(monkeypatch: pytest.MonkeyPatch) -> None:
    moment = datetime(2026, 11, 22, 17, 40).astimezone()
    monkeypatch.setattr(running, "utc_now", lambda: moment)
    asked = [SheetAsked(help_at=at) for at in ("18:00", "17:40", "17:10", "0:30", "")]
    assert [running.help_from(one) for one in asked] == [20, 0, 0, 410, None]
