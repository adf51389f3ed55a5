"""A household's changes are counted with what they change: nothing kept in memory is older than the last one."""

from collections.abc import Callable, Iterator
from uuid import UUID, uuid4

import pytest

from goodcrate.db.accounts import Household
from goodcrate.db.changes import Kept
from goodcrate.db.server import EmbeddedServer
from goodcrate.db.session import Database
from goodcrate.services import kitchen
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.jobs import ledger, process
from goodcrate.services.plan import planning
from goodcrate.services.plan.problem import Wishes
from goodcrate.services.recipes import saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import placing, weeks
from tests.services.kitchen import MONDAY, furnish, place


class Counting:
    """A value that says how often it was worked out."""

    def __init__(self, *, but_log: bool = False) -> None:
        self.kept, self.times = Kept[int](4, but_log=but_log), 0

    def asked(self, caller: Caller) -> int:
        with caller.transaction() as session:
            return self.kept.get(session, ("it",), self.work)

    def work(self) -> int:
        self.times += 1
        return self.times


@pytest.fixture
def other(household: Caller, server: EmbeddedServer) -> Iterator[Caller]:
    """The same household in another process."""
    database = Database(server.url)
    yield Caller(database, household.household_id, household.user_id)
    database.close()


def test_every_change_is_seen_wherever_it_was_made(household: Caller, other: Caller) -> None:
    made = furnish(household)
    value = Counting()
    assert [value.asked(other), value.asked(other)] == [1, 1]
    placed = place(made, 1.5, 1)[0]
    changes: tuple[Callable[[], object], ...] = (
        lambda: kitchen.save_capacity(household, kitchen.Capacity(9, 9)),
        lambda: kitchen.save_vessels(household, [kitchen.VesselInput(uuid4(), "pot", "pot", 4000)]),
        lambda: saving.archive(household, made.recipe_id, archived=True),
        lambda: household_eaters.put_aside(household, made.eater_id, aside=True),
        lambda: weeks.open_week(household, MONDAY.replace(year=2027)),
        lambda: placing.take_out_meal(household, placed),
    )
    for n, change in enumerate(changes, 2):
        change()
        assert value.asked(other) == n
        assert value.asked(other) == n


def broken_off(household: Caller, value: Counting) -> None:
    with household.transaction() as session:
        session.get_one(Household, household.household_id).fridge_boxes = 3
        session.flush()
        assert value.kept.get(session, ("it",), lambda: 99) == 99  # whoever has written reads anew, and keeps nothing
        raise RuntimeError


def test_what_is_rolled_back_or_apart_counts_as_nothing(household: Caller, monkeypatch: pytest.MonkeyPatch) -> None:
    furnish(household)
    value = Counting()
    assert value.asked(household) == 1
    with pytest.raises(RuntimeError):
        broken_off(household, value)
    assert value.asked(household) == 1
    monkeypatch.setattr(process, "launch", lambda *_: None)
    job = planning.start_job(household, MONDAY, uuid4(), Wishes())
    ledger.beat(household, job, said="still looking")
    assert value.asked(household) == 1


def test_the_log_of_cooking_changes_only_what_it_matters_to(household: Caller) -> None:
    furnish(household)
    everything, plan = Counting(), Counting(but_log=True)
    assert (everything.asked(household), plan.asked(household)) == (1, 1)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    worked = picture.outcome.batches[0].plan
    batch_id = cooking.batch_id_for(picture.week.id, worked.session_key, worked.component_key)
    cooking.start_batch(household, MONDAY, batch_id)
    assert (everything.asked(household), plan.asked(household)) == (2, 1)
    began = weeks.week_picture(household, MONDAY)
    assert began is not None
    assert [b.is_started for b in began.outcome.batches] == [True]
    line = began.outcome.batches[0].record.lines[0]
    cooking.weigh_ingredient(household, MONDAY, batch_id, UUID(line.key), uuid4(), 1111)
    weighed = weeks.week_picture(household, MONDAY)
    assert weighed is not None
    assert weighed.outcome.batches[0].outcome.state.lines[0].amount.grams == 1111
    assert (everything.asked(household), plan.asked(household)) == (3, 1)
    household_eaters.put_aside(household, began.eaters[0].id, aside=True)
    assert plan.asked(household) == 2
