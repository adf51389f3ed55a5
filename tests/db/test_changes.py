"""A household's changes are counted with what they change: nothing kept in memory is older than the last one."""

from collections.abc import Callable, Iterator
from uuid import UUID, uuid4

import pytest
from sqlalchemy import delete, func, select

from goodcrate.core.store.box import EATEN
from goodcrate.db.accounts import Household
from goodcrate.db.base import LOGS, Base
from goodcrate.db.changes import HouseholdChangeRow, Kept
from goodcrate.db.cook import BatchRow
from goodcrate.db.server import EmbeddedServer
from goodcrate.db.session import Database, HouseholdSession
from goodcrate.db.store import BoxEventRow, BoxRow
from goodcrate.db.week import WeekRow
from goodcrate.services import kitchen
from goodcrate.services.at_table import eating
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.jobs import ledger, process
from goodcrate.services.plan import planning
from goodcrate.services.plan.problem import Wishes
from goodcrate.services.recipes import saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import placing, weeks
from tests.services.kitchen import MONDAY, furnish, place

Reads = Callable[[HouseholdSession], object]


class Counting:
    """A value that says how often it was worked out, and reads something for it."""

    def __init__(self, reads: Reads = lambda _: None, *, of_all: bool = False) -> None:
        self.kept, self.times, self.reads = Kept[int](4, of_all=of_all), 0, reads

    def asked(self, caller: Caller) -> int:
        with caller.transaction() as session:
            return self.inside(session)

    def inside(self, session: HouseholdSession) -> int:
        return self.kept.get(session, ("it",), lambda: self.work(session))

    def work(self, session: HouseholdSession) -> int:
        self.reads(session)
        self.times += 1
        return self.times


def of_batches(session: HouseholdSession) -> object:
    return session.scalars(select(BatchRow)).all()


def of_boxes(session: HouseholdSession) -> object:
    """Boxes, but only inside a question about something else."""
    there = select(func.count(BoxEventRow.id)).where(BoxEventRow.box_id == BoxRow.id).scalar_subquery()
    return session.execute(select(WeekRow.id, select(func.max(there)).scalar_subquery())).all()


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


def a_batch(household: Caller) -> UUID:
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    worked = picture.outcome.batches[0].plan
    return cooking.batch_id_for(picture.week.id, worked.session_key, worked.component_key)


def test_a_log_ends_only_what_was_worked_out_with_it(household: Caller) -> None:
    furnish(household)
    everything, plan = Counting(of_all=True), Counting()
    batches, boxes = Counting(of_batches), Counting(of_boxes)
    around = Counting(batches.inside)  # it reads them only by what is kept already
    values = (everything, plan, boxes, batches, around)

    def asked() -> list[int]:
        return [value.asked(household) for value in values]

    assert asked() == asked() == [1, 1, 1, 1, 1]
    batch_id = a_batch(household)
    cooking.start_batch(household, MONDAY, batch_id)
    assert asked() == [2, 1, 1, 2, 2]
    began = weeks.week_picture(household, MONDAY)
    assert began is not None
    assert [b.is_started for b in began.outcome.batches] == [True]
    line = began.outcome.batches[0].record.lines[0]
    cooking.weigh_ingredient(household, MONDAY, batch_id, UUID(line.key), uuid4(), 1111)
    weighed = weeks.week_picture(household, MONDAY)
    assert weighed is not None
    assert weighed.outcome.batches[0].outcome.state.lines[0].amount.grams == 1111
    assert asked() == [3, 1, 1, 3, 3]
    eating.say_eaten(household, MONDAY, began.meals[0].id, uuid4(), eating.Said(EATEN))
    assert asked() == [4, 1, 2, 3, 3]
    assert weeks.week_picture(household, MONDAY) is weighed  # no meal of it eats a box that was there before
    household_eaters.put_aside(household, began.eaters[0].id, aside=True)
    assert asked() == [5, 2, 3, 4, 4]


def test_what_was_held_before_is_kept_for_nobody(household: Caller) -> None:
    furnish(household)
    batch_id = a_batch(household)
    cooking.start_batch(household, MONDAY, batch_id)
    of_one = Counting(lambda session: session.find(BatchRow, batch_id))
    with household.transaction() as session:
        held = session.find(BatchRow, batch_id)  # so that the value is worked out without asking the database
        assert [of_one.inside(session), of_one.inside(session)] == [1, 2]
        assert held is not None
    assert [of_one.asked(household), of_one.asked(household)] == [3, 3]


def test_a_log_stays_its_own_when_something_is_deleted() -> None:
    """What the database deletes by itself, no count says: it must be of what is deleted with it, or of the plan's."""
    logs = {mapper.class_.__tablename__: getattr(mapper.class_, "log_of", None) for mapper in Base.registry.mappers}
    assert {log for log in logs.values() if log} == set(LOGS)
    assert set(LOGS) < {column.name for column in HouseholdChangeRow.__table__.columns}
    keys = [(table, key) for table in Base.metadata.tables.values() for key in table.foreign_key_constraints]
    crossing = [
        f"{table.name} goes with {key.referred_table.name}"
        for table, key in keys
        if key.ondelete == "CASCADE" and logs[table.name] and logs[table.name] != logs[key.referred_table.name]
    ]
    assert not crossing


def test_a_household_without_its_counts_is_counted_from_its_next_change(household: Caller) -> None:
    """As an older app, still running beside this one, puts households in."""
    with household.database.accounts() as session, session.begin():
        session.execute(delete(HouseholdChangeRow).where(HouseholdChangeRow.household_id == household.household_id))
    value = Counting(of_batches)
    assert [value.asked(household), value.asked(household)] == [1, 1]
    furnish(household)
    assert value.asked(household) == 2
