"""Routes of weighing in: one batch's ingredients, planned beside what really went in, however that is known."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.cook.against_plan import against_plan
from goodcrate.core.cook.batch_record import AS_PLANNED, BY_SPOON, LEFT_OUT, SWAPPED, Weighing, goes_in_now, settled
from goodcrate.core.ground.amounts import LARGEST_LINE_G, LARGEST_POT_G, read_grams
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.recipes.component import USES, IngredientLine
from goodcrate.services.cook import cooking, weighing_in
from goodcrate.services.cook.weighing_in import SPOONED_UP_TO_G, PutIn, SpoonSizes, Tap
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Day
from goodcrate.web.cook.address import router
from goodcrate.web.cook.routes import event_id, find_card
from goodcrate.web.cook.tapes import batch_tape
from goodcrate.web.cook.view import BatchCard
from goodcrate.web.figures import plain
from goodcrate.web.finder import ask_finder
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.scale import scale_of
from goodcrate.web.security import Posted, Signed, Visitor, text

HOW_WORDS: Mapping[str, str] = {
    LEFT_OUT: Saying("left out"),
    AS_PLANNED: Saying("in as planned"),
    SWAPPED: Saying("something else went in"),
}


@dataclass(frozen=True)
class WeighRow:
    """An ingredient of a batch while it is weighed in. `how` says how its weight is known, empty off a scale; `sizes`
    are its spoons, None where nobody counts it in any."""

    key: str
    planned: IngredientLine
    actual: IngredientLine
    is_done: bool
    how: str = ""
    sizes: SpoonSizes | None = None
    spoons: tuple[int, int] = (0, 0)
    event: UUID = field(default_factory=new_id)

    @property
    def is_planned(self) -> bool:
        """Whether the recipe has it; else it was added."""
        return self.planned.amount.grams > 0

    @property
    def kcal_per_g(self) -> float:
        """Energy of a gram of it, 0 where it is not known."""
        grams = self.planned.amount.grams
        return self.planned.tally.amount("energy_kcal").value / grams if grams > 0 else 0.0


def _rows(visitor: Visitor, card: BatchCard) -> list[WeighRow]:
    """What is weighed in now: planned lines, and what was added."""
    record, state = card.worked.record, card.worked.outcome.state
    sizes = weighing_in.spoon_sizes(visitor.caller, (line.food for line in record.lines))
    last, names = settled(record.log), {line.key: line.food.name for line in record.lines}
    rows = []
    for planned, actual in zip(record.lines, state.lines, strict=True):
        said = last.get(planned.key)
        if not goes_in_now(planned) and said is None:
            continue
        own = sizes.get(planned.food.key) if planned.amount.grams <= SPOONED_UP_TO_G else None
        spoons = (said.tablespoons, said.teaspoons) if said is not None else (0, 0)
        how = _how(said, names.get(record.went_in_for.get(planned.key, ""), ""), planned)
        rows.append(WeighRow(planned.key, planned, actual, said is not None, how, sizes=own, spoons=spoons))
    return rows


def _how(said: Weighing | None, went_in_for: str, planned: IngredientLine) -> str:
    if went_in_for:
        return say("went in for {name}", name=went_in_for.split(",", maxsplit=1)[0].lower())
    if planned.amount.grams == 0:
        return say("added to taste")
    if said is not None and said.how == BY_SPOON:
        counted = ((said.tablespoons, say("tbsp")), (said.teaspoons, say("tsp")))
        return " + ".join(f"{count} {spoon}" for count, spoon in counted if count)
    return "" if said is None else str(HOW_WORDS.get(said.how, ""))


def _batch_page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    batch_id: UUID,
    *,
    faults: Faults = NO_FAULTS,
    typed: dict[str, str] | None = None,
    asked: dict[str, dict[str, str]] | None = None,
    status: int = 200,
) -> Response:
    picture, card = find_card(visitor, first_day, batch_id)
    rows, state = _rows(visitor, card), card.worked.outcome.state
    portions_g = [portion.grams for portion in card.worked.plan.portions]
    scale = scale_of(request)
    return page(
        request,
        visitor,
        "cook/batch.html",
        "cook",
        status=status,
        card=card,
        rows=rows,
        poured=[line for line in state.lines if line.is_poured_off],
        later=[
            (line, USES[line.use])
            for line in card.worked.record.lines
            if line.amount.grams > 0 and not line.is_poured_off and not goes_in_now(line)
        ],
        current=next((row.key for row in rows if not row.is_done), ""),
        otherwise=against_plan(card.worked.record.lines, state, portions_g),
        typed=typed or {},
        asked=asked or {},
        faults=faults,
        first_day=first_day,
        here=f"/cook/{first_day}/{card.id}",
        tape=batch_tape(card, picture.shown, f"/cook/{first_day}/{card.id}"),
        new_id=new_id,
        has_scale=scale is not None,
        has_pan=scale is not None and scale.has_pan,
    )


@router.get("/{first_day}/{batch_id}")
def one_batch(request: Request, visitor: Signed, first_day: Day, batch_id: UUID) -> Response:
    """One batch: its ingredients, planned beside what went in."""
    return _batch_page(request, visitor, first_day, batch_id)


@router.post("/{first_day}/{batch_id}/start")
def start_batch(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Fix the planned weights and begin."""
    cooking.start_batch(visitor.caller, first_day, batch_id)
    return go(f"/cook/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/lines/{line_id}")
