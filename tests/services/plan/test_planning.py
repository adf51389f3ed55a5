"""The planner as a job: outside the request, says what it has, is stopped, found again, never overwrites."""

import time
from datetime import date, datetime, timedelta
from uuid import UUID, uuid4

import pytest
from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import loads
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import Database
from goodcrate.db.targets import EaterRow
from goodcrate.services.calling import Caller, NotFound, utc_now
from goodcrate.services.jobs import ledger, process
from goodcrate.services.plan import planning
from goodcrate.services.plan.problem import UNPINNED, Wishes
from goodcrate.services.week import choosing, placing, weeks
from tests.conftest import MONDAY
from tests.services.kitchen import furnish, planner_job

NEXT = MONDAY + timedelta(days=7)


def wait(caller: Caller, seconds: float = 400) -> planning.Planning:
    """The job once its worker is done."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        state = planning.newest_planning(caller, NEXT)
        assert state is not None
        if not state.is_running:
            return state
        time.sleep(0.3)
    raise AssertionError("the planner did not end")


def stop_at_first(caller: Caller, job: UUID) -> None:
    """Stop a job as soon as it has a week."""
    until = time.monotonic() + 400
    while time.monotonic() < until:
        state = planning.newest_planning(caller, NEXT)
        assert state is not None
        if state.plans or not state.is_running:
            break
        time.sleep(0.1)
    ledger.stop(caller, job)
    assert wait(caller).plans


@pytest.fixture
def boat(own_demo: Caller) -> Caller:
    """The demo with the next week opened, and a second session in it."""
    weeks.open_week(own_demo, NEXT)
    weeks.add_session(own_demo, NEXT, datetime(2026, 12, 2, 18, 30))
    return own_demo


def test_a_week_is_planned_while_the_app_is_down_taken_once_and_nothing_is_overwritten(boat: Caller) -> None:
    going_down = Database(process.url_of(boat.database))
    job = planning.start_job(Caller(going_down, boat.household_id), NEXT, uuid4(), Wishes())
    going_down.close()  # the app that began it is gone, another one finds it
    assert planning.start_job(boat, NEXT, uuid4(), Wishes()) == job  # one at a time
    state = wait(boat)
    assert (state.job.status, state.conflicts) == ("done", ())
    plan = state.plans[0]
    assert plan["aim"] == "least_cooking"
    assert all(d["met"] for d in plan["days"])
    assert len(plan["days"]) == 14
    meal = plan["meals"][0]
    mine = placing.PlaceInput(
        uuid4(), UUID(meal["eater"]), UUID(meal["slot"]), UUID(meal["recipe"]), 0.6, (date.fromisoformat(meal["day"]),)
    )
    placing.place(boat, NEXT, mine)
    assert planning.take_plan(boat, NEXT, job, "least_cooking") == 55
    assert planning.take_plan(boat, NEXT, job, "least_cooking") == 0
    picture = weeks.week_picture(boat, NEXT)
    assert picture is not None
    assert len(picture.meals) == 56
    assert len(picture.outcome.batches) == plan["batches"]
    assert {p.servings for p in picture.meals if str(p.slot_id) == meal["slot"]} >= {0.6}
    with pytest.raises(NotFound):
        planning.take_plan(boat, NEXT, job, "no_such_aim")


def test_a_week_is_planned_anew_around_what_is_pinned_and_that_can_be_undone(boat: Caller) -> None:
    first = planning.start_job(boat, NEXT, uuid4(), Wishes())
    stop_at_first(boat, first)
    assert planning.take_plan(boat, NEXT, first, "least_cooking") == 56
    before = standing(boat)
    pinned = list(before)[:3]
    choosing.pin(boat, NEXT, [before[key].id for key in pinned], on=True)

    again = planning.start_job(boat, NEXT, uuid4(), Wishes(different=3, repeats=4, scope=UNPINNED))
    stop_at_first(boat, again)
    changed = list(before)[10]
    placing.change_servings(boat, before[changed].id, 0.9, standing(boat)[changed].version)  # while it was planned
    assert planning.take_plan(boat, NEXT, again, "least_cooking") == 52
    after = standing(boat)
    assert {key: after[key].id for key in pinned} == {key: before[key].id for key in pinned}
    assert after[changed].servings == 0.9
    assert after.keys() == before.keys()

    assert planning.take_plan_out(boat, NEXT, again) == 52
    assert {key: row.id for key, row in standing(boat).items()} == {key: row.id for key, row in before.items()}
    assert planning.take_plan(boat, NEXT, again, "least_cooking") == 52  # taken once more
    assert len(standing(boat)) == 56


def standing(caller: Caller) -> dict[tuple[UUID, UUID, date], Meal]:
    """What stands in the week, by eater, slot and day."""
    picture = weeks.week_picture(caller, NEXT)
    assert picture is not None
    return {(p.eater_id, p.slot_id, p.day): p for p in picture.meals}


def planned(status: str, *weeks_found: dict[str, object]) -> planning.Planning:
    return planning.Planning(
        ledger.Job(uuid4(), "plan_week", status, "", {}, weeks_found, result={}, seconds=1.0), Wishes()
    )


def test_what_other_weeks_trade_is_told_against_the_first() -> None:
    first = {"aim": "least_cooking", "batches": 8, "minutes": 99, "dishes": 5, "frozen": 6}
    second = first | {"aim": "most_variety", "batches": 10, "minutes": 128, "dishes": 7, "frozen": 4}
    job = planned("done", first, second)
    assert job.traded == {"most_variety": {"batches": 2, "minutes": 29, "dishes": 2, "frozen": -2}}
    assert planned("running").traded == {}


def test_a_job_whose_worker_is_gone_is_reported_as_stopped(household: Caller) -> None:
    furnish(household)
    with household.transaction() as session:
        row = weeks.existing_week(session, MONDAY)
        old = utc_now() - timedelta(minutes=5)
        session.add(planner_job(row.id, status=ledger.RUNNING, started_at=old, beat_at=old))
    state = planning.newest_planning(household, MONDAY)
    assert state is not None
    assert not state.is_running
    assert "stopped" in state.said


@pytest.mark.parametrize(
    ("silent_s", "said_a_word", "goes_on"), [(19, True, True), (21, True, False), (89, False, True), (91, False, False)]
)
def test_a_worker_loads_longer_than_it_may_be_silent(
    monkeypatch: pytest.MonkeyPatch, *, silent_s: int, said_a_word: bool, goes_on: bool
) -> None:
    began = utc_now()
    spoke = began + timedelta(microseconds=int(said_a_word))
    monkeypatch.setattr(ledger, "utc_now", lambda: spoke + timedelta(seconds=silent_s))
    job = ledger.job_of(planner_job(uuid4(), status=ledger.RUNNING, said="", started_at=began, beat_at=spoke))
    assert job.is_running == goes_on


def test_what_cannot_be_planned_is_said_at_once(household: Caller) -> None:
    with pytest.raises(NotFound):
        planning.start_job(household, MONDAY, uuid4(), Wishes())
    weeks.open_week(household, MONDAY)
    with pytest.raises(InvalidInput, match="Nobody has a target"):
        planning.start_job(household, MONDAY, uuid4(), Wishes())
    furnish(household, days=7)
    with pytest.raises(InvalidInput, match="No recipe suits"):
        planning.start_job(household, MONDAY, uuid4(), Wishes())
    for odd in (
        Wishes(keep="forever"),
        Wishes(different=0),
        Wishes(repeats=900),
        Wishes(freezer_boxes=-1),
        Wishes(scope="all"),
        Wishes(fridge_boxes=0),
    ):
        with pytest.raises(InvalidInput):
            planning.start_job(household, MONDAY, uuid4(), odd)


def test_a_stop_is_asked_for_and_answered(household: Caller) -> None:
    furnish(household)
    with household.transaction() as session:
        row = weeks.existing_week(session, MONDAY)
        job = planner_job(row.id, status=ledger.RUNNING)
        session.add(job)
        job_id = job.id
    assert ledger.beat(household, job_id, said="so far")
    ledger.stop(household, job_id)
    assert not ledger.beat(household, job_id)


def test_a_process_that_waits_ready_takes_the_next_job_and_leaves_when_the_app_does(own_demo: Caller) -> None:
    boat = own_demo
    weeks.open_week(boat, NEXT)
    process.get_ready(boat.database)
    ready = process.get_ready_beside(process.url_of(boat.database))
    process.get_ready(boat.database)
    assert process.get_ready_beside(process.url_of(boat.database)) is ready  # one is enough
    planning.start_job(boat, NEXT, uuid4(), Wishes())
    state = wait(boat)
    assert ready.wait(120) == 0  # it did the job and left
    assert (state.job.status, state.plans) == ("done", ())
    assert "session_day" in {c["field"] for c in state.conflicts}  # one session for seven days
    idle = process.get_ready_beside(process.url_of(boat.database))
    assert idle.pid != ready.pid
    assert idle.stdin is not None
    idle.stdin.close()  # as when the app ends
    assert idle.wait(120) == 0
    planning.start_job(boat, NEXT, uuid4(), Wishes())  # the one that left is not asked
    assert wait(boat).job.status == "done"


def test_pots_fridge_and_freezer_are_counted_with_what_stands_there(boat: Caller) -> None:
    """The demo has two soups in its freezer of six, and a stew pot that does not hold what two eat in half a week."""
    job = planning.start_job(boat, NEXT, uuid4(), Wishes(fridge_boxes=30, box_count=33))
    plan = wait(boat).plans[0]  # the least cooking there is: a first week may need no pot twice
    assert plan["again"] >= 1
    assert planning.take_plan(boat, NEXT, job, "least_cooking") == 56
    picture = weeks.week_picture(boat, NEXT)
    assert picture is not None
    evenings = (picture.dates[0] - timedelta(days=1), *picture.dates)
    held = loads(picture.stays.values(), evenings)
    assert max(load.freezer for load in held) <= 6
    assert max(load.fridge for load in held) <= 30


def test_a_pinned_meal_in_the_way_is_named_and_planned_anew_when_asked(boat: Caller) -> None:
    """Two and a half servings of stew for dinner leave Maren's rest day no way into its band."""
    with boat.transaction() as session:
        maren = session.scalars(select(EaterRow).where(EaterRow.name == "Maren Tidewell")).one()
        dinner = next(s for s in maren.all_slots if s.name == "dinner")
        venison = session.scalars(select(RecipeRow).where(RecipeRow.name.startswith("Venison"))).one()
    saturday = NEXT + timedelta(days=5)
    (meal,) = placing.place(boat, NEXT, placing.PlaceInput(uuid4(), maren.id, dinner.id, venison.id, 5.0, (saturday,)))
    choosing.pin(boat, NEXT, [meal], on=True)
    planning.start_job(boat, NEXT, uuid4(), Wishes())
    (conflict, *_) = wait(boat).conflicts
    assert (conflict["rule"], conflict["meal"]) == ("pins", str(meal))
    assert "Maren’s dinner on day 6" in conflict["words"]
    job = planning.start_job(boat, NEXT, uuid4(), Wishes(free_meal=conflict["meal"]))
    stop_at_first(boat, job)
    assert planning.take_plan(boat, NEXT, job, "least_cooking") == 56
    picture = weeks.week_picture(boat, NEXT)
    assert picture is not None
    assert meal not in {p.id for p in picture.meals}
    planning.take_plan_out(boat, NEXT, job)
    picture = weeks.week_picture(boat, NEXT)
    assert picture is not None
    assert [(p.id, p.is_pinned) for p in picture.meals] == [(meal, True)]
