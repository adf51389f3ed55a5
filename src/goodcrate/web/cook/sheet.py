"""Routes of the run sheet: a session before it is cooked, what it would be otherwise, and what it gives the week."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date
from typing import Annotated
from urllib.parse import parse_qsl, urlencode, urlsplit
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from goodcrate.core.ground.clocks import minutes_later
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of, read_whole
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import clock, weekday_whole
from goodcrate.core.recipes.equipment import EQUIPMENT_KINDS
from goodcrate.formats.calendar_file import calendar_text
from goodcrate.services.calling import NotFound, utc_now
from goodcrate.services.cook import elsewhere, run_sheet, running, step_times
from goodcrate.services.cook.before import beforehand
from goodcrate.services.cook.run_sheet import SessionSheet, SheetAsked, WhatIf
from goodcrate.services.cook.to_do import to_do
from goodcrate.services.jobs import ledger, process
from goodcrate.services.week.choosing import take_out
from goodcrate.services.week.weeks import new_id, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.cook.address import router
from goodcrate.web.cook.sheet_view import sheet_view
from goodcrate.web.field_kinds import whole, words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text


class SheetFields(Fields):
    """What is asked of a session, as it is typed."""

    start: Annotated[str, words(8)] = ""
    burners: Annotated[int | None, maybe(whole(1, 8, Saying("1 to 8.")))] = None
    help_at: Annotated[str, words(8)] = ""
    pauses: str = ""
    minutes: Annotated[int | None, maybe(whole(10, 1440, Saying("Minutes, 10 to 1,440.")))] = None

    @property
    def asked(self) -> SheetAsked:
        """The same as the service takes it."""
        return SheetAsked(self.start, self.burners, self.help_at, bool(self.pauses), self.minutes)


PLAIN = SheetAsked()
"""Nothing asked."""


def _typed(asked: SheetAsked) -> dict[str, str]:
    return {
        "start": asked.start,
        "burners": "" if asked.burners is None else str(asked.burners),
        "help_at": asked.help_at,
        "pauses": "1" if asked.pauses else "",
        "minutes": "" if asked.minutes is None else str(asked.minutes),
    }


def address(first_day: date, session_key: str, asked: SheetAsked = PLAIN) -> str:
    """Where a sheet is."""
    query = urlencode({name: said for name, said in _typed(asked).items() if said})
    return f"/cook/{first_day}/sheet/{session_key}" + (f"?{query}" if query else "")


def _sheet_page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    session_key: str,
    asked: SheetAsked,
    *,
    typed: Mapping[str, str] | None = None,
    faults: Faults = NO_FAULTS,
) -> Response:
    try:
        there = run_sheet.session_sheet(visitor.caller, first_day, session_key, asked)
    except InvalidInputs as error:
        return _blocked_page(request, visitor, first_day, session_key, error)
    if there.job is None and there.dishes:
        process.get_ready(visitor.caller.database)
    view = sheet_view(there)
    picture = there.picture
    left_out = [d for key, d in there.dishes.items() if view and not any(t.dish == key for t in there.problem.tasks)]
    ready = None if there.sheet is None else minutes_later(there.starts_at, there.sheet.minutes)
    return page(
        request,
        visitor,
        "cook/sheet.html",
        "cook",
        status=422 if faults else 200,
        faults=faults,
        first_day=first_day,
        there=there,
        view=view,
        typed={**_typed(asked), **(typed or {})},
        is_plain=asked == replace(SheetAsked(), start=asked.start),
        boxes=sum(d.boxes for d in there.dishes.values()),
        batches=sum(len(d.batches) for d in there.dishes.values()),
        cards=[_card(there, first_day, found) for found in there.what_ifs],
        left_out=left_out,
        others=[s for s in picture.sessions if s.starts_at > there.session.starts_at],
        sessions=[s for s in picture.sessions if s.key != session_key],
        assumed=[EQUIPMENT_KINDS[kind].words for kind in there.tasks.assumed],
        too_early=0 if ready is None else elsewhere.before_ready(picture, session_key, ready),
        is_kept=ready is not None and there.session.ready == ready,
        here=address(first_day, session_key, asked),
        address=address,
        begun=running.is_begun(visitor.caller, UUID(session_key)),
        beforehand=beforehand(visitor.caller, there),
        offers=step_times.offers(visitor.caller, there.dishes),
        hands=there.problem.kitchen.most_hands,
        is_poll="poll" in request.query_params,
        new_id=new_id(),
        day=weekday_whole(there.session.starts_at.date()),
    )


def _blocked_page(
    request: Request, visitor: Visitor, first_day: date, session_key: str, error: InvalidInputs
) -> Response:
    """A session that this kitchen cannot cook as it is written: which step, of what, and the way to it."""
    picture = week_picture(visitor.caller, first_day)
    recipes = {} if picture is None else picture.recipes
    found = []
    for fault in error.faults:
        recipe_key, _, step_key = fault.field.partition("/")
        recipe = recipes.get(recipe_key)
        step = None if recipe is None else next((s for s in recipe.steps if s.key == step_key), None)
        link = f"/recipes/{recipe_key.partition('~')[0]}"
        found.append((recipe.name if recipe else "", step.text if step else "", fault.message, link))
    return page(request, visitor, "cook/blocked.html", "cook", first_day=first_day, found=found, picture=picture)


def _card(there: SessionSheet, first_day: date, found: WhatIf) -> tuple[str, str, str, str]:
    """What would be otherwise: heading, what comes of it, beside what it is now, and where it is shown."""
    asked = replace(found.asked, start=there.asked.start)
    ready = clock(minutes_later(there.starts_at, found.minutes).time())
    now = found.minutes if there.sheet is None else there.sheet.minutes
    later = found.minutes - now
    beside = say("no later") if later == 0 else say("{minutes} min later", minutes=later)
    if later < 0:
        beside = say("{minutes} min sooner", minutes=-later)
    heading, comes = HEADINGS[found.key], say("ready {at}", at=ready)
    if found.key == "minutes":
        comes = say("{some} of {all} dishes fit", some=len(found.dishes), all=len(there.dishes))
        beside = say("choose what moves") if len(found.dishes) < len(there.dishes) else say("all of them")
    values = {"minutes": asked.minutes, "burners": asked.burners, "help_at": asked.help_at}
    return heading.format(**values), comes, beside, address(first_day, there.session.key, asked)


HEADINGS: Mapping[str, str] = {
    "minutes": Saying("I have {minutes} minutes"),
    "burners": Saying("{burners} burners tonight"),
    "help": Saying("Help from {help_at}"),
    "pauses": Saying("A pause every hour"),
}


@router.get("/{first_day}/sheet/{session_id}")
def show_sheet(request: Request, visitor: Signed, first_day: Day, session_id: UUID) -> Response:
    """A session's run sheet: when it is over, lanes, what to weigh out, and what would be otherwise."""
    sent = FormData(dict(request.query_params))
    try:
        asked = SheetFields.of(sent).asked.checked()
    except (InvalidInput, InvalidInputs) as error:
        typed, faults = SheetFields.as_typed(sent), Faults.of(error, SheetFields.names())
        return _sheet_page(request, visitor, first_day, str(session_id), PLAIN, typed=typed, faults=faults)
    return _sheet_page(request, visitor, first_day, str(session_id), asked)


