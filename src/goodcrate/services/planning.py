"""Planning a week: the problem from what the household has, a job outside the request, and taking what it found."""

import os
import subprocess
import sys
import threading
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.errors import InvalidInput
from goodcrate.core.find import words_of
from goodcrate.core.keeping import storage_of
from goodcrate.core.recipes import Recipe, serving_of
from goodcrate.core.steps import hands_on_min
from goodcrate.core.targets import CONFIRM_BELOW_KCAL
from goodcrate.core.variants import base_recipe_key, for_eater
from goodcrate.core.week import SESSION_LENGTH
from goodcrate.core.week_check import day_totals
from goodcrate.core.week_fit import LARGEST_SERVINGS, SMALLEST_SERVINGS
from goodcrate.core.week_problem import (
    AIMS,
    PlanDay,
    PlanDish,
    PlanRules,
    PlanSession,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
)
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.targets import Eater, Slot
from goodcrate.db.week import PlacementRow, PlanJobRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller, NotFound, existing, utc_now
from goodcrate.services.recipes import recipe_values
from goodcrate.services.week import (
    PlaceInput,
    WeekPicture,
    existing_week,
    load_picture,
    pinned_versions,
    place,
    why_not_for,
)

CAUTIOUS, USUAL = "cautious", "usual"
RUNNING, DONE, STOPPED, FAILED = "running", "done", "stopped", "failed"
DEAD_AFTER = timedelta(seconds=20)
"""A worker that said nothing for so long is gone: its job is reported as stopped."""
UNKNOWN_HANDS_ON_MIN = 20.0
"""A recipe whose steps say no minutes is taken at so many: our assumption, told beside the plan."""
_KINDS_OF_SLOT = ("breakfast", "snack")


@dataclass(frozen=True)
class Wishes:
    """What the cook lets the planner do."""

    keep: str = USUAL
    different: int = 2
    repeats: int = 7
    freezer_boxes: int = 6

    def checked(self) -> "Wishes":
        """These wishes, or why they cannot be.

        Raises:
            InvalidInput: for a number out of range.
        """
        if self.keep not in (CAUTIOUS, USUAL):
            raise InvalidInput("keep", f"“{self.keep}” is no keeping rule.", "Cautious or usual.")
        for name, value, high in (("different", self.different, 14), ("repeats", self.repeats, 56),
                                  ("freezer_boxes", self.freezer_boxes, 200)):  # fmt: skip
            if not (1 if name != "freezer_boxes" else 0) <= value <= high:
                raise InvalidInput(name, f"{value} is not possible.", f"Up to {high}.")
        return self


def problem_of(session: HouseholdSession, picture: WeekPicture, wishes: Wishes) -> WeekPlanProblem:
    """A week as the planner's problem: what is placed stays, gaps are filled from the library."""
    recipes = _library(session, picture)
    dishes: dict[str, PlanDish] = {}
    slots, days = [], []
    serves: dict[str, set[tuple[str, int, str]]] = {str(s.id): set() for s in picture.sessions}
    placed = {(p.eater_id, p.slot_id, p.day): p for p in picture.placements}
    for eater in picture.eaters:
        for n, day in enumerate(picture.dates):
            day_type = eater.day_type_on(day.weekday())
            if day_type is None or day_type.energy_kcal < CONFIRM_BELOW_KCAL:
                continue
            target = day_type.target
            days.append(
                PlanDay(str(eater.id), n, day_type.name, target.energy_low_kcal, target.energy_high_kcal,
                        target.protein_floor_g)
            )  # fmt: skip
            for slot in eater.slots:
                where = (str(eater.id), n, str(slot.id))
                eaten_at = datetime.combine(day, slot.at)
                for s in picture.sessions:
                    if s.starts_at + SESSION_LENGTH <= eaten_at:
                        serves[str(s.id)].add(where)
                there = placed.get((eater.id, slot.id, day))
                slots.append(_slot(picture, eater, slot, n, there, recipes, dishes, wishes))
    sessions = tuple(
        PlanSession(str(s.id), (s.starts_at.date() - picture.week.first_day).days, frozenset(serves[str(s.id)]))
        for s in picture.sessions
    )
    rules = PlanRules(wishes.different, wishes.repeats, wishes.freezer_boxes)
    return WeekPlanProblem(tuple(slots), tuple(days), tuple(dishes.values()), sessions, rules)


def _library(session: HouseholdSession, picture: WeekPicture) -> list[tuple[Recipe, frozenset[str]]]:
    heads = session.execute(
        select(RecipeRow.id, RecipeRow.tags).where(RecipeRow.is_archived.is_(False)).order_by(RecipeRow.name)
    ).all()
    values = recipe_values(session, {h.id for h in heads}, pinned_versions(picture.week))
    return [(values[h.id].recipe, frozenset(h.tags)) for h in heads if not values[h.id].recipe.pending]


