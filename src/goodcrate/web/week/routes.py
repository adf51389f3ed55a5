"""Routes of the week: seeing it, opening it, its prep sessions, and placing meals."""

from datetime import date, datetime, timedelta
from typing import Annotated
from uuid import UUID, uuid5

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import day_of, id_of, read_whole, whole_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import short, week_length, week_number, week_start
from goodcrate.core.recipes.exchanging import KINDS
from goodcrate.core.recipes.instead import with_instead
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.store.at_table import FATE_WORDS
from goodcrate.core.store.boxes_in_house import uses_up
from goodcrate.core.targets.day_target import BANDED
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.core.week.placings import LONGEST_SESSION_MIN, USUAL_LENGTH_MIN
from goodcrate.services.at_table.table import table_of
from goodcrate.services.calling import NotFound, StaleWrite
from goodcrate.services.recipes import library
from goodcrate.services.store import house
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import eat_first, fitting, history, moving, placing, plain_meal, repeating, weeks
from goodcrate.services.week.instead import instead_in
from goodcrate.services.week.placing import PlaceInput
from goodcrate.services.week.weeks import WeekPicture, new_id, remarks_on
from goodcrate.web.addresses import Day, Whole
from goodcrate.web.at_table import WHYS, swap_offers
from goodcrate.web.field_kinds import moment, whole
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.week.address import router
from goodcrate.web.week.sessions import sessions_of
from goodcrate.web.week.tapes import box_tape, day_tape, share_of, still_lacking
from goodcrate.web.week.view import Cell, EaterDay, WeekView, cell_key, cells_of, eater_day_at, week_view


def slot_at(words: str) -> tuple[UUID, UUID, date] | None:
    """Eater, slot and day as a form names them, with dots between; None when these are no such words."""
    parts = words.split(".", 3)
    if len(parts) != 3:
        return None
    eater_id, slot_id, day = id_of(parts[0]), id_of(parts[1]), day_of(parts[2])
    return (eater_id, slot_id, day) if eater_id and slot_id and day else None


def placed_id(sent: UUID, day: date) -> UUID:
    """The id of a meal that was placed on a day under an id of the client's."""
    return uuid5(sent, day.isoformat())


@router.get("")
def this_week(request: Request, visitor: Signed) -> Response:
    """On to the week that holds today."""
    today = request.app.state.clock()
    return go(f"/week/{weeks.week_of(visitor.caller, today) or week_start(today)}")


@router.get("/{first_day}")
def show_week(
    request: Request,
    visitor: Signed,
    first_day: Day,
    box: str = "",
    gap: str = "",
    day: str = "",
    removed: str = "",
    moved: str = "",
    gone: str = "",
    came: str = "",
    taken: str = "",
    repeats: str = "",
) -> Response:
    """The week, with the working of what is selected on the tape."""
    return week_page(
        request,
        visitor,
        first_day,
        box=box,
        gap=gap,
        day=day,
        removed=removed,
        moved=moved,
        gone=gone,
        came=came,
        taken=taken,
        repeats=repeats,
    )


def week_page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    *,
    faults: Faults = NO_FAULTS,
    status: int = 200,
    typed: ReadDocument | None = None,
    **selected: str,
) -> Response:
    """The whole page of a week; also what a refused form answers with."""
    picture = weeks.week_picture(visitor.caller, first_day)
    today = request.app.state.clock()
    around = {
        "first_day": first_day,
        "previous": first_day - timedelta(days=7),
        "next": first_day + timedelta(days=week_length(first_day)),
        "last_day": first_day + timedelta(days=week_length(first_day) - 1),
        "week_number": week_number(first_day),
    }
    if picture is None:
        return _unopened(request, visitor, {"status": status, "faults": faults, "typed": typed or {}, **around})
    around["last_day"] = picture.dates[-1]
    around["next"] = picture.dates[-1] + timedelta(days=1)
    view = picture.once(("view", today), lambda: week_view(picture, today))
    shown = _selected(visitor, picture, view, selected, today)
    return page(
        request,
        visitor,
        "week/page.html",
        "week",
        status=status,
        faults=faults,
        picture=picture,
        view=view,
        typed=typed or {},
        new_id=new_id(),
        ids=new_id,
        removed=selected.get("removed", ""),
        is_over=picture.dates[-1] < today,
        came_from=selected.get("moved", ""),
        taken=selected.get("taken", ""),
        usual_length_min=USUAL_LENGTH_MIN,
        sessions=picture.once("sessions", lambda: sessions_of(picture)),
        **{name: [word for word in selected.get(name, "").split(".") if word] for name in ("gone", "came")},
        **around,
        **shown,
    )