@router.post("/{first_day}/sheet/{session_id}")
def ask_for_sheet(request: Request, visitor: Signed, form: Posted, first_day: Day, session_id: UUID) -> Response:
    """Have it made."""
    typed = SheetFields.as_typed(form)
    try:
        asked = SheetFields.of(form).asked.checked()
        job_id = id_of(text(form, "id")) or new_id()
        run_sheet.ask_for_sheet(visitor.caller, first_day, job_id, str(session_id), asked)
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults.of(error, SheetFields.names())
        return _sheet_page(request, visitor, first_day, str(session_id), PLAIN, typed=typed, faults=faults)
    return go(address(first_day, str(session_id), asked))


@router.post("/{first_day}/sheet/{session_id}/stop")
def stop_sheet(request: Request, visitor: Signed, form: Posted, first_day: Day, session_id: UUID) -> Response:
    """Stop looking; the best order so far stays."""
    job = id_of(text(form, "job"))
    if job is None:
        raise NotFound("job")
    ledger.stop(visitor.caller, job)
    return go(_back(form, first_day, session_id))


@router.post("/{first_day}/sheet/{session_id}/ready")
def keep_ready(request: Request, visitor: Signed, form: Posted, first_day: Day, session_id: UUID) -> Response:
    """Tell the week when the session's food is ready."""
    minutes = text(form, "minutes")
    elsewhere.keep_ready(visitor.caller, first_day, session_id, int(minutes) if minutes.isdigit() else 0)
    return go(_back(form, first_day, session_id))