def _slot(
    picture: WeekPicture, eater: Eater, slot: Slot, n: int, there: PlacementRow | None,
    recipes: list[tuple[Recipe, frozenset[str]]], dishes: dict[str, PlanDish], wishes: Wishes,
) -> PlanSlot:  # fmt: skip
    key = (str(eater.id), n, str(slot.id))
    label = f"{eater.name.split()[0]}’s {slot.name}"
    if there is not None:
        box = picture.outcome.boxes[str(there.id)]
        recipe = picture.recipes[box.placing.recipe_key]
        grams, kcal = box.tally.grams, box.tally.amount("energy_kcal").value
        protein = box.tally.amount("protein_g").value
        fixed_key = f"{recipe.key}@{there.id}"  # its own figures: what is weighed counts as it is
        dishes[fixed_key] = PlanDish(
            fixed_key, recipe.name, max(kcal / grams, 1e-6) if grams else 1.0, protein / grams if grams else 0.0,
            max(grams, 1.0), max(grams, 1.0), 0, 0.0, 99, True, None, recipe.key,
        )  # fmt: skip
        return PlanSlot(*key, (), (fixed_key, grams), label)
    allowed = []
    for base, tags in recipes:
        if not _suits(slot, tags) or _is_disliked(eater, base):
            continue
        recipe = for_eater(base, str(eater.id))
        if why_not_for(eater, recipe) is not None:
            continue
        if recipe.key not in dishes:
            dish = _dish(recipe, wishes)
            if dish is None:
                continue
            dishes[recipe.key] = dish
        allowed.append(recipe.key)
    return PlanSlot(*key, tuple(allowed), label=label)


def _suits(slot: Slot, tags: frozenset[str]) -> bool:
    """Whether a recipe may stand in a slot by its tags: cold, travels, and the kind of meal."""
    if (slot.eaten_cold and "cold" not in tags) or (slot.travels and "travels" not in tags):
        return False
    kinds = [k for k in _KINDS_OF_SLOT if k in tags]
    named = next((k for k in _KINDS_OF_SLOT if k in slot.name.lower()), "")
    return (named in kinds) if named else not kinds


def _is_disliked(eater: Eater, recipe: Recipe) -> bool:
    disliked = set(words_of(eater.dislikes))
    return bool(disliked) and any(disliked & set(words_of(line.food.name)) for line in recipe.lines)


def _dish(recipe: Recipe, wishes: Wishes) -> PlanDish | None:
    serving = serving_of(recipe).tally
    kcal = serving.amount("energy_kcal").value
    if serving.grams <= 0 or kcal <= 0:
        return None
    stores = [storage_of(c, recipe.steps, keep_groups()).group for c in recipe.components if c.lines]
    can = [storage_of(c, recipe.steps, keep_groups()).freezable for c in recipe.components if c.lines]
    keeps = [g.fridge_days_cautious if wishes.keep == CAUTIOUS else g.fridge_days_usual for g in stores]
    prices = [(line.food.price_per_100_g, line.amount.grams) for line in recipe.lines]
    cost = None
    if all(price is not None for price, _ in prices):
        cost = sum((price or 0) / 100 * g for price, g in prices) / (serving.grams * recipe.servings)
    return PlanDish(
        recipe.key, recipe.name, kcal / serving.grams, serving.amount("protein_g").value / serving.grams,
        SMALLEST_SERVINGS * serving.grams, LARGEST_SERVINGS * serving.grams,
        len([c for c in recipe.components if c.lines]), hands_on_min(recipe.steps) or UNKNOWN_HANDS_ON_MIN,
        min(keeps), all(can), cost, "", serving.grams,
    )  # fmt: skip


# --- the job


@dataclass(frozen=True)
class JobState:
    """A job as pages show it."""

    id: UUID
    status: str
    said: str
    plans: tuple[Mapping[str, Any], ...]
    conflicts: tuple[Mapping[str, str], ...]
    wishes: Wishes
    seconds: float

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


