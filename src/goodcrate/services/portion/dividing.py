"""How a pot is divided, and what becomes of what no box takes."""

from datetime import date
from uuid import UUID

from goodcrate.core.cook.batch_record import COUNTED_IN, PIECE, RESTS, STEPS_G
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.db.cook import REST_KIND, WeighingRow
from goodcrate.services.calling import Caller
from goodcrate.services.cook.cooking import log, started
from goodcrate.services.portion.filling import at_the_bench, portion_of, worked_at

MOST_PIECES = 500


def count_pieces(caller: Caller, first_day: date, batch_id: UUID, pieces: int | None, kind: str = PIECE) -> None:
    """Say how many pieces (scoops, handfuls) the whole pot is: boxes get whole ones then, of their average weight.
    None: by weight again.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: for no number of pieces, another kind of them, or while boxes are packed.
    """
    if kind not in COUNTED_IN:
        raise InvalidInput("pieces", say("Nobody counts in these."), say("Pieces, scoops or handfuls."))
    if pieces is not None and not 1 <= pieces <= MOST_PIECES:
        raise InvalidInput(
            "pieces",
            say("{pieces} pieces are not possible.", pieces=pieces),
            say("From 1 to {most}.", most=MOST_PIECES),
        )
    with at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        if (batch.pieces, batch.piece_kind) == (pieces, kind):
            return
        if worked_at(session, first_day, batch_id).outcome.packed_g > 0:
            raise InvalidInput("pieces", say("Boxes of this pot are packed."), say("Take them out first."))
        batch.pieces, batch.piece_kind = pieces, kind


def choose_short(caller: Caller, first_day: date, batch_id: UUID, placement_id: UUID | None, step_g: int = 1) -> None:
    """Say whose box takes all that is missing or over, None: all boxes share it; and in what steps boxes are filled.

    Raises:
        NotFound: when the week asks for no such batch, or it has no such box.
        InvalidInput: for other steps than 1 or 5 g.
    """
    if step_g not in STEPS_G:
        raise InvalidInput("step", say("{step_g} g is no step here.", step_g=step_g), say("1 or 5 g."))
    with at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        if placement_id is not None:
            portion_of(worked_at(session, first_day, batch_id), placement_id)
        batch.short_for, batch.step_g = placement_id, step_g


def say_rest(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID, kind: str, net_g: float) -> None:
    """Log what became of what is left in the pot: so many g were tasted or thrown away, in all.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: before the pot is weighed, for another fate, or for more than is left.
    """
    if kind not in RESTS:
        raise InvalidInput("rest_as", say("We do not know this fate."), say("Tasted or thrown away."))
    with at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        outcome = worked_at(session, first_day, batch_id).outcome
        if outcome.state.pot_g is None:
            raise InvalidInput("rest_g", say("The pot is not weighed yet."), say("Weigh it first."))
        left_g = outcome.left_g + outcome.rest_g.get(kind, 0.0)
        if session.find(WeighingRow, event_id) is None and not 0 < net_g <= left_g + 0.05:
            told = say("{left_g} g are left in the pot.", left_g=shown(left_g))
            raise InvalidInput("rest_g", told, say("More than 0 g, up to that."))
        log(session, caller, event_id, batch_id=batch.id, kind=REST_KIND, net_g=net_g, rest_as=kind)


def take_rest_back(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID, kind: str) -> None:
    """It is in the pot after all; the reading stays in the log.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: for another fate.
    """
    if kind not in RESTS:
        raise InvalidInput("rest_as", say("We do not know this fate."), say("Tasted or thrown away."))
    with at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        log(session, caller, event_id, batch_id=batch.id, kind=REST_KIND, net_g=None, rest_as=kind)