def weigh_line(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, line_id: UUID
) -> Response:
    """Log what was weighed of one ingredient."""
    field, typed = f"line-{line_id}", text(form, "net")
    try:
        net_g = read_grams(typed, field, LARGEST_LINE_G)
        event, is_sure = event_id(text(form, "event")), bool(typed) and text(form, "sure") == typed
        tare = text(form, "scale_tare")
        tare_g = read_grams(tare, field, LARGEST_POT_G) if tare else None
        cooking.weigh_ingredient(
            visitor.caller, first_day, batch_id, line_id, event, net_g, is_sure=is_sure, tare_g=tare_g
        )
    except cooking.AskedFirst as asked:
        instead = plain(round(asked.instead_g)) if asked.instead_g else ""
        doubt = {"words": asked.problem, "typed": typed, "grams": plain(net_g), "instead": instead}
        kept = {field: typed}
        return _batch_page(request, visitor, first_day, batch_id, typed=kept, asked={field: doubt}, status=422)
    except (InvalidInput, InvalidInputs) as error:
        message = error.message if isinstance(error, InvalidInput) else error.faults[0].message
        faults = Faults({field: message})
        return _batch_page(request, visitor, first_day, batch_id, faults=faults, typed={field: typed}, status=422)
    return go(f"/cook/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/lines/{line_id}/take-out")
def take_out_line(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, line_id: UUID
) -> Response:
    """Take an ingredient's weighing back; it stays in the log."""
    cooking.weigh_ingredient(visitor.caller, first_day, batch_id, line_id, event_id(text(form, "event")), None)
    return go(f"/cook/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/lines/{line_id}/spoon")
def count_spoon(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, line_id: UUID
) -> Response:
    """A spoon more or less of one ingredient."""
    tap = Tap(text(form, "spoon"), is_less=bool(text(form, "less")))
    try:
        weighing_in.count_spoon(visitor.caller, first_day, batch_id, line_id, event_id(text(form, "event")), tap)
    except InvalidInput as error:
        faults = Faults({f"line-{line_id}": error.message})
        return _batch_page(request, visitor, first_day, batch_id, faults=faults, status=422)
    return go(f"/cook/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/lines/{line_id}/said")
def say_of_line(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, line_id: UUID
) -> Response:
    """An ingredient is left out, or in as planned."""
    event, how = event_id(text(form, "event")), text(form, "how")
    weighing_in.say_of_line(visitor.caller, first_day, batch_id, line_id, event, how)
    return go(f"/cook/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/rest")
def say_of_rest(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """All that is not in yet is left out, or in as planned; on to where it was asked."""
    weighing_in.say_of_rest(visitor.caller, first_day, batch_id, event_id(text(form, "event")), text(form, "how"))
    to = text(form, "to")
    if to == "pot":
        return go(f"/portion/{first_day}/{batch_id}")
    session_id = id_of(to)
    return go(f"/cook/{first_day}/{batch_id}" if session_id is None else f"/cook/{first_day}/now/{session_id}")


@router.get("/{first_day}/{batch_id}/put-in")
def choose_food(request: Request, visitor: Signed, first_day: Day, batch_id: UUID) -> Response:
    """Choose what was added to taste, or went in for an ingredient."""
    wanted = request.query_params
    return _put_in_page(request, visitor, first_day, batch_id, dict(wanted))


def _put_in_page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    batch_id: UUID,
    typed: Mapping[str, str],
    *,
    faults: Faults = NO_FAULTS,
    asked: str = "",
    status: int = 200,
) -> Response:
    _, card = find_card(visitor, first_day, batch_id)
    instead = next((line for line in card.worked.record.lines if line.key == typed.get("instead_of")), None)
    query = typed.get("q", "").strip()[:80]
    found = ask_finder(request, visitor, query, 8).lines if query else ()
    return page(
        request,
        visitor,
        "cook/put_in.html",
        "cook",
        status=status,
        card=card,
        instead=instead,
        q=query,
        grams=typed.get("net", plain(instead.amount.grams) if instead is not None else ""),
        found=[x.food for x in found if instead is None or x.food.key != instead.food.key],
        food=typed.get("food", ""),
        asked=asked,
        faults=faults,
        first_day=first_day,
        here=f"/cook/{first_day}/{card.id}",
        event=id_of(typed.get("event", "")) or new_id(),
    )


@router.post("/{first_day}/{batch_id}/put-in")
def put_in(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Log a food that was not planned."""
    typed = {name: text(form, name) for name in ("food", "net", "instead_of", "q", "event")}
    find_card(visitor, first_day, batch_id)
    try:
        net_g = read_grams(typed["net"], "net", LARGEST_LINE_G, allow_zero=False)
        food = PutIn(typed["food"], net_g, id_of(typed["instead_of"]))
        is_sure = bool(typed["food"]) and text(form, "sure") == typed["food"]
        weighing_in.put_in(visitor.caller, first_day, batch_id, event_id(typed["event"]), food, is_sure=is_sure)
    except cooking.AskedFirst as asked:
        return _put_in_page(request, visitor, first_day, batch_id, typed, asked=asked.problem, status=422)
    except (InvalidInput, InvalidInputs) as error:
        message = error.message if isinstance(error, InvalidInput) else error.faults[0].message
        where = error.field if isinstance(error, InvalidInput) and error.field == "food" else "net"
        faults = Faults({where: message})
        return _put_in_page(request, visitor, first_day, batch_id, typed, faults=faults, status=422)
    return go(f"/cook/{first_day}/{batch_id}")
