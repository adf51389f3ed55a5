"""What a household's cooks mean by their words: learned where a line was confirmed or corrected, never from a guess."""

from collections.abc import Mapping, Sequence
from uuid import uuid5

from sqlalchemy import select

from goodcrate.core.foods.line.words import FILLERS
from goodcrate.db.foods import LineHabitRow
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.line_words import line_reader
from goodcrate.services.calling import Caller

LONGEST_WORDS = 120


def words_key(words: Sequence[str]) -> str:
    """Words as habits are kept by: those that name a food, in their order."""
    return " ".join(w for w in words if w not in FILLERS)[:LONGEST_WORDS]


def habits_of(session: HouseholdSession) -> Mapping[str, str]:
    """The food that was confirmed for each wording."""
    rows = session.execute(select(LineHabitRow.words, LineHabitRow.food_key))
    return {row.words: row.food_key for row in rows}


def remember(caller: Caller, confirmed: Mapping[str, str]) -> None:
    """Keep which food was confirmed for a line, by the line as it was pasted.

    A line that is understood so anyway, and one that names nothing, teaches nothing.
    """
    reader = line_reader()
    taught: dict[str, str] = {}
    for line, food_key in confirmed.items():
        found = reader.read(line)
        if words_key(found.words) and (found.key != food_key or found.asks):
            taught[words_key(found.words)] = food_key
    if not taught:
        return
    with caller.transaction() as session:
        for words, food_key in taught.items():
            row = session.scalar(select(LineHabitRow).where(LineHabitRow.words == words))
            if row is None:
                row_id = uuid5(session.household_id, f"line-habit:{words}")
                session.add(LineHabitRow(id=row_id, words=words, food_key=food_key))
            else:
                row.food_key = food_key