def _unopened(request: Request, visitor: Visitor, around: Document) -> Response:
    eaters, saved = household_eaters.list_eaters(visitor.caller), library.list_recipes(visitor.caller)
    there = {"has_eaters": bool(eaters), "has_recipes": bool(saved)}
    return page(request, visitor, "week/unopened.html", "week", **there, **around)


def _selected(
    visitor: Visitor, picture: WeekPicture, view: WeekView, selected: dict[str, str], today: date
) -> Document:
    """What the tape shows: a box, a gap to fill, an eater's day, or the week itself."""
    shown: Document = {"chosen": None, "gap": None, "tape": None, "chosen_key": "", "choices": [], "day_key": "",
                             "repeats": None, "exchange_kinds": KINDS, "boxes": (), "remarks": (), "plate": None,
                             "fates": FATE_WORDS, "others": (), "whys": WHYS}  # fmt: skip
    for eater_day, cell, day in cells_of(view):
        if cell.placement and str(cell.placement.id) == selected.get("box"):
            table = table_of(visitor.caller, picture.week.first_day)
            plate = None if table is None else table.plates.get(str(cell.placement.id))
            shown |= {
                "chosen": cell,
                "chosen_key": cell.key,
                "tape": box_tape(picture, eater_day, cell, cell.placement, day),
                "remarks": _remarks_on_meal(visitor, picture, eater_day, cell),
                "plate": plate,
                "others": () if table is None or plate is None else swap_offers(table, cell.placement, today),
            }
        elif cell.key == selected.get("gap") and not cell.placement:
            saved, there = library.list_recipes(visitor.caller), house.house(visitor.caller)
            opened = {p.recipe.key: uses_up(p.recipe, there.to_use_up) for p in saved}
            saved.sort(key=lambda p: not opened[p.recipe.key])
            taken = instead_in(visitor.caller, picture.week.id)
            eater = eater_day.eater
            own = {p.recipe.key: for_eater(with_instead(p.recipe, taken), str(eater.id)) for p in saved}
            choices = [
                (
                    p,
                    why_not_for(eater.exclusions, own[p.recipe.key]),
                    remarks_on(eater, cell.slot, own[p.recipe.key], p.tags),
                )
                for p in saved
            ]
            shown |= {
                "gap": (eater_day, cell, day),
                "chosen_key": cell.key,
                "choices": choices,
                "opened": opened,
                "boxes": eat_first.boxes_for(there, eater_day.eater, day),
                "lacking": still_lacking(eater_day),
                "share_kcal": share_of(eater_day, cell),
            }
    if selected.get("repeats"):
        shown |= {"repeats": repeating.sources(visitor.caller, picture.week.first_day)}
    if selected.get("day"):
        eater_id, _, on = selected["day"].partition(".")
        who, when = id_of(eater_id), day_of(on)
        found = eater_day_at(view, who, when) if who and when else None
        if found is not None and when is not None:
            shown |= {"tape": day_tape(picture, found, when), "day_key": selected["day"]}
    return shown


def _remarks_on_meal(visitor: Visitor, picture: WeekPicture, eater_day: EaterDay, cell: Cell) -> tuple[str, ...]:
    """What is worth saying of a meal that stands: to be heated where nothing is, disliked, not for the way."""
    placement = cell.placement
    if placement is None:
        return ()
    recipe = picture.recipes[picture.outcome.boxes[str(placement.id)].placing.recipe_key]
    return remarks_on(eater_day.eater, cell.slot, recipe, library.tags_of(visitor.caller, placement.recipe_id))


