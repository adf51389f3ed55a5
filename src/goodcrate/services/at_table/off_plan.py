"""Food that was eaten and stands in no plan: typed in a line, counted at once, taken back by one more event."""

import re
from datetime import date
from uuid import UUID, uuid5

from goodcrate.core.ground.amounts import reading_error_g
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.store.off_plan import read_free_energy
from goodcrate.db.at_table import DoneRow, OffPlanRow, figures_of
from goodcrate.db.base import grams
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import OpenFoodRow
from goodcrate.db.targets import EaterRow
from goodcrate.services.calling import Caller, NotFound, add_once, existing, utc_now
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.recipes.pasting import weighed_foods
from goodcrate.services.store.pantry import food_kept

LONGEST_LINE = 400
_NEGATIVE = re.compile(r"\s*[-−–]\d")


def note(caller: Caller, eater_id: UUID, day: date, event_id: UUID, typed: str) -> int:
    """Note what an eater ate besides on a day: “2 oat biscuits, 40 g”, or “cake, 350 kcal”; several lines are several
    foods. Sending it twice notes it once. Answers how many were noted.

    Raises:
        NotFound: when the household has no such eater.
        InvalidInputs: naming every line that is not understood.
    """
    lines = [line for line in typed[:LONGEST_LINE].splitlines() if line.strip()]
    with caller.transaction() as session:
        existing(session, EaterRow, eater_id, "eater")
        caller.acts_for(eater_id)
        if not lines:
            wanted = say("Such as “40 g oat biscuits” or “cake, 350 kcal”.")
            raise InvalidInputs([InvalidInput("typed", say("Nothing is typed."), wanted)])
        rows = [row for line in lines for row in _read(session, line)]
        for n, row in enumerate(rows):
            row.id = uuid5(event_id, str(n)) if n else event_id
            row.eater_id, row.day, row.user_id, row.happened_at = eater_id, day, caller.user_id, utc_now()
            add_once(session, row)
        return len(rows)


def _read(session: HouseholdSession, line: str) -> list[OffPlanRow]:
    if _NEGATIVE.match(line):
        problem = say("“{line}” is less than nothing.", line=line.strip()[:60])
        raise InvalidInputs([InvalidInput("typed", problem, say("More than 0 g."))])
    free = read_free_energy(line)
    if free is not None:
        return [OffPlanRow(said=" ".join(line.split())[:160], figures=figures_of(free.tally))]
    found = weighed_foods(session, line, "typed", say("40 g oat biscuits"))
    rows = foods_by_key(session, {food.food_key for food in found})
    made = []
    for food in found:
        row = rows[food.food_key]
        amount = food.amount
        tally = Tally.of(row.value().composition, amount.grams, amount.standard_error_g, "off-plan")
        said = f"{food.said[:60]} · {row.name[:90]}"
        made.append(OffPlanRow(said=said, food_id=row.id, grams=grams(amount.grams), figures=figures_of(tally)))
    return made


def note_from_house(caller: Caller, eater_id: UUID, day: date, event_id: UUID, thing_id: UUID, eaten_g: float) -> None:
    """Note what an eater ate of a food in the house, in g; there is so much less of it then. Sending it twice notes it
    once.

    Raises:
        NotFound: when the household has no such eater, or no such food in the house.
        InvalidInput: for more than there is.
    """
    with caller.transaction() as session:
        existing(session, EaterRow, eater_id, "eater")
        caller.acts_for(eater_id)
        existing(session, OpenFoodRow, thing_id, say("thing in the house"))
        if session.find(OffPlanRow, event_id) is not None:
            return
        kept = {row.id: (food, thing.grams) for row, food, thing in food_kept(session)}
        if thing_id not in kept:
            raise NotFound(say("thing in the house"))
        food, there_g = kept[thing_id]
        if not 0 < eaten_g <= there_g + 0.05:
            told = say("There are {grams} g of it.", grams=shown(there_g))
            raise InvalidInput("grams", told, say("More than 0 g, up to that."))
        tally = Tally.of(food.value().composition, eaten_g, reading_error_g(), "off-plan")
        row = OffPlanRow(id=event_id, said=food.name[:160], food_id=food.id, grams=grams(eaten_g), thing_id=thing_id)
        row.figures, row.eater_id, row.day = figures_of(tally), eater_id, day
        row.user_id, row.happened_at = caller.user_id, utc_now()
        add_once(session, row)


def take_back(caller: Caller, noted_id: UUID) -> None:
    """It was not eaten after all. Sending it twice takes it back once.

    Raises:
        NotFound: when nothing of this id was noted.
    """
    with caller.transaction() as session:
        row = existing(session, OffPlanRow, noted_id, say("note"))
        caller.acts_for(row.eater_id)
        back = OffPlanRow(id=uuid5(noted_id, "undone"), undoes=row.id, eater_id=row.eater_id, day=row.day, said="")
        back.user_id, back.happened_at = caller.user_id, utc_now()
        add_once(session, back)


def tick(caller: Caller, day: date, subject: str, event_id: UUID, *, is_done: bool) -> None:
    """Say that a small job of a day is done, or not after all. Sending it twice says it once."""
    with caller.transaction() as session:
        row = DoneRow(id=event_id, day=day, subject=subject[:120], is_done=is_done)
        row.user_id, row.happened_at = caller.user_id, utc_now()
        add_once(session, row)
