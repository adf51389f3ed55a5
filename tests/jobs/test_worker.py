"""The worker: whatever becomes of a job is said in its row, whatever its kind."""

from collections.abc import Callable
from uuid import UUID, uuid4

import pytest

from goodcrate.core.ground.errors import InvalidInput, StoppedEarly
from goodcrate.jobs import worker
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.jobs import ledger
from goodcrate.services.jobs.kind import JobKind
from goodcrate.services.week.weeks import existing_week
from tests.services.kitchen import MONDAY, Kitchen, furnish


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household)


def begun(kitchen: Kitchen, kind: str = "soup") -> UUID:
    job_id = uuid4()
    with kitchen.caller.transaction() as session:
        ledger.begin(session, job_id, kind, existing_week(session, MONDAY).id, {"litres": 3})
    return job_id


def job(kitchen: Kitchen, kind: str = "soup") -> ledger.Job:
    with kitchen.caller.transaction() as session:
        found = ledger.newest(session, kind, existing_week(session, MONDAY).id)
    assert found is not None
    return found


def kind_that(work: Callable[[Caller, UUID], None]) -> JobKind:
    return JobKind("soup", work, lambda: None, "Stopped.", "There may be more.", "The soup failed.")


def boom(_: Caller, __: UUID) -> None:
    raise ZeroDivisionError


def refuses(_: Caller, __: UUID) -> None:
    raise InvalidInput("litres", "3 l do not fit.", "Use two pots.")


def is_cut_off(_: Caller, __: UUID) -> None:
    raise StoppedEarly("The time ran out.")


def finds(caller: Caller, job_id: UUID) -> None:
    ledger.beat(caller, job_id, best=[{"pot": "large"}])
    ledger.beat(caller, job_id, status=ledger.DONE, result={"minutes": 40})


def test_how_a_job_ends_is_said(kitchen: Kitchen) -> None:
    worker.run(kitchen.caller, kind_that(refuses), begun(kitchen))
    assert (job(kitchen).status, job(kitchen).said) == (ledger.FAILED, "litres: 3 l do not fit. Use two pots.")
    worker.run(kitchen.caller, kind_that(is_cut_off), begun(kitchen))
    assert (job(kitchen).status, job(kitchen).said) == (ledger.STOPPED, "The time ran out. There may be more.")
    with pytest.raises(ZeroDivisionError):
        worker.run(kitchen.caller, kind_that(boom), begun(kitchen))
    assert (job(kitchen).status, job(kitchen).said) == (ledger.FAILED, "The soup failed.")
    worker.run(kitchen.caller, kind_that(finds), begun(kitchen))
    done = job(kitchen)
    assert (done.status, done.input, done.best, done.result) == (
        ledger.DONE,
        {"litres": 3},
        ({"pot": "large"},),
        {"minutes": 40},
    )


def test_kinds_do_not_see_each_others_jobs(kitchen: Kitchen) -> None:
    first = begun(kitchen)
    begun(kitchen, "stew")
    assert job(kitchen).id == first
    with kitchen.caller.transaction() as session:
        week_id = existing_week(session, MONDAY).id
        assert ledger.running_job(session, "soup", week_id) == first
        assert ledger.running_job(session, "bread", week_id) is None


def test_a_worker_that_is_to_stop_leaves_and_says_so(kitchen: Kitchen, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(worker, "BEAT_SECONDS", 0.0)
    job_id = begun(kitchen)
    ledger.stop(kitchen.caller, job_id)

    def leave() -> None:
        raise SystemExit

    with pytest.raises(SystemExit):
        worker.keep_alive(kitchen.caller, kind_that(finds), job_id, leave)
    assert (job(kitchen).status, job(kitchen).said) == (ledger.STOPPED, "Stopped.")
    with pytest.raises(NotFound):
        ledger.stop(kitchen.caller, uuid4())


def test_the_planner_the_run_sheet_and_archives_are_kinds() -> None:
    assert set(worker.KINDS) == {"plan_week", "run_sheet", "archive_out", "archive_look", "archive_in"}
