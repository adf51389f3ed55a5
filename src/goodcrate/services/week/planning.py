"""Planning a week: a job outside the request, what it found, taking that, and undoing it."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.ground.amounts import round_half_up
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.variants import base_recipe_key
from goodcrate.core.week.plan.week_check import day_totals
from goodcrate.core.week.week_problem import AIMS, WeekPlan, WeekPlanProblem
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import PlacementRow, PlanJobRow, WeekRow
from goodcrate.services.calling import Caller, NotFound, existing, utc_now
from goodcrate.services.store.house import house_in
from goodcrate.services.week import plan_process
from goodcrate.services.week.eat_first import IN_HOUSE
from goodcrate.services.week.placing import PlaceInput, place_in
from goodcrate.services.week.plan_problem import Wishes, giving_way, openable, problem_of
from goodcrate.services.week.weeks import add_session_in, existing_week, load_picture, take_turns

RUNNING, DONE, STOPPED, FAILED = "running", "done", "stopped", "failed"
DEAD_AFTER = timedelta(seconds=20)
"""A worker that said nothing for so long is gone: its job is reported as stopped."""


TRADED = ("batches", "minutes", "dishes", "frozen", "cost")


@dataclass(frozen=True)
class JobState:
    """A job as pages show it."""

    id: UUID
    status: str
    said: str
    plans: tuple[Mapping[str, Any], ...]
    conflicts: tuple[Mapping[str, Any], ...]
    wishes: Wishes
    seconds: float

    @property
    def traded(self) -> dict[str, dict[str, float]]:
        """By aim: how many more (or, negative, fewer) batches, minutes … a week takes than the first one found."""
        first = self.plans[0] if self.plans else {}
        return {
            p["aim"]: {k: p[k] - first[k] for k in TRADED if p[k] is not None and first[k] is not None}
            for p in self.plans[1:]
        }

    @property
    def is_running(self) -> bool:
        """Whether a worker is at it."""
        return self.status == RUNNING


def _state(row: PlanJobRow) -> JobState:
    status, said = row.status, row.said
    if status == RUNNING and utc_now() - row.beat_at > DEAD_AFTER:
        status, said = STOPPED, "It was stopped when the app went down. What it had found by then is below."
    until = utc_now() if status == RUNNING else row.beat_at
    return JobState(
        row.id, status, said, tuple(row.plans), tuple(row.conflicts), Wishes(**row.rules),
        max(0.0, (until - row.started_at).total_seconds()),
    )  # fmt: skip


def start_job(
    caller: Caller, first_day: date, job_id: UUID, wishes: Wishes, one_more_session: datetime | None = None
) -> UUID:
    """Begin planning a week outside this request. While one is running for the week, that one goes on instead.

    One more session, when asked for, is added with it: not when planning is refused.

    Raises:
        NotFound: when there is no such week.
        InvalidInput: for wishes that cannot be, a session outside the week, or a week without eaters or recipes.
    """
    wishes.checked()
    with caller.transaction() as session:
        take_turns(session, first_day)  # two starts at once are one after the other
        week = existing_week(session, first_day)
        running = session.scalars(
            select(PlanJobRow).where(PlanJobRow.week_id == week.id, PlanJobRow.status == RUNNING).with_for_update()
        ).all()
        alive = next((row for row in running if _state(row).is_running), None)
        if alive is not None:
            return alive.id
        if session.find(PlanJobRow, job_id) is not None:
            return job_id
        if one_more_session is not None:
            add_session_in(session, week, one_more_session)
            session.flush()
            session.refresh(week)
        picture = load_picture(session, week)
        problem = problem_of(session, picture, wishes)
        opened = [[str(p.id), p.version] for p in giving_way(picture, wishes)]
        if not problem.slots:
            raise InvalidInput("slots", "Nobody has a target and slots to plan for.", "Set a target first.")
        if not any(slot.dishes for slot in problem.slots if slot.fixed is None):
            raise InvalidInput("dishes", "No recipe suits an empty slot.", "Tag one: cold, travels, breakfast, snack.")
        now = utc_now()
        session.add(
            PlanJobRow(id=job_id, week_id=week.id, status=RUNNING, rules=asdict(wishes), plans=[], conflicts=[],
                       opened=opened, said="", wants_stop=False, started_at=now, beat_at=now)
        )  # fmt: skip
    plan_process.launch(caller, str(caller.household_id), first_day.isoformat(), str(job_id))
    return job_id


def job_state(caller: Caller, first_day: date) -> JobState | None:
    """The newest job of a week, or None.

    Raises:
        NotFound: when there is no such week.
    """
    with caller.transaction() as session:
        week = existing_week(session, first_day)
        row = session.scalar(
            select(PlanJobRow).where(PlanJobRow.week_id == week.id).order_by(PlanJobRow.started_at.desc()).limit(1)
        )
        return None if row is None else _state(row)


def stop_job(caller: Caller, job_id: UUID) -> None:
    """Ask a job to stop; it keeps the best week it has.

    Raises:
        NotFound: when the household has no such job.
    """
    with caller.transaction() as session:
        existing(session, PlanJobRow, job_id, "plan").wants_stop = True


def beat(caller: Caller, job_id: UUID, **news: Any) -> bool:
    """What a worker says while it lives; answers whether to go on."""
    with caller.transaction() as session:
        row = existing(session, PlanJobRow, job_id, "plan")
        for name, value in news.items():
            setattr(row, name, value)
        row.beat_at = utc_now()
        return not row.wants_stop


def as_stored(plan: WeekPlan, problem: WeekPlanProblem, first_day: date, aim: str) -> dict[str, Any]:
    """A plan as it is kept: meals by ids and dates, what it takes, and each day against its band."""
    dishes = {d.key: d for d in problem.dishes}
    days = [
        {"eater": t.band.eater_key, "day": t.band.day, "kcal": round_half_up(t.kcal),
         "protein": round_half_up(t.protein_g), "met": t.keeps_band and t.keeps_floor, "placed": t.is_placed,
         "low": round_half_up(t.band.energy_low_kcal),
         "high": round_half_up(t.band.energy_high_kcal), "floor": round_half_up(t.band.protein_floor_g)}
        for t in day_totals(problem, plan)
    ]  # fmt: skip
    labels = {(s.eater_key, s.slot_key): s.words for s in problem.slots}
    order = {key: n for n, key in enumerate(labels)}
    meals = [
        {"at": labels[m.eater_key, m.slot_key], "order": order[m.eater_key, m.slot_key],
         "eater": m.eater_key, "slot": m.slot_key, "day": (first_day + timedelta(days=m.day)).isoformat(),
         "recipe": base_recipe_key(m.dish_key.partition(IN_HOUSE)[0]), "name": dishes[m.dish_key].name,
         "grams": m.grams, "servings": round(m.grams / dishes[m.dish_key].serving_g, 6), "frozen": m.is_frozen,
         "session": m.session_key, "house": m.dish_key.partition(IN_HOUSE)[2]}
        for m in plan.meals
        if not m.is_fixed or IN_HOUSE in m.dish_key
    ]  # fmt: skip
    known = [d.cost_per_g for d in dishes.values()]
    cost = sum((dishes[m.dish_key].cost_per_g or 0.0) * m.grams for m in plan.meals)
    return {
        "aim": aim, "seed": problem.rules.seed, "limit_seconds": problem.rules.limit_seconds,
        "words": AIMS[aim], "meals": meals, "days": days, "batches": plan.batches,
        "left_g": round(plan.left_over_g), "again": plan.fillings_again,
        "minutes": round(plan.hands_on_min), "dishes": len({m["recipe"] for m in meals}),
        "frozen": sum(bool(m["frozen"]) for m in meals),
        "cost": round(cost, 2) if all(c is not None for c in known) else None,
    }  # fmt: skip


def take_plan(caller: Caller, first_day: date, job_id: UUID, aim: str) -> int:
    """Put a found week into the slots that are empty, or that it was told to plan anew; gives how many meals came.

    A meal that was placed, pinned, moved or changed while the planner worked stays. Taking twice places once.

    Raises:
        NotFound: when the household has no such job, or it found no such week.
        InvalidInputs: when a recipe may not stand where it was planned any more.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        job, week = _job_of_week(session, first_day, job_id)
        plan = next((p for p in job.plans if p["aim"] == aim), None)
        if plan is None:
            raise NotFound("plan")
        picture = load_picture(session, week)
        may_open = {p.id for p in giving_way(picture, Wishes(**job.rules))}
        opened = {(UUID(row_id), version) for row_id, version in job.opened}
        standing = {(str(p.eater_id), str(p.slot_id), p.day.isoformat()): p for p in picture.meals}
        groups: dict[tuple[str, str, str, float, str, bool, str], list[date]] = {}
        free = {str(b.id): list(b.free_ids) for b in house_in(session).boxes}
        replaced = []
        for meal in plan["meals"]:
            there = standing.get((meal["eater"], meal["slot"], meal["day"]))
            if there is not None and (there.id not in may_open or (there.id, there.version) not in opened):
                continue
            box = meal.get("house", "")
            if box and not free.get(box):
                continue  # somebody ate it meanwhile
            eaten = str(free[box].pop(0)) if box else ""
            if there is not None:
                replaced.append(str(there.id))
            key = (
                meal["eater"],
                meal["slot"],
                meal["recipe"],
                meal["servings"],
                meal["session"],
                meal["frozen"],
                eaten,
            )
            groups.setdefault(key, []).append(date.fromisoformat(meal["day"]))
        placed = 0
        for (eater, slot, recipe, servings, cooked_in, frozen, eaten), days in groups.items():
            typed = PlaceInput(
                uuid5(job_id, f"{aim}:{eater}:{slot}:{recipe}:{servings}:{cooked_in}:{frozen}:{eaten}"), UUID(eater),
                UUID(slot), UUID(recipe), servings, tuple(days), UUID(cooked_in) if cooked_in else None, frozen, job_id,
                UUID(eaten) if eaten else None,
            )  # fmt: skip
            placed += len(place_in(session, first_day, typed))
        job.replaced = [*job.replaced, *replaced]
        return placed


