"""The route: the nine stages in the order of work, each with its short state for the current week."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from uuid import UUID

from sqlalchemy import and_, func, select

from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import many
from goodcrate.db.changes import Kept
from goodcrate.db.cook import POT_KIND, BatchRow, WeighingRow
from goodcrate.db.foods import FoodRow
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import OpenFoodRow
from goodcrate.db.targets import EaterRow, SlotRow
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller
from goodcrate.services.store.boxes import boxes_there
from goodcrate.services.week.nearby import week_at_hand_in

STAGES: Mapping[str, str] = {
    "targets": Saying("Targets"),
    "foods": Saying("Foods"),
    "recipes": Saying("Recipes"),
    "week": Saying("Week"),
    "shop": Saying("Shop"),
    "cook": Saying("Cook"),
    "portion": Saying("Portion"),
    "store": Saying("Store"),
    "review": Saying("Review"),
}
"""The stages in the order of work, as they are called."""


@dataclass(frozen=True)
class StageState:
    """A stage's state in a few words."""

    words: str


def route_states(caller: Caller, today: date) -> Mapping[str, StageState]:
    """What stands at each stage: of the week that holds `today`, and of the prep session that is at hand."""
    with caller.transaction() as session:
        return _STATES.get(session, (today,), lambda: _states(session, today))


_STATES: Kept[Mapping[str, StageState]] = Kept(64)


def _states(session: HouseholdSession, today: date) -> Mapping[str, StageState]:
    counted = [select(func.count(kind.id)).scalar_subquery() for kind in (RecipeRow, FoodRow)]
    slots_now = select(func.count(SlotRow.id)).join(SlotRow.eater)
    here = (EaterRow.is_archived.is_(False), SlotRow.is_archived.is_(False))
    counted = [
        select(func.count(EaterRow.id)).where(here[0]).scalar_subquery(),
        slots_now.where(*here).scalar_subquery(),
        *counted,
    ]
    counted.append(
        select(func.count(OpenFoodRow.id)).where(OpenFoodRow.live == 1, OpenFoodRow.is_open.is_(True)).scalar_subquery()
    )
    # One question instead of five: every page asks it.
    eaters, slots_a_day, recipes, foods, opened = map(int, session.execute(select(*counted)).one())
    week = session.execute(
        select(WeekRow.id, WeekRow.first_day, WeekRow.days, func.count(PlacementRow.id))
        .outerjoin(PlacementRow, and_(PlacementRow.week_id == WeekRow.id, PlacementRow.live == 1))
        .where(WeekRow.first_day <= today)
        .group_by(WeekRow.id, WeekRow.first_day, WeekRow.days)
        .order_by(WeekRow.first_day.desc())
        .limit(1)
    ).one_or_none()
    if week is not None and today >= week.first_day + timedelta(days=week.days):
        week = None
    days, placed = (7, 0) if week is None else (week.days, week[3])
    at_hand = week_at_hand_in(session, today)
    cooked_id = None if at_hand is None else session.scalar(select(WeekRow.id).where(WeekRow.first_day == at_hand))
    started, weighed = _batches_and_pots(session, cooked_id) if cooked_id is not None else (0, 0)
    slots = slots_a_day * days
    words = {
        "targets": say("{eaters} set", eaters=many(eaters, "eater")) if eaters else say("nobody yet"),
        "foods": say("{foods} in the kitchen", foods=foods)
        if foods
        else say("{reference_foods} typical", reference_foods=len(reference_foods())),
        "recipes": many(recipes, "recipe") if recipes else say("none yet"),
        "week": say("{placed} of {slots} placed", placed=placed, slots=slots) if week else say("not started"),
        "shop": say("list ready") if placed else say("nothing yet"),
        "cook": say("{batches} begun", batches=many(started, "batch")) if started else say("nothing begun"),
        "portion": say("{pots} weighed", pots=many(weighed, "pot")) if weighed else say("no pot weighed"),
        "store": _in_the_house(len(boxes_there(session)), opened),
        "review": say("how it went"),
    }
    return {stage: StageState(words[stage]) for stage in STAGES}


def _batches_and_pots(session: HouseholdSession, week_id: UUID) -> tuple[int, int]:
    """How many batches were begun, and how many of their pots stand weighed (the last word of the log counts)."""
    log = session.execute(
        select(BatchRow.id, WeighingRow.pot_id, WeighingRow.net_g)
        .outerjoin(WeighingRow, and_(WeighingRow.batch_id == BatchRow.id, WeighingRow.kind == POT_KIND))
        .where(BatchRow.week_id == week_id)
        .order_by(WeighingRow.seq)
    ).all()
    last = {row.pot_id: row.net_g for row in log if row.pot_id is not None}
    return len({row.id for row in log}), sum(net_g is not None for net_g in last.values())


def _in_the_house(boxes: int, opened: int) -> str:
    parts = [many(boxes, "box")] if boxes else []
    parts += [say("{opened} open", opened=opened)] if opened else []
    return ", ".join(parts) or say("nothing noted")
