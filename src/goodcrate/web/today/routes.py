"""Routes of Today: what is said of a meal's box, of food besides, and of the small jobs of the day."""

from contextlib import suppress
from datetime import date, timedelta
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.ground.amounts import LARGEST_LINE_G, read_grams
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.services.at_table import eating, off_plan, weighing
from goodcrate.services.at_table.today import tick, today_of
from goodcrate.services.calling import NotFound
from goodcrate.services.targets.household_eaters import list_eaters
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Day
from goodcrate.web.again import AgainRoute
from goodcrate.web.at_table import WHYS, said_in
from goodcrate.web.pages import NO_FAULTS, Faults, go, page, service_worker
from goodcrate.web.scale import scale_of
from goodcrate.web.security import Posted, Sent, Signed, Visitor, is_https, text
from goodcrate.web.today.view import day_view
from goodcrate.web.week.routes import week_page

router = APIRouter(prefix="/today", route_class=AgainRoute)
EATER_COOKIE = "eats"
"""Whose day this phone shows first."""


@router.get("")
def show(request: Request, visitor: Signed, eater: str = "", day: str = "") -> Response:
    """An eater's day: of today, or of another day of a week."""
    response = _page(request, visitor, _day(request, day), eater)
    if id_of(eater) is not None:
        age = 400 * 24 * 3600
        response.set_cookie(
            EATER_COOKIE, eater, max_age=age, httponly=True, samesite="lax", secure=is_https(request), path="/today"
        )
    return response


def _day(request: Request, typed: str) -> date:
    """A day of these years, as weeks have them; today for anything else."""
    with suppress(ValueError):
        day = date.fromisoformat(typed)
        if 1900 <= day.year <= 2200:
            return day
    today: date = request.app.state.clock()
    return today


