"""What a run sheet gives back to the week: when its food is ready, and dishes that are cooked in another session."""

from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from goodcrate.core.ground.clocks import minutes_later
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.week.placings import LONGEST_SESSION_MIN
from goodcrate.db.running import CookRunRow
from goodcrate.db.week import PlacementRow, SessionRow
from goodcrate.services.calling import Caller, NotFound, existing
from goodcrate.services.cook.running import run_id_of
from goodcrate.services.week.weeks import WeekPicture, existing_week, load_picture, take_turns


@dataclass(frozen=True)
class Moved:
    """How many meals of a dish another session cooks now, and how many stay, since that would be too late for them."""

    moved: int
    too_early: int


def meals_of(picture: WeekPicture, session_key: str, recipe_key: str = "") -> list[UUID]:
    """The meals a session cooks, of one recipe or of all."""
    found = []
    for meal in picture.meals:
        placing = picture.outcome.boxes[str(meal.id)].placing
        if placing.session_key == session_key and recipe_key in ("", placing.recipe_key):
            found.append(meal.id)
    return found


def before_ready(picture: WeekPicture, session_key: str, ready: datetime) -> int:
    """How many of a session's meals are eaten before its food is ready."""
    slots = {slot.id: slot for eater in picture.eaters for slot in eater.slots}
    mine = set(meals_of(picture, session_key))
    return sum(datetime.combine(m.day, slots[m.slot_id].at) < ready for m in picture.meals if m.id in mine)


def keep_ready(caller: Caller, first_day: date, session_id: UUID, minutes: int) -> None:
    """Say how long a session takes: its food is ready then, and serves the slots from then on.

    Raises:
        NotFound: when the week has no such session.
        InvalidInput: when it takes no time, or more than a day.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        row = existing(session, SessionRow, session_id, "session")
        if row.week_id != existing_week(session, first_day).id:
            raise NotFound("session")
        if not 1 <= minutes <= LONGEST_SESSION_MIN:
            told = say("{count} min is not possible.", count=minutes)
            raise InvalidInput("minutes", told, say("1 to {most}.", most=LONGEST_SESSION_MIN))
        row.length_min, row.ready_at = minutes, minutes_later(row.starts_at, minutes)


def cook_elsewhere(caller: Caller, first_day: date, session_key: str, recipe_key: str, other_key: str) -> Moved:
    """Let another session of the week cook a dish, as far as its meals are eaten after that one.

    Raises:
        NotFound: when the week has no such session.
        InvalidInput: when the session or its batch was begun, or no meal of it is eaten after the other session.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        picture = load_picture(session, existing_week(session, first_day))
        other = next((s for s in picture.sessions if s.key == other_key), None)
        if other is None or session_key == other_key:
            raise NotFound("session")
        if session.find(CookRunRow, run_id_of(UUID(session_key))) is not None:
            raise InvalidInput("dish", say("This session is being cooked already."), say("Skip its steps instead."))
        begun = [w for w in picture.outcome.batches if w.is_started and w.plan.session_key == session_key]
        if any(w.plan.recipe_key == recipe_key for w in begun):
            raise InvalidInput("dish", say("It is being cooked already."), say("It stays in this session."))
        slots = {slot.id: slot for eater in picture.eaters for slot in eater.slots}
        mine = set(meals_of(picture, session_key, recipe_key))
        there = [m for m in picture.meals if m.id in mine]
        fits = [m for m in there if other.serves(m.day, slots[m.slot_id].at)]
        if not fits:
            raise InvalidInput(
                "dish", say("Its meals are eaten before that session is over."), say("Take them out instead.")
            )
        for meal in fits:
            existing(session, PlacementRow, meal.id, "meal").cooked_in = UUID(other_key)
        return Moved(len(fits), len(there) - len(fits))
