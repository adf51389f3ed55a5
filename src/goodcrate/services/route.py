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
from goodcrate.services.store.boxes import how_many_there
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
        planned = _PLANNED.get(session, (today,), lambda: _planned(session, today))
        started, weighed = _COOKED.get(session, (planned.cooked_id,), lambda: _batches_and_pots(session, planned))
        opened = _OPENED.get(session, (), lambda: _opened(session))
        boxes = _BOXES.get(session, (), lambda: how_many_there(session))
    eaters, foods, placed = planned.eaters, planned.foods, planned.placed
    slots = planned.slots_a_day * planned.days
    words = {
        "targets": say("{eaters} set", eaters=many(eaters, "eater")) if eaters else say("nobody yet"),
        "foods": say("{foods} in the kitchen", foods=foods)
        if foods
        else say("{reference_foods} typical", reference_foods=len(reference_foods())),
        "recipes": many(planned.recipes, "recipe") if planned.recipes else say("none yet"),
        "week": say("not started") if placed is None else say("{placed} of {slots} placed", placed=placed, slots=slots),
        "shop": say("list ready") if placed else say("nothing yet"),
        "cook": say("{batches} begun", batches=many(started, "batch")) if started else say("nothing begun"),
        "portion": say("{pots} weighed", pots=many(weighed, "pot")) if weighed else say("no pot weighed"),
        "store": _in_the_house(boxes, opened),
        "review": say("how it went"),
    }
    return {stage: StageState(words[stage]) for stage in STAGES}


@dataclass(frozen=True)
class _Planned:
    """What the states say of the plan: `placed` meals of the week of today, None without one; the week at hand."""

    eaters: int
    slots_a_day: int
    recipes: int
    foods: int
    days: int
    placed: int | None
    cooked_id: UUID | None


_PLANNED: Kept[_Planned] = Kept(64)
_COOKED: Kept[tuple[int, int]] = Kept(64)
_OPENED: Kept[int] = Kept(64)
_BOXES: Kept[int] = Kept(64)


def _planned(session: HouseholdSession, today: date) -> _Planned:
    counted = [select(func.count(kind.id)).scalar_subquery() for kind in (RecipeRow, FoodRow)]
    slots_now = select(func.count(SlotRow.id)).join(SlotRow.eater)
    here = (EaterRow.is_archived.is_(False), SlotRow.is_archived.is_(False))
    counted = [
        select(func.count(EaterRow.id)).where(here[0]).scalar_subquery(),
        slots_now.where(*here).scalar_subquery(),
        *counted,
    ]
    # One question instead of four: every page asks it.
    eaters, slots_a_day, recipes, foods = map(int, session.execute(select(*counted)).one())
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
    days, placed = (7, None) if week is None else (week.days, int(week[3]))
    at_hand = week_at_hand_in(session, today)
    cooked_id = None if at_hand is None else session.scalar(select(WeekRow.id).where(WeekRow.first_day == at_hand))
    return _Planned(eaters, slots_a_day, recipes, foods, days, placed=placed, cooked_id=cooked_id)


def _opened(session: HouseholdSession) -> int:
    there = (OpenFoodRow.live == 1, OpenFoodRow.is_open.is_(True))
    return session.scalar(select(func.count(OpenFoodRow.id)).where(*there)) or 0


def _batches_and_pots(session: HouseholdSession, planned: _Planned) -> tuple[int, int]:
    """How many batches of the week at hand were begun, and how many of their pots stand weighed (the last word of the
    log counts)."""
    log = session.execute(
        select(BatchRow.id, WeighingRow.pot_id, WeighingRow.net_g)
        .outerjoin(WeighingRow, and_(WeighingRow.batch_id == BatchRow.id, WeighingRow.kind == POT_KIND))
        .where(BatchRow.week_id == planned.cooked_id)
        .order_by(WeighingRow.seq)
    ).all()
    last = {row.pot_id: row.net_g for row in log if row.pot_id is not None}
    return len({row.id for row in log}), sum(net_g is not None for net_g in last.values())


def _in_the_house(boxes: int, opened: int) -> str:
    parts = [many(boxes, "box")] if boxes else []
    parts += [say("{opened} open", opened=opened)] if opened else []
    return ", ".join(parts) or say("nothing noted")