@router.post("/{first_day}/open")
def open_week(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Start a week of 1 to 14 days."""
    days = text(form, "days", str(week_length(first_day))).strip()
    try:
        count = read_whole(days, "days", say("1 to 14."), largest=999)
        weeks.open_week(visitor.caller, first_day, count, request.app.state.clock())
    except InvalidInput as error:
        faults = Faults.of(error, {"days"})
        return week_page(request, visitor, first_day, faults=faults, status=422, typed={"days": days})
    return go(f"/week/{first_day}")


class SessionFields(Fields):
    """A prep session as it is typed."""

    starts_at: Annotated[datetime, moment(Saying("Such as 2026-11-25 18:30."))]
    length_min: Annotated[int | None, maybe(whole(1, LONGEST_SESSION_MIN, Saying("Minutes, such as 120.")))] = None


@router.post("/{first_day}/sessions")
def add_session(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Add a prep session."""
    try:
        fields = SessionFields.of(form)
        weeks.add_session(visitor.caller, first_day, fields.starts_at, fields.length_min or USUAL_LENGTH_MIN)
    except (InvalidInput, InvalidInputs) as error:
        faults, typed = Faults.of(error, SessionFields.names()), SessionFields.as_typed(form)
        return week_page(request, visitor, first_day, faults=faults, status=422, typed=typed)
    return go(f"/week/{first_day}")


@router.post("/{first_day}/close")
def close(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Close the week: what it is judged by stays with it."""
    history.close_week(visitor.caller, first_day)
    return go(f"/week/{first_day}")


@router.post("/{first_day}/open-again")
def open_again(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Open a week that is not over again."""
    try:
        history.open_again(visitor.caller, first_day, request.app.state.clock())
    except InvalidInput as error:
        return week_page(request, visitor, first_day, faults=Faults.of(error, set()), status=422)
    return go(f"/week/{first_day}")


@router.post("/{first_day}/sessions/{session_id}/remove")
def take_session_out(request: Request, visitor: Signed, form: Posted, first_day: Day, session_id: UUID) -> Response:
    """Take a prep session out."""
    try:
        weeks.take_session_out(visitor.caller, first_day, session_id)
    except InvalidInput as error:
        return week_page(request, visitor, first_day, faults=Faults.of(error, set()), status=422)
    return go(f"/week/{first_day}")


@router.post("/{first_day}/place-box")
def place_box(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Eat a box that is in the house in a slot."""
    gap = text(form, "gap")
    there, box, sent = slot_at(gap), id_of(text(form, "box")), id_of(text(form, "id"))
    if there is None or box is None or sent is None:
        raise NotFound("box")
    try:
        eat_first.place_box(visitor.caller, first_day, box, sent, *there)
    except (InvalidInputs, StaleWrite) as error:
        return week_page(request, visitor, first_day, faults=Faults.of(error, set()), status=422, gap=gap)
    return go(f"/week/{first_day}?box={placed_id(sent, there[2])}")


@router.post("/{first_day}/place-plain")
def place_plain(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Put a plain food or a few into a slot, without a recipe."""
    gap, plain = text(form, "gap"), text(form, "plain")
    there, sent = slot_at(gap), id_of(text(form, "id"))
    if there is None or sent is None:
        raise NotFound("slot")
    try:
        plain_meal.place_plain(visitor.caller, first_day, sent, *there, typed=plain)
    except (InvalidInputs, StaleWrite) as error:
        faults = Faults.of(error, {"plain"})
        return week_page(request, visitor, first_day, faults=faults, status=422, gap=gap, typed={"plain": plain})
    return go(f"/week/{first_day}?box={placed_id(sent, there[2])}")


@router.post("/{first_day}/place")
def place(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Put a recipe into a slot, on the day shown and any others ticked."""
    gap, days = text(form, "gap"), [v for v in form.getlist("days") if isinstance(v, str)]
    there, sent, recipe_id = slot_at(gap), id_of(text(form, "id")), id_of(text(form, "recipe"))
    placed_days = tuple(day for day in map(day_of, days) if day is not None)
    if there is None or sent is None or len(placed_days) != len(days):
        raise NotFound("slot")
    try:
        if recipe_id is None:
            raise InvalidInput("recipe", say("No recipe is chosen."), say("Choose one."))
        wanted = say("Give servings, such as 1 or {some}.", some=short(1.25))
        servings = read_number(text(form, "servings"), "servings", wanted, largest=100)
        typed = PlaceInput(sent, there[0], there[1], recipe_id, servings, placed_days)
        placing.place(visitor.caller, first_day, typed)
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults.of(error, {"servings", "recipe", "days"})
        kept = {"servings": text(form, "servings"), "recipe": text(form, "recipe"), "days": days}
        return week_page(request, visitor, first_day, gap=gap, faults=faults, status=422, typed=kept)
    return go(f"/week/{first_day}?box={placed_id(sent, placed_days[0])}")


@router.post("/{first_day}/meals/{placement_id}")
def change_meal(request: Request, visitor: Signed, form: Posted, first_day: Day, placement_id: UUID) -> Response:
    """Make a placed meal larger or smaller."""
    version = text(form, "version")
    try:
        wanted = say("Give servings, such as 1 or {some}.", some=short(1.25))
        servings = read_number(text(form, "servings"), "servings", wanted, largest=100)
        placing.change_servings(visitor.caller, placement_id, servings, whole_of(version) or 0)
    except (InvalidInput, InvalidInputs, StaleWrite) as error:
        faults = Faults.of(error, {"servings"})
        kept = {"servings": text(form, "servings")}
        return week_page(request, visitor, first_day, box=str(placement_id), faults=faults, status=422, typed=kept)
    return go(f"/week/{first_day}?box={placement_id}")


@router.post("/{first_day}/meals/{placement_id}/move")
def move_meal(request: Request, visitor: Signed, form: Posted, first_day: Day, placement_id: UUID) -> Response:
    """Set a meal down in another slot: moved (what stands there changes places with it), or copied."""
    there = slot_at(text(form, "to"))
    if there is None:
        raise NotFound("slot")
    to = moving.Place(*there)
    try:
        if text(form, "how") == "copy":
            copied, gave_way = moving.copy(
                visitor.caller, first_day, placement_id, to, id_of(text(form, "id")) or new_id()
            )
            return go(f"/week/{first_day}?box={copied}" + (f"&removed={gave_way}" if gave_way else "&set=1"))
        came_from = moving.move(visitor.caller, first_day, placement_id, to)
    except InvalidInputs as error:
        faults = Faults.of(error, set())
        return week_page(request, visitor, first_day, box=str(placement_id), faults=faults, status=422)
    back = cell_key(came_from.eater_id, came_from.slot_id, came_from.day)
    return go(f"/week/{first_day}?box={placement_id}" + (f"&moved={back}" if came_from != to else ""))


@router.post("/{first_day}/meals/{placement_id}/remove")
def remove_meal(request: Request, visitor: Signed, form: Posted, first_day: Day, placement_id: UUID) -> Response:
    """Take a meal out of its slot; the next page offers to put it back."""
    try:
        placing.take_out_meal(visitor.caller, placement_id)
    except InvalidInputs as error:
        faults = Faults.of(error, set())
        return week_page(request, visitor, first_day, box=str(placement_id), faults=faults, status=422)
    return go(f"/week/{first_day}?removed={placement_id}")


@router.post("/{first_day}/meals/{placement_id}/restore")
def restore_meal(request: Request, visitor: Signed, form: Posted, first_day: Day, placement_id: UUID) -> Response:
    """Put a meal back that was taken away."""
    try:
        placing.put_back(visitor.caller, placement_id)
    except InvalidInputs as error:
        return week_page(request, visitor, first_day, faults=Faults.of(error, set()), status=422)
    return go(f"/week/{first_day}?box={placement_id}")


@router.post("/{first_day}/recipes/{recipe_id}/take")
def take_new_version(request: Request, visitor: Signed, form: Posted, first_day: Day, recipe_id: UUID) -> Response:
    """Let the week follow a recipe that was changed since."""
    try:
        weeks.take_new_version(visitor.caller, first_day, recipe_id)
    except InvalidInput as fault:
        return week_page(request, visitor, first_day, faults=Faults({}, fault.message), status=422)
    return go(f"/week/{first_day}")


@router.get("/{first_day}/sessions/{session_id}/batches")
def show_batches(visitor: Signed, first_day: Day, session_id: UUID) -> Response:
    """What a session cooks, for its list in the tape."""
    picture = weeks.week_picture(visitor.caller, first_day)
    lines = () if picture is None else picture.once("sessions", lambda: sessions_of(picture)).lines
    found = next((line for line in lines if line.key == str(session_id)), None)
    if found is None:
        raise NotFound("session")
    return fragment("week/_batches.html", batches=found.batches)


@router.get("/{first_day}/fit")
def show_fit(request: Request, visitor: Signed, first_day: Day, step: Whole = 5) -> Response:
    """What fitting the portions would do: nothing is moved yet."""
    fit = fitting.fit(visitor.caller, first_day, step)
    csrf = visitor.signed.csrf_token
    return fragment("week/_fit.html", fit=fit, first_day=first_day, step=step, csrf=csrf, banded=BANDED)


@router.post("/{first_day}/fit")
def take_fit(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Fit the portions of the week."""
    fitting.take_fit(visitor.caller, first_day, 1 if text(form, "step") == "1" else 5)
    return go(f"/week/{first_day}")


@router.post("/{first_day}/fit/settle")
def settle_fit(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Keep what a fit moved, or put it back."""
    fitting.settle_fit(visitor.caller, first_day, keep=text(form, "choice") == "keep")
    return go(f"/week/{first_day}")