@router.post("/{first_day}/sheet/{session_id}/times")
def say_minutes(request: Request, visitor: Signed, form: Posted, first_day: Day, session_id: UUID) -> Response:
    """Let a recipe say what a step takes: what somebody types, or what it really took."""
    existing_sheet(visitor, first_day, session_id)
    recipe_id, step = id_of(text(form, "recipe")), text(form, "step")
    if recipe_id is None:
        raise NotFound("recipe")
    try:
        minutes = read_whole(text(form, "minutes"), "minutes")
        step_times.say_minutes(visitor.caller, first_day, recipe_id, step, minutes)
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults({f"minutes-{step}": str(error)})
        return _sheet_page(request, visitor, first_day, str(session_id), PLAIN, faults=faults)
    return go(_back(form, first_day, session_id))


@router.post("/{first_day}/sheet/{session_id}/begin")
def begin(request: Request, visitor: Signed, form: Posted, first_day: Day, session_id: UUID) -> Response:
    """Begin to cook by the sheet as it is shown, whatever was asked of it."""
    here = _back(form, first_day, session_id)
    try:
        asked = SheetFields.of(FormData(dict(parse_qsl(urlsplit(here).query)))).asked.checked()
        running.begin_cooking(visitor.caller, first_day, session_id, asked)
    except (InvalidInput, InvalidInputs):
        return go(here)
    return go(f"/cook/{first_day}/now/{session_id}")


def existing_sheet(visitor: Visitor, first_day: date, session_id: UUID) -> None:
    """Raises:
    NotFound: when the week has no such session.
    """
    picture = week_picture(visitor.caller, first_day)
    if picture is None or all(s.key != str(session_id) for s in picture.sessions):
        raise NotFound("session")


@router.post("/{first_day}/sheet/{session_id}/dishes")
def move_dish(request: Request, visitor: Signed, form: Posted, first_day: Day, session_id: UUID) -> Response:
    """Cook a dish in another session, or take its meals out of the week."""
    dish, other = text(form, "dish"), text(form, "to")
    try:
        if other:
            elsewhere.cook_elsewhere(visitor.caller, first_day, str(session_id), dish, other)
        else:
            picture = week_picture(visitor.caller, first_day)
            meals = [] if picture is None else elsewhere.meals_of(picture, str(session_id), dish)
            if meals or picture is None:  # sent twice, the second time they are out already
                take_out(visitor.caller, first_day, meals)
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults.of(error, SheetFields.names())
        return _sheet_page(request, visitor, first_day, str(session_id), PLAIN, faults=faults)
    return go(_back(form, first_day, session_id))


def _back(form: Posted, first_day: date, session_id: UUID) -> str:
    """To the sheet as it was asked for."""
    here = text(form, "here")
    own = f"/cook/{first_day}/sheet/{session_id}"
    return here if here.partition("?")[0] == own else own


@router.get("/{first_day}/calendar/week.ics")
def calendar_file(visitor: Signed, first_day: Day) -> Response:
    """What the week asks of its cook, for a calendar: sessions and their looks, the freezer, the night before."""
    name, entries = to_do(visitor.caller, first_day)
    text_of_it = calendar_text(name, entries, utc_now())
    headers = {"Content-Disposition": f'attachment; filename="good-crate-{first_day}.ics"'}
    return Response(text_of_it, media_type="text/calendar", headers=headers)
