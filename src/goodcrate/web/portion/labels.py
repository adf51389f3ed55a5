"""The labels of a session: chosen, seen as a PDF, printed."""

from collections.abc import Mapping
from datetime import date
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of, read_whole
from goodcrate.core.ground.writing import session_time, weekday
from goodcrate.core.store.box_code import box_code
from goodcrate.devices.printer import NoPrinter, Printer, PrinterUnavailable
from goodcrate.formats.label_pdf import GRIDS, ROLL, ROLL_WORDS, label_sheet
from goodcrate.services.calling import NotFound
from goodcrate.services.store.boxes import own_box_id
from goodcrate.services.week.weeks import WeekPicture, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.pages import NO_FAULTS, Faults, page
from goodcrate.web.portion.address import router
from goodcrate.web.portion.label_words import labels_of, meals_to_label
from goodcrate.web.security import Posted, Sent, Signed, Visitor, text

LAYOUTS: Mapping[str, str] = {ROLL: ROLL_WORDS, **{key: grid.words for key, grid in GRIDS.items()}}


def _picture(visitor: Visitor, first_day: date, session_key: str) -> WeekPicture:
    picture = week_picture(visitor.caller, first_day)
    if picture is None:
        raise NotFound("week")
    if all(s.key != session_key for s in picture.sessions):
        raise NotFound("session")
    return picture


def _sheet(request: Request, picture: WeekPicture, session_key: str, form: Sent, chosen: set[UUID]) -> bytes:
    skip = read_whole(text(form, "skip") or "0", "skip", largest=40)
    layout, is_blank = text(form, "layout", ROLL), text(form, "blank") == "1"
    meals = meals_to_label(picture, session_key, chosen)
    if text(form, "some") and not chosen:
        meals = []
    return label_sheet(labels_of(picture, meals, str(request.base_url), is_blank=is_blank), layout, skip=skip)


@router.get("/{first_day}/labels")
def labels(request: Request, visitor: Signed, first_day: Day) -> Response:
    """The boxes of a session, to choose from."""
    return _page(request, visitor, first_day, request.query_params.get("session", ""), request.query_params)


def _page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    session_key: str,
    typed: Mapping[str, str],
    *,
    faults: Faults = NO_FAULTS,
    seen_at: str = "",
    status: int = 200,
) -> Response:
    if not session_key:
        there = week_picture(visitor.caller, first_day)
        session_key = there.sessions[0].key if there is not None and there.sessions else ""
    picture = _picture(visitor, first_day, session_key)
    meals = meals_to_label(picture, session_key, set())
    eaters = {e.id: e for e in picture.eaters}
    printer: Printer = request.app.state.printer
    rows = [
        {
            "id": m.id,
            "code": box_code(own_box_id(m.id)),
            "whose": eaters[m.eater_id].first_name,
            "day": f"{weekday(m.day)} {m.day.day}",
            "dish": picture.recipes[str(m.recipe_id)].name,
            "stage": picture.outcome.boxes[str(m.id)].stage,
        }
        for m in meals
    ]
    return page(
        request,
        visitor,
        "portion/labels.html",
        "portion",
        status=status,
        first_day=first_day,
        session_key=session_key,
        sessions=[(s.key, session_time(s.starts_at)) for s in picture.sessions],
        rows=rows,
        layouts=LAYOUTS,
        typed={"layout": ROLL, "skip": "", "blank": "", **dict(typed)},
        chosen=request.query_params.getlist("box"),
        faults=faults,
        seen_at=seen_at,
        has_printer=not isinstance(printer, NoPrinter),
    )


@router.get("/{first_day}/labels.pdf")
def labels_pdf(request: Request, visitor: Signed, first_day: Day) -> Response:
    """The chosen labels as a PDF."""
    asked = request.query_params
    picture = _picture(visitor, first_day, asked.get("session", ""))
    chosen = {box for sent in asked.getlist("box") if (box := id_of(sent)) is not None}
    try:
        sheet = _sheet(request, picture, asked.get("session", ""), dict(asked), chosen)
    except InvalidInput as error:
        faults = Faults.of(error, {"layout", "skip", "boxes"})
        return _page(request, visitor, first_day, asked.get("session", ""), asked, faults=faults, status=422)
    name = f"labels-{first_day.isoformat()}.pdf"
    return Response(sheet, media_type="application/pdf", headers={"content-disposition": f'inline; filename="{name}"'})


@router.post("/{first_day}/labels/print")
def print_labels(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Send the chosen labels to the printer."""
    session_key = text(form, "session")
    picture = _picture(visitor, first_day, session_key)
    chosen = {box for sent in form.getlist("box") if (box := id_of(sent)) is not None}
    typed = {name: text(form, name) for name in ("layout", "skip", "blank")}
    printer: Printer = request.app.state.printer
    try:
        seen_at = printer.send(_sheet(request, picture, session_key, form, chosen))
    except InvalidInput as error:
        faults = Faults.of(error, {"layout", "skip", "boxes"})
        return _page(request, visitor, first_day, session_key, typed, faults=faults, status=422)
    except PrinterUnavailable as gone:
        return _page(request, visitor, first_day, session_key, typed, faults=Faults({}, gone.why), status=422)
    return _page(request, visitor, first_day, session_key, typed, seen_at=seen_at or "printed")
