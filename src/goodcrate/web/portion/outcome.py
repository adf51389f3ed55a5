"""What becomes of what no box takes, how a pot is divided, and the session's weighings as a file."""

from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.cook.batch_record import PIECE
from goodcrate.core.ground.amounts import LARGEST_POT_G, read_grams
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of, read_whole
from goodcrate.core.ground.wording import say
from goodcrate.core.week.storing import FRIDGE
from goodcrate.formats.csv_table import as_text, write_table
from goodcrate.services.portion import dividing, rests, spares
from goodcrate.services.portion.readings import readings_of
from goodcrate.web.addresses import Day
from goodcrate.web.cook.routes import event_id
from goodcrate.web.portion.address import router
from goodcrate.web.portion.routes import act_on_bench
from goodcrate.web.security import Posted, Signed, text


@router.post("/{first_day}/{batch_id}/rest")
def say_rest(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Write down that what is left was tasted or thrown away or put by."""
    typed = {"rest_g": text(form, "rest_g")}

    def act() -> None:
        net_g = read_grams(typed["rest_g"], "rest_g", LARGEST_POT_G, allow_zero=False)
        event = event_id(text(form, "event"))
        kind, place = text(form, "rest_as"), text(form, "place", FRIDGE)
        rests.say_rest(visitor.caller, first_day, batch_id, event, kind, net_g, place=place)

    return act_on_bench(request, visitor, first_day, batch_id, act, typed)


@router.post("/{first_day}/{batch_id}/rest/take-back")
def take_rest_back(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """It is in the pot after all."""
    event, kind = event_id(text(form, "event")), text(form, "rest_as")

    def act() -> None:
        rests.take_rest_back(visitor.caller, first_day, batch_id, event, kind)

    return act_on_bench(request, visitor, first_day, batch_id, act, {})


@router.post("/{first_day}/{batch_id}/top-up")
def top_up(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Give what is left to the box of another dish."""
    typed = {"rest_g": text(form, "rest_g")}
    placement_id = id_of(text(form, "placement"))

    def act() -> None:
        if placement_id is None:
            raise InvalidInput("rest_g", say("No box is chosen."), say("Choose one."))
        net_g = read_grams(typed["rest_g"], "rest_g", LARGEST_POT_G, allow_zero=False)
        spares.top_up(visitor.caller, first_day, batch_id, placement_id, event_id(text(form, "event")), net_g)

    return act_on_bench(request, visitor, first_day, batch_id, act, typed)


@router.post("/{first_day}/{batch_id}/top-up/{placement_id}/take-out")
def take_top_up_back(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, placement_id: UUID
) -> Response:
    """It stays in its own pot after all."""
    event = event_id(text(form, "event"))

    def act() -> None:
        spares.take_top_up_back(visitor.caller, first_day, batch_id, placement_id, event)

    return act_on_bench(request, visitor, first_day, batch_id, act, {})


@router.post("/{first_day}/{batch_id}/pieces")
def count_pieces(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Divide by count, or (with none) by weight again."""
    sent = [str(value) for value in form.getlist("pieces")]
    typed = {"pieces": sent[-1] if sent else ""}

    def act() -> None:
        pieces = _pieces(typed["pieces"])
        dividing.count_pieces(visitor.caller, first_day, batch_id, pieces, text(form, "kind", PIECE))

    return act_on_bench(request, visitor, first_day, batch_id, act, {})


def _pieces(typed: str) -> int | None:
    return read_whole(typed, "pieces", smallest=1, largest=dividing.MOST_PIECES) if typed.strip() else None


@router.post("/{first_day}/{batch_id}/short")
def choose_short(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Whose box takes what is missing or over, and in what steps boxes are filled."""
    placement_id = id_of(text(form, "placement"))

    def act() -> None:
        step_g = read_whole(text(form, "step") or "1", "step", largest=5)
        dividing.choose_short(visitor.caller, first_day, batch_id, placement_id, step_g)

    return act_on_bench(request, visitor, first_day, batch_id, act, {})


@router.post("/{first_day}/{batch_id}/mark")
def mark(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """How an eater's boxes of this pot are known from the others."""
    typed = {"known_by": text(form, "known_by")}
    eater_id = id_of(text(form, "eater"))

    def act() -> None:
        if eater_id is None:
            raise InvalidInput("known_by", say("No eater is chosen."), say("Choose whose boxes they are."))
        dividing.mark_boxes(visitor.caller, first_day, batch_id, eater_id, typed["known_by"])

    return act_on_bench(request, visitor, first_day, batch_id, act, typed)


COLUMNS = (
    "at_utc",
    "recipe",
    "component",
    "kind",
    "what",
    "subject",
    "gross_g",
    "tare_g",
    "net_g",
    "how",
    "pieces",
    "teaspoons",
    "tablespoons",
    "counts",
    "id",
)


@router.get("/{first_day}/weighings/{session_id}")
def weighings(request: Request, visitor: Signed, first_day: Day, session_id: UUID) -> Response:
    """Every weighing of a session as CSV, also those that were undone."""
    rows = [
        [
            r.at.isoformat(timespec="milliseconds"),
            as_text(r.recipe),
            as_text(r.component),
            r.kind,
            as_text(r.what),
            r.subject,
            *("" if g is None else f"{g:.1f}" for g in (r.gross_g, r.tare_g, r.net_g)),
            r.how,
            *(str(n) if n else "" for n in (r.pieces, r.teaspoons, r.tablespoons)),
            "yes" if r.counts else "no",
            str(r.id),
        ]
        for r in readings_of(visitor.caller, session_id)
    ]
    name = f"weighings-{first_day.isoformat()}.csv"
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(write_table(COLUMNS, rows), media_type="text/csv; charset=utf-8", headers=headers)
