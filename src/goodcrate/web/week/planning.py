"""Routes of planning: what the planner may do, how far it is, the weeks it found side by side, and taking one."""

from datetime import date, timedelta
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import week_number
from goodcrate.core.recipes.vessels import meal_boxes
from goodcrate.core.week.storing import CAUTIOUS, USUAL
from goodcrate.services import kitchen
from goodcrate.services.calling import Caller, NotFound, StaleWrite
from goodcrate.services.jobs import ledger, process
from goodcrate.services.kitchen import Capacity
from goodcrate.services.plan import planning
from goodcrate.services.plan.costs import plan_costs
from goodcrate.services.plan.problem import GAPS, UNPINNED, Wishes, openable
from goodcrate.services.shop.habits import how_it_shops
from goodcrate.services.store import house
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import plain_meal, weeks
from goodcrate.services.week.beginning import begin_week
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Day
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.week.address import router
from goodcrate.web.week.plan_ways import all_tried, ways_out
from goodcrate.web.week.wish_form import WishFields, read_session, typed_of


def _plan_page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    faults: Faults = NO_FAULTS,
    status: int = 200,
    typed: dict[str, str] | None = None,
) -> Response:
    picture = weeks.week_picture(visitor.caller, first_day)
    if picture is None:
        raise NotFound("week")
    job = planning.newest_planning(visitor.caller, first_day)
    capacity = picture.capacity
    boxes = meal_boxes(picture.vessels)
    wishes = job.wishes if job else _first_wishes(visitor.caller, capacity, boxes)
    slots = sum(len(e.slots) for e in picture.eaters) * len(picture.dates)
    gaps, loose = slots - len(picture.meals), len(openable(picture))
    shown = {**typed_of(wishes), **({} if gaps or not loose else {"scope": UNPINNED}), **(typed or {})}
    return page(
        request,
        visitor,
        "week/plan.html",
        "week",
        status=status,
        faults=faults,
        first_day=first_day,
        job=job,
        typed=shown,
        gaps=gaps,
        loose=loose,
        last_day=picture.dates[-1],
        new_id=new_id(),
        GAPS=GAPS,
        UNPINNED=UNPINNED,
        week_number=week_number(first_day),
        eaters=names_of(visitor),
        days=picture.dates,
        capacity=capacity,
        keeps=((CAUTIOUS, say("cautious advice")), (USUAL, say("usual advice"))),
        ways=ways_out(job, first_day),
        costs=plan_costs(visitor.caller, first_day),
        tried_all=all_tried(job),
        pinned=sum(p.is_pinned for p in picture.meals),
        taken=sum(job is not None and p.from_job == job.id for p in picture.meals),
        in_house=house.house(visitor.caller).free_boxes,
        boxes=boxes,
        plain_foods=plain_meal.count_plain(visitor.caller),
    )


def names_of(visitor: Visitor) -> dict[str, str]:
    """Eaters' first names by id."""
    return {str(e.id): e.first_name for e in household_eaters.list_eaters(visitor.caller)}


def _first_wishes(caller: Caller, capacity: Capacity, boxes: int) -> Wishes:
    """What is asked for before anybody wished: what the household said of its fridge, its freezer, its boxes and of
    what a week may cost."""
    return Wishes(
        keep=capacity.keep_rule,
        freezer_boxes=capacity.freezer_boxes or 0,
        fridge_boxes=capacity.fridge_boxes,
        box_count=boxes or None,
        in_two=0 if boxes else 1,
        budget=how_it_shops(caller).week_budget,
    )


@router.post("/begin")
def begin(request: Request, visitor: Signed, form: Posted) -> Response:
    """A first evening: start the coming week and plan it, with what the household said of its kitchen."""
    first_day = begin_week(visitor.caller, request.app.state.clock())
    there = kitchen.who_and_what(visitor.caller)
    wishes = _first_wishes(visitor.caller, there.capacity, meal_boxes(there.vessels))
    try:
        planning.start_job(visitor.caller, first_day, id_of(text(form, "id")) or new_id(), wishes)
    except InvalidInput as error:
        return _plan_page(request, visitor, first_day, Faults.of(error, WishFields.names()), 422)
    return go(f"/week/{first_day}/plan")


@router.get("/{first_day}/plan")
def show_plan(request: Request, visitor: Signed, first_day: Day) -> Response:
    """Planning a week: wishes, progress, what was found."""
    process.get_ready(visitor.caller.database)
    return _plan_page(request, visitor, first_day)


@router.get("/{first_day}/plan/progress")
def show_progress(request: Request, visitor: Signed, first_day: Day) -> Response:
    """How far the planner is; the page asks again until it is done."""
    job = planning.newest_planning(visitor.caller, first_day)
    dates = [first_day + timedelta(days=n) for n in range(14)]
    return fragment(
        "week/_found.html",
        job=job,
        first_day=first_day,
        csrf=visitor.signed.csrf_token,
        eaters=names_of(visitor),
        days=dates,
        ways=ways_out(job, first_day),
        costs=plan_costs(visitor.caller, first_day),
        tried_all=all_tried(job),
        new_id=new_id(),
        taken=0,
    )


@router.post("/{first_day}/plan")
def start_plan(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Begin planning."""
    typed = {**typed_of(Wishes()), **{name: said for name, said in WishFields.as_typed(form).items() if name in form}}
    try:
        wishes = WishFields.of(form).wishes
        session_at = read_session(form, first_day)
        planning.start_job(visitor.caller, first_day, id_of(text(form, "id")) or new_id(), wishes, session_at)
    except (InvalidInput, InvalidInputs) as error:
        return _plan_page(request, visitor, first_day, Faults.of(error, WishFields.names()), 422, typed)
    return go(f"/week/{first_day}/plan")


@router.post("/{first_day}/plan/{job_id}/stop")
def stop_plan(request: Request, visitor: Signed, form: Posted, first_day: Day, job_id: UUID) -> Response:
    """Stop planning; the best week so far stays."""
    ledger.stop(visitor.caller, job_id)
    return go(f"/week/{first_day}/plan")


@router.post("/{first_day}/plan/{job_id}/take")
def take_plan(request: Request, visitor: Signed, form: Posted, first_day: Day, job_id: UUID) -> Response:
    """Put a found week into the empty slots."""
    try:
        planning.take_plan(visitor.caller, first_day, job_id, text(form, "aim"))
    except (InvalidInputs, StaleWrite) as error:
        return _plan_page(request, visitor, first_day, Faults.of(error, set()), 422)
    return go(f"/week/{first_day}?taken={job_id}")


@router.post("/{first_day}/plan/{job_id}/take-out")
def take_plan_out(request: Request, visitor: Signed, form: Posted, first_day: Day, job_id: UUID) -> Response:
    """Take the meals of a plan out again; what gave way to them comes back."""
    planning.take_plan_out(visitor.caller, first_day, job_id)
    return go(f"/week/{first_day}/plan")
