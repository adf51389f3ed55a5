"""Planning a week: a job outside the request, what it found, taking that, and undoing it."""

from dataclasses import asdict, dataclass
from datetime import date, datetime, timedelta
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import round_half_up
from goodcrate.core.recipes.variants import base_recipe_key
from goodcrate.core.week.placings import kept_servings
from goodcrate.core.week.plan.week_check import day_totals, mean_totals
from goodcrate.core.week.week_problem import AIMS, WeekPlan, WeekPlanProblem
from goodcrate.db.jobs import JobRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.stored import by_name
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.services.calling import Caller, NotFound, existing
from goodcrate.services.jobs import process
from goodcrate.services.jobs.ledger import Job, begin, newest, running_job
from goodcrate.services.plan.problem import Wishes, giving_way, openable, problem_of
from goodcrate.services.store.house import house_in
from goodcrate.services.week.eat_first import IN_HOUSE
from goodcrate.services.week.placing import PlaceInput, place_in
from goodcrate.services.week.weeks import add_session_in, existing_week, load_picture, take_turns

PLANNING = "plan_week"
"""The kind of job."""
TRADED = ("batches", "minutes", "dishes", "frozen")


@dataclass(frozen=True)
class Planning:
    """A job of planning as pages show it: the weeks it found, what is in the way, and what it was asked for."""

    job: Job
    wishes: Wishes

    @property
    def id(self) -> UUID:
        """The job's id."""
        return self.job.id

    @property
    def said(self) -> str:
        """What its worker said last."""
        return self.job.said

    @property
    def seconds(self) -> float:
        """What it took so far, or until it ended."""
        return self.job.seconds

    @property
    def is_running(self) -> bool:
        """Whether a worker is at it."""
        return self.job.is_running

    @property
    def plans(self) -> tuple[ReadDocument, ...]:
        """The weeks it found so far, the first one first."""
        return self.job.best

    @property
    def conflicts(self) -> tuple[ReadDocument, ...]:
        """What is in the way, when no week was found."""
        return tuple(self.job.result.get("conflicts", ()))

    @property
    def traded(self) -> dict[str, dict[str, float]]:
        """By aim: how many more (or, negative, fewer) batches, minutes … a week takes than the first one found."""
        first = self.plans[0] if self.plans else {}
        return {p["aim"]: {k: p[k] - first[k] for k in TRADED} for p in self.plans[1:]}


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
        running = running_job(session, PLANNING, week.id)
        if running is not None:
            process.send_again(caller, PLANNING, running)
            return running
        if session.find(JobRow, job_id) is not None:
            return job_id
        if one_more_session is not None:
            add_session_in(session, week, one_more_session)
            session.flush()
            session.refresh(week)
        picture = load_picture(session, week)
        problem = problem_of(session, picture, wishes)
        opened = [[str(p.id), p.version] for p in giving_way(picture, wishes)]
        if not problem.slots:
            raise InvalidInput("slots", say("Nobody has a target and slots to plan for."), say("Set a target first."))
        if not any(slot.dishes for slot in problem.slots if slot.fixed is None):
            raise InvalidInput(
                "dishes", say("No recipe suits an empty slot."), say("Tag one: cold, travels, breakfast, snack.")
            )
        begin(session, job_id, PLANNING, week.id, {"wishes": asdict(wishes), "opened": opened})
    process.launch(caller, PLANNING, job_id)
    return job_id


def newest_planning(caller: Caller, first_day: date) -> Planning | None:
    """The newest planning of a week, or None.

    Raises:
        NotFound: when there is no such week.
    """
    with caller.transaction() as session:
        job = newest(session, PLANNING, existing_week(session, first_day).id)
        return None if job is None else Planning(job, by_name(Wishes, job.input["wishes"]))


def _days_as_stored(plan: WeekPlan, problem: WeekPlanProblem) -> list[Document]:
    return [
        {
            "eater": t.band.eater_key,
            "day": t.band.day,
            "kcal": round_half_up(t.kcal),
            "protein": round_half_up(t.protein_g),
            "met": t.keeps_band and t.keeps_floor,
            "placed": t.is_placed,
            "low": round_half_up(t.band.energy_low_kcal),
            "high": round_half_up(t.band.energy_high_kcal),
            "floor": round_half_up(t.band.protein_floor_g),
        }
        for t in day_totals(problem, plan)
    ]


def _means_as_stored(plan: WeekPlan, problem: WeekPlanProblem) -> list[Document]:
    return [
        {
            "eater": t.mean.eater_key,
            "kcal": round_half_up(t.kcal),
            "protein": round_half_up(t.protein_g),
            "met": t.keeps_band and t.keeps_floor,
            "low": round_half_up(t.mean.energy_low_kcal),
            "high": round_half_up(t.mean.energy_high_kcal),
            "floor": round_half_up(t.mean.protein_floor_g),
        }
        for t in mean_totals(problem, plan)
    ]


