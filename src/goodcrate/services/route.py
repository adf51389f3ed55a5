"""The route: the nine stages in the order of work, each with its short state for the current week."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from sqlalchemy import Select, func, select

from goodcrate.core.cook import POT, settled
from goodcrate.db.cook import BatchRow
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.targets import Eater
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller
from goodcrate.services.week import monday_of

STAGES = ("targets", "foods", "recipes", "week", "shop", "cook", "portion", "store", "review")


@dataclass(frozen=True)
class StageState:
    """A stage's state in a few words."""

    words: str


def _count(session: HouseholdSession, statement: Select[int]) -> int:
    return session.scalar(statement) or 0


def route_states(caller: Caller, today: date) -> Mapping[str, StageState]:
    """What stands at each stage, for the week that holds `today`."""
    with caller.transaction() as session:
        eaters = session.scalars(select(Eater)).all()
        recipes = _count(session, select(func.count(RecipeRow.id)))
        week = session.scalar(select(WeekRow).where(WeekRow.first_day == monday_of(today)))
        placed = started = weighed = 0
        if week is not None:
            live = select(func.count(PlacementRow.id)).where(PlacementRow.week_id == week.id, PlacementRow.live == 1)
            placed = _count(session, live)
            batches = session.scalars(select(BatchRow).where(BatchRow.week_id == week.id)).all()
            started = len(batches)
            weighed = sum(POT in settled(b.record().log) for b in batches)
    slots = sum(len(e.slots) for e in eaters) * (week.days if week else 7)
    words = {
        "targets": _some(len(eaters), "eater", "eaters") + " set" if eaters else "nobody yet",
        "foods": f"{len(reference_foods())} known",
        "recipes": _some(recipes, "recipe", "recipes") if recipes else "none yet",
        "week": f"{placed} of {slots} placed" if week else "not started",
        "shop": "comes next",
        "cook": _some(started, "batch", "batches") + " begun" if started else "nothing begun",
        "portion": _some(weighed, "pot", "pots") + " weighed" if weighed else "no pot weighed",
        "store": "comes later",
        "review": "comes later",
    }
    return {stage: StageState(words[stage]) for stage in STAGES}


def _some(count: int, one: str, many: str) -> str:
    return f"{count} {one if count == 1 else many}"