def start_job(caller: Caller, first_day: date, job_id: UUID, wishes: Wishes) -> UUID:
    """Begin planning a week outside this request. While one is running for the week, that one goes on instead.

    Raises:
        NotFound: when there is no such week.
        InvalidInput: for wishes that cannot be, or a week without eaters or recipes.
    """
    wishes.checked()
    with caller.transaction() as session:
        week = existing_week(session, first_day)
        running = session.scalars(
            select(PlanJobRow).where(PlanJobRow.week_id == week.id, PlanJobRow.status == RUNNING).with_for_update()
        ).all()
        alive = next((row for row in running if _state(row).is_running), None)
        if alive is not None:
            return alive.id
        if session.find(PlanJobRow, job_id) is not None:
            return job_id
        problem = problem_of(session, load_picture(session, week), wishes)
        if not problem.slots:
            raise InvalidInput("slots", "Nobody has a target and slots to plan for.", "Set a target first.")
        if not any(slot.dishes for slot in problem.slots):
            raise InvalidInput("dishes", "No recipe suits an empty slot.", "Tag one: cold, travels, breakfast, snack.")
        now = utc_now()
        session.add(
            PlanJobRow(id=job_id, week_id=week.id, status=RUNNING, rules=asdict(wishes), plans=[], conflicts=[],
                       said="", wants_stop=False, started_at=now, beat_at=now)
        )  # fmt: skip
    _launch(caller, first_day, job_id)
    return job_id


def _launch(caller: Caller, first_day: date, job_id: UUID) -> None:
    """A worker process of its own: it outlives this request, and a restart of the app."""
    url = caller.database.engine.url.render_as_string(hide_password=False)
    command = [sys.executable, "-m", "goodcrate.services.plan_worker", str(caller.household_id), first_day.isoformat(),
               str(job_id)]  # fmt: skip
    environment = os.environ | {"GOODCRATE_WORKER_DATABASE": url, "PYTHONPATH": os.pathsep.join(sys.path)}
    process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
                               start_new_session=True)  # fmt: skip
    threading.Thread(target=process.wait, name="planner", daemon=True).start()  # no zombie is left behind


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
        {"eater": t.band.eater_key, "day": t.band.day, "kcal": round(t.kcal), "protein": round(t.protein_g),
         "met": t.keeps_band and t.keeps_floor, "low": round(t.band.energy_low_kcal),
         "high": round(t.band.energy_high_kcal), "floor": round(t.band.protein_floor_g)}
        for t in day_totals(problem, plan)
    ]  # fmt: skip
    meals = [
        {"eater": m.eater_key, "slot": m.slot_key, "day": (first_day + timedelta(days=m.day)).isoformat(),
         "recipe": base_recipe_key(m.dish_key), "name": dishes[m.dish_key].name, "grams": m.grams,
         "servings": round(m.grams / dishes[m.dish_key].serving_g, 6), "frozen": m.is_frozen, "session": m.session_key}
        for m in plan.meals
        if not m.is_fixed
    ]  # fmt: skip
    known = [d.cost_per_g for d in dishes.values()]
    cost = sum((dishes[m.dish_key].cost_per_g or 0.0) * m.grams for m in plan.meals)
    return {
        "aim": aim, "words": AIMS[aim], "meals": meals, "days": days, "batches": plan.batches,
        "minutes": round(plan.hands_on_min), "dishes": len({m["recipe"] for m in meals}),
        "frozen": sum(bool(m["frozen"]) for m in meals), "proven": plan.is_proven_best,
        "bound_batches": plan.bound_batches, "bound_minutes": round(plan.bound_min),
        "cost": round(cost, 2) if all(c is not None for c in known) else None,
    }  # fmt: skip


def take_plan(caller: Caller, first_day: date, job_id: UUID, aim: str) -> int:
    """Put a found week into the slots that are still empty; gives how many meals were placed. Taking twice places once.

    Raises:
        NotFound: when the household has no such job, or it found no such week.
        InvalidInputs: when a recipe may not stand where it was planned any more.
    """
    with caller.transaction() as session:
        row = existing(session, PlanJobRow, job_id, "plan")
        week = existing_week(session, first_day)
        if row.week_id != week.id:
            raise NotFound("plan")
        plan = next((p for p in row.plans if p["aim"] == aim), None)
        if plan is None:
            raise NotFound("plan")
        taken = {
            (str(p.eater_id), str(p.slot_id), p.day.isoformat())
            for p in session.scalars(
                select(PlacementRow).where(PlacementRow.week_id == week.id, PlacementRow.live == 1)
            )
        }
    groups: dict[tuple[str, str, str, float, str, bool], list[date]] = {}
    for meal in plan["meals"]:
        if (meal["eater"], meal["slot"], meal["day"]) not in taken:
            key = (meal["eater"], meal["slot"], meal["recipe"], meal["servings"], meal["session"], meal["frozen"])
            groups.setdefault(key, []).append(date.fromisoformat(meal["day"]))
    placed = 0
    for (eater, slot, recipe, servings, cooked_in, frozen), days in groups.items():
        typed = PlaceInput(
            uuid5(job_id, f"{aim}:{eater}:{slot}:{recipe}:{servings}:{cooked_in}:{frozen}"), UUID(eater), UUID(slot),
            UUID(recipe), servings, tuple(days), UUID(cooked_in), frozen,
        )  # fmt: skip
        placed += len(place(caller, first_day, typed))
    return placed
