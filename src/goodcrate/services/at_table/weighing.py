"""What is weighed at the table, or the evening before: seeds on a plate, oats for the night."""

from datetime import date
from uuid import UUID, uuid5

from goodcrate.core.ground.wording import say
from goodcrate.core.store.for_the_meal import later_lines
from goodcrate.db.at_table import DoneRow
from goodcrate.db.base import grams
from goodcrate.db.session import HouseholdSession
from goodcrate.services.at_table.eating import meal_on, week_at_table
from goodcrate.services.at_table.table import WEIGHED
from goodcrate.services.calling import Caller, NotFound, add_once, utc_now


def weigh(
    caller: Caller,
    first_day: date,
    of: tuple[UUID, str],
    event_id: UUID,
    weighed_g: float | None,
    ticks: tuple[date, str] | None = None,
) -> None:
    """Write down what was weighed of a meal's ingredient (its meal and line), in g; None is as planned after all. The
    job it `ticks` (on a day, by its subject) is done by it. Sending it twice writes it once.

    Raises:
        NotFound: when the week has no such meal, or nothing of its dish with that key is weighed so late.
    """
    meal_id, line_key = of
    with week_at_table(caller, first_day) as (session, table):
        meal = meal_on(table, meal_id)
        caller.acts_for(meal.eater_id)
        if line_key not in later_lines(table.recipe(table.plates[str(meal.id)])):
            raise NotFound(say("ingredient"))
        weighed = DoneRow(id=event_id, day=meal.day, subject=f"{WEIGHED}:{meal_id}:{line_key}")
        weighed.grams = None if weighed_g is None else grams(weighed_g)
        _write(session, caller, weighed, is_done=weighed_g is not None)
        if ticks is not None:
            ticked = DoneRow(id=uuid5(event_id, "ticked"), day=ticks[0], subject=ticks[1][:120])
            _write(session, caller, ticked, is_done=weighed_g is not None)


def _write(session: HouseholdSession, caller: Caller, row: DoneRow, *, is_done: bool) -> None:
    row.is_done, row.user_id, row.happened_at = is_done, caller.user_id, utc_now()
    add_once(session, row)
