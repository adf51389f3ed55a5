"""Work that met another writer's is done again, work whose database was away waits, and nothing else is."""

import pymysql
import pytest
from sqlalchemy.exc import OperationalError

from goodcrate.services import again
from goodcrate.services.again import done_again, patient


def database_said(number: int) -> OperationalError:
    return OperationalError("UPDATE box", {}, pymysql.err.OperationalError(number, "as it says"))


class Work:
    """Fails as told, then answers."""

    def __init__(self, *errors: Exception) -> None:
        self.errors, self.calls = list(errors), 0

    def __call__(self, dish: str) -> str:
        self.calls += 1
        if self.errors:
            raise self.errors.pop(0)
        return f"{dish} is done"


@pytest.fixture(autouse=True)
def _no_pauses(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(again, "PAUSE_S", 0.0)
    monkeypatch.setattr(again, "LOOKS_AGAIN_AFTER_S", 0.0)


@pytest.mark.parametrize("number", [1213, 1020, 1205])  # deadlock, certification, lock not given in time
def test_who_met_another_writer_does_it_again(number: int) -> None:
    work = Work(database_said(number))
    assert (done_again(work)("soup"), work.calls) == ("soup is done", 2)
    stubborn = Work(*(database_said(number) for _ in range(2)))
    with pytest.raises(OperationalError):
        done_again(stubborn)("soup")
    assert stubborn.calls == 2


@pytest.mark.parametrize("error", [database_said(1064), database_said(2013), ValueError("too salty")])
def test_nothing_else_is_done_again(error: Exception) -> None:
    work = Work(error)
    with pytest.raises(type(error)):
        done_again(work)("soup")
    assert work.calls == 1


@pytest.mark.parametrize("number", [1047, 2003, 2013])  # no whole part of its cluster, not there, gone meanwhile
def test_a_worker_waits_for_a_database_that_is_away(number: int) -> None:
    work = Work(*(database_said(number) for _ in range(5)))
    assert (patient(60.0)(work)("soup"), work.calls) == ("soup is done", 6)
    late = Work(*(database_said(number) for _ in range(5)))
    with pytest.raises(OperationalError):
        patient(-1.0)(late)("soup")
    wrong = Work(database_said(1064))
    with pytest.raises(OperationalError):
        patient(60.0)(wrong)("soup")
    assert (late.calls, wrong.calls) == (1, 1)
