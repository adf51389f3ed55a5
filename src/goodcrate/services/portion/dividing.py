"""How a pot is divided: by weight or by count, in what steps, and whose box takes the difference."""

from datetime import date
from uuid import UUID

from goodcrate.core.cook.batch_record import COUNTED_IN, PIECE, STEPS_G
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook.cooking import started, worked_batch
from goodcrate.services.portion.filling import at_the_bench, portion_of, worked_at
from goodcrate.services.week.weeks import existing_week, load_picture

MOST_PIECES = 500
LONGEST_MARK = 40


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


def mark_boxes(caller: Caller, first_day: date, batch_id: UUID, eater_id: UUID, mark: str) -> None:
    """Say how an eater's pieces or boxes of this pot are known from the others (a toothpick, the back row); printed on
    their labels. Nothing typed takes it off.

    Raises:
        NotFound: when the week asks for no such batch, or that eater gets nothing of it.
        InvalidInput: for more than a few words.
    """
    words = " ".join(mark.split())
    if len(words) > LONGEST_MARK:
        told = say("{count} letters are too many for a label.", count=len(words))
        raise InvalidInput("known_by", told, say("Up to {most}.", most=LONGEST_MARK))
    with at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        picture = load_picture(session, existing_week(session, first_day))
        getting = {p.placing_key for p in worked_batch(picture, batch_id).outcome.portions}
        if all(str(meal.id) not in getting for meal in picture.meals if meal.eater_id == eater_id):
            raise NotFound(say("box"))
        others = {key: said for key, said in (batch.marks or {}).items() if key != str(eater_id)}
        batch.marks = {**others, str(eater_id): words} if words else others or None