def _page(
    request: Request,
    visitor: Visitor,
    day: date,
    eater: str = "",
    *,
    faults: Faults = NO_FAULTS,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    today = today_of(visitor.caller, day)
    eaters = list(today.table.picture.eaters) if today is not None else list(list_eaters(visitor.caller))
    wanted = id_of(eater) or id_of(request.cookies.get(EATER_COOKIE, ""))
    only = visitor.caller.only_eater
    if only is not None:
        eaters = [e for e in eaters if e.id == only]
    chosen = next((e for e in eaters if e.id == wanted), eaters[0] if eaters else None)
    shown = None if today is None or chosen is None else day_view(today, chosen, only)
    return page(
        request,
        visitor,
        "today/page.html",
        "today",
        status=status,
        faults=faults,
        view=shown,
        eaters=eaters,
        chosen=chosen,
        day=day,
        before=day - timedelta(days=1),
        after=day + timedelta(days=1),
        first_day=None if today is None else today.first_day,
        ids=new_id,
        typed=typed or {},
        whys=WHYS,
        has_scale=scale_of(request) is not None and only is None,
        is_today=day == request.app.state.clock(),
        only_eats=only is not None,
    )


def _back(day: date, form: Sent, request: Request, meal: tuple[date, UUID | None] | None = None) -> Response:
    """To the day; or, where it was said there, to the meal's box in its week."""
    if text(form, "back") == "week" and meal is not None:
        return go(f"/week/{meal[0]}" + (f"?box={meal[1]}" if meal[1] else ""))
    is_other = day != request.app.state.clock()
    eater = id_of(text(form, "eater"))
    asked = [*([f"day={day}"] if is_other else []), *([f"eater={eater}"] if eater is not None else [])]
    return go("/today" + (f"?{'&'.join(asked)}" if asked else ""))


@router.get("/worker.js")
def worker(visitor: Signed) -> Response:
    """The service worker that keeps the day for when there is no connection."""
    return service_worker("/today")


@router.post("/{first_day}/{meal_id}/eaten")
def say_eaten(request: Request, visitor: Signed, form: Posted, first_day: Day, meal_id: UUID) -> Response:
    """What became of a meal's box: eaten, half, so many g, left, given or thrown away."""
    day = _day(request, text(form, "day"))
    typed = {"grams": text(form, "grams"), "meal": str(meal_id)}
    try:
        event = id_of(text(form, "event")) or new_id()
        eating.say_eaten(visitor.caller, first_day, meal_id, event, said_in(form))
    except InvalidInput as error:
        faults = Faults.of(error, {"grams", "why"})
        if text(form, "back") == "week":
            return week_page(request, visitor, first_day, box=str(meal_id), faults=faults, status=422)
        return _page(request, visitor, day, text(form, "eater"), faults=faults, typed=typed, status=422)
    return _back(day, form, request, (first_day, meal_id))


@router.post("/{first_day}/{meal_id}/swap")
def swap(request: Request, visitor: Signed, form: Posted, first_day: Day, meal_id: UUID) -> Response:
    """Swap its box with another meal's."""
    day, other = _day(request, text(form, "day")), id_of(text(form, "other"))
    try:
        eating.swap(visitor.caller, first_day, meal_id, other, id_of(text(form, "event")) or new_id())
    except InvalidInput as error:
        typed = {"meal": str(meal_id)}
        faults = Faults.of(error, {"other"})
        if text(form, "back") == "week":
            return week_page(request, visitor, first_day, box=str(meal_id), faults=faults, status=422)
        return _page(request, visitor, day, text(form, "eater"), faults=faults, typed=typed, status=422)
    return _back(day, form, request, (first_day, meal_id))


@router.post("/{first_day}/undo")
def undo(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Take back what was said of a box."""
    event = id_of(text(form, "event"))
    if event is None:
        raise NotFound(say("note"))
    eating.undo_said(visitor.caller, first_day, event)
    return _back(_day(request, text(form, "day")), form, request, (first_day, id_of(text(form, "meal"))))


@router.post("/off-plan")
def note_off_plan(request: Request, visitor: Signed, form: Posted) -> Response:
    """Food that stands in no plan: typed in a line, or so many g of something in the house."""
    day, eater_id, thing_id = _day(request, text(form, "day")), id_of(text(form, "eater")), id_of(text(form, "thing"))
    event, typed = id_of(text(form, "event")) or new_id(), {"typed": text(form, "typed")}
    if eater_id is None:
        raise NotFound("eater")
    try:
        if thing_id is not None:
            eaten_g = read_grams(text(form, "grams"), "typed", LARGEST_LINE_G, allow_zero=False)
            off_plan.note_from_house(visitor.caller, eater_id, day, event, thing_id, eaten_g)
        else:
            off_plan.note(visitor.caller, eater_id, day, event, typed["typed"])
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults.of(error, {"typed"})
        return _page(request, visitor, day, text(form, "eater"), faults=faults, typed=typed, status=422)
    return _back(day, form, request)


@router.post("/off-plan/{noted_id}/back")
def take_back(request: Request, visitor: Signed, form: Posted, noted_id: UUID) -> Response:
    """It was not eaten after all."""
    off_plan.take_back(visitor.caller, noted_id)
    return _back(_day(request, text(form, "day")), form, request)


@router.post("/{first_day}/{meal_id}/weighed")
def say_weighed(request: Request, visitor: Signed, form: Posted, first_day: Day, meal_id: UUID) -> Response:
    """What an ingredient weighed on the plate, or in the evening before; or that it is as planned after all."""
    day, event, line = _day(request, text(form, "day")), id_of(text(form, "event")) or new_id(), text(form, "line")
    ticks, typed = text(form, "ticks"), {"meal": str(meal_id), "line": line, "weighed": text(form, "weighed")}
    weighed_g = None
    try:
        if not text(form, "as_planned"):
            weighed_g = read_grams(typed["weighed"], "weighed", LARGEST_LINE_G)
    except InvalidInput as error:
        faults = Faults.of(error, {"weighed"})
        return _page(request, visitor, day, text(form, "eater"), faults=faults, typed=typed, status=422)
    job = (day, ticks) if _is_job(ticks) else None
    weighing.weigh(visitor.caller, first_day, (meal_id, line), event, weighed_g, job)
    return _back(day, form, request)


def _is_job(subject: str) -> bool:
    kind, _, meal = subject.partition(":")
    return kind in ("now", "thaw", "night") and id_of(meal.partition(":")[0]) is not None


@router.post("/done")
def say_done(request: Request, visitor: Signed, form: Posted) -> Response:
    """Tick a small job of a day, or take the tick back."""
    day, subject = _day(request, text(form, "day")), text(form, "subject")
    if not _is_job(subject):
        raise NotFound(say("job"))
    tick(visitor.caller, day, subject, id_of(text(form, "event")) or new_id(), is_done=text(form, "is_done") == "1")
    return _back(day, form, request)