def as_stored(plan: WeekPlan, problem: WeekPlanProblem, first_day: date, aim: str) -> Document:
    """A plan as it is kept: meals by ids and dates, what it takes, and each day against its band."""
    dishes = {d.key: d for d in problem.dishes}
    labels = {(s.eater_key, s.slot_key): s.words for s in problem.slots}
    order = {key: n for n, key in enumerate(labels)}
    meals = [
        {
            "at": labels[m.eater_key, m.slot_key],
            "order": order[m.eater_key, m.slot_key],
            "eater": m.eater_key,
            "slot": m.slot_key,
            "day": (first_day + timedelta(days=m.day)).isoformat(),
            "recipe": base_recipe_key(m.dish_key.partition(IN_HOUSE)[0]),
            "name": dishes[m.dish_key].name,
            "grams": m.grams,
            "servings": kept_servings(m.grams / dishes[m.dish_key].serving_g),
            "frozen": m.is_frozen,
            "session": m.session_key,
            "house": m.dish_key.partition(IN_HOUSE)[2],
        }
        for m in plan.meals
        if not m.is_fixed or IN_HOUSE in m.dish_key
    ]
    return {
        "aim": aim,
        "seed": problem.rules.seed,
        "limit_seconds": problem.rules.limit_seconds,
        "words": AIMS[aim],
        "meals": meals,
        "days": _days_as_stored(plan, problem),
        "means": _means_as_stored(plan, problem),
        "proven": plan.is_proven_best,
        "bound": [plan.bound_batches, plan.bound_min],
        "batches": plan.batches,
        "left_g": round(plan.left_over_g),
        "again": plan.fillings_again,
        "minutes": round(plan.hands_on_min),
        "dishes": len({m["recipe"] for m in meals}),
        "frozen": sum(bool(m["frozen"]) for m in meals),
    }


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
        plan = next((p for p in job.best if p["aim"] == aim), None)
        if plan is None:
            raise NotFound("plan")
        groups, replaced = _to_place(session, week, job, plan)
        placed = 0
        for (eater, slot, recipe, servings, cooked_in, frozen, eaten), days in groups.items():
            typed = PlaceInput(
                uuid5(job_id, f"{aim}:{eater}:{slot}:{recipe}:{servings}:{cooked_in}:{frozen}:{eaten}"),
                UUID(eater),
                UUID(slot),
                UUID(recipe),
                servings,
                tuple(days),
                cooked_in=UUID(cooked_in) if cooked_in else None,
                is_frozen=frozen,
                from_job=job_id,
                from_box=UUID(eaten) if eaten else None,
            )
            placed += len(place_in(session, first_day, typed))
        job.result = {**job.result, "replaced": [*job.result.get("replaced", ()), *replaced]}
        return placed


_Same = tuple[str, str, str, float, str, bool, str]
"""Eater, slot, recipe, servings, session, frozen and box of the house: what is placed on several days at once."""


def _to_place(
    session: HouseholdSession, week: WeekRow, job: JobRow, plan: ReadDocument
) -> tuple[dict[_Same, list[date]], list[str]]:
    """What of a found week can stand, with its days; and the meals that give way to it."""
    picture = load_picture(session, week)
    may_open = {p.id for p in giving_way(picture, by_name(Wishes, job.input["wishes"]))}
    opened = {(UUID(row_id), version) for row_id, version in job.input["opened"]}
    standing = {(str(p.eater_id), str(p.slot_id), p.day.isoformat()): p for p in picture.meals}
    free = {str(b.id): list(b.free_ids) for b in house_in(session).boxes}
    groups: dict[_Same, list[date]] = {}
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
        what = (meal["eater"], meal["slot"], meal["recipe"], meal["servings"], meal["session"], meal["frozen"], eaten)
        groups.setdefault(what, []).append(date.fromisoformat(meal["day"]))
    return groups, replaced


def take_plan_out(caller: Caller, first_day: date, job_id: UUID) -> int:
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
        for row_id in job.result.get("replaced", ()):
            before = session.find(PlacementRow, UUID(row_id))
            if before is None or before.live or (before.eater_id, before.slot_id, before.day) in taken:
                continue
            before.live = 1
            taken.add((before.eater_id, before.slot_id, before.day))
            back.append(before)
        session.flush()
        versions = {str(row.id): row.version for row in back}
        opened = [[row_id, versions.get(row_id, version)] for row_id, version in job.input["opened"]]
        job.input = {**job.input, "opened": opened}
        job.result = {**job.result, "replaced": []}
        return len(gone)


def _job_of_week(session: HouseholdSession, first_day: date, job_id: UUID) -> tuple[JobRow, WeekRow]:
    job = existing(session, JobRow, job_id, "plan")
    week = existing_week(session, first_day)
    if job.week_id != week.id:
        raise NotFound("plan")
    return job, week