def untake_plan(caller: Caller, first_day: date, job_id: UUID) -> int:
    """Undo the taking of a plan: its meals go, those that gave way come back; gives how many went.

    Boxes that are packed, and meals that were pinned since, stay.

    Raises:
        NotFound: when the household has no such job.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        job, week = _job_of_week(session, first_day, job_id)
        may_go = {p.id for p in openable(load_picture(session, week))}
        here = (PlacementRow.week_id == week.id, PlacementRow.live == 1)
        rows = session.scalars(select(PlacementRow).where(*here, PlacementRow.from_job == job_id)).all()
        gone = [row for row in rows if row.id in may_go]
        for row in gone:
            row.live = None
        session.flush()
        taken = {(p.eater_id, p.slot_id, p.day) for p in session.scalars(select(PlacementRow).where(*here))}
        back = []
        for row_id in job.replaced:
            before = session.find(PlacementRow, UUID(row_id))
            if before is None or before.live or (before.eater_id, before.slot_id, before.day) in taken:
                continue
            before.live = 1
            taken.add((before.eater_id, before.slot_id, before.day))
            back.append(before)
        session.flush()
        versions = {str(row.id): row.version for row in back}
        job.opened = [[row_id, versions.get(row_id, version)] for row_id, version in job.opened]
        job.replaced = []
        return len(gone)


def _job_of_week(session: HouseholdSession, first_day: date, job_id: UUID) -> tuple[PlanJobRow, WeekRow]:
    job = existing(session, PlanJobRow, job_id, "plan")
    week = existing_week(session, first_day)
    if job.week_id != week.id:
        raise NotFound("plan")
    return job, week
