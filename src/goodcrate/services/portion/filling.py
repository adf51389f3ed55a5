"""Portioning: weighing the pot and the boxes. Everything else follows from the log."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import func, select

from goodcrate.core.cook.batch_record import AS_PLANNED, COUNTED, check_shortfall, net_weight_g
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short, shown
from goodcrate.core.portion.filled_boxes import WEIGHED, BoxPortion, pieces_g
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.core.store.box import PACKED, BoxEvent, standing
from goodcrate.core.week.storing import FREEZER, FRIDGE
from goodcrate.db.base import grams
from goodcrate.db.cook import BOX, POT_KIND, BatchRow, PotRow, WeighingRow
from goodcrate.db.kitchen import VesselRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxContentRow, BoxRow
from goodcrate.db.week import PlacementRow, SessionRow
from goodcrate.services.calling import Caller, NotFound, add_once, existing, utc_now
from goodcrate.services.cook.cooking import log, started, worked_batch
from goodcrate.services.kitchen import learn_yields
from goodcrate.services.store.boxes import box_in, content_id, own_box_id, pack, undo
from goodcrate.services.week.weeks import WeekPicture, existing_picture, take_turns


def worked_at(session: HouseholdSession, first_day: date, batch_id: UUID) -> WorkedBatch:
    """The worked-out batch of a week, inside the caller's transaction.

    Raises:
        NotFound: when the week asks for no such batch.
    """
    return worked_batch(existing_picture(session, first_day), batch_id)


@dataclass(frozen=True, slots=True)
class Filled:
    """What a box was filled with, in g: gross and tare where a scale said them, `how` it is known (empty: typed off a
    scale), and `pieces` where they were counted."""

    net_g: float
    tare_g: float | None = None
    how: str = ""
    pieces: int = 0

    @property
    def gross_g(self) -> float | None:
        """With what was tared off, None where no tare was said."""
        return None if self.tare_g is None else self.net_g + self.tare_g


def has_begun(caller: Caller, batch_id: UUID) -> bool:
    """Whether this is a batch of the household that somebody has begun."""
    with caller.transaction() as session:
        return session.find(BatchRow, batch_id) is not None


def last_weighed(caller: Caller, batch_id: UUID) -> int:
    """How far a batch's log has come: the order of its last weighing, 0 without one."""
    with caller.transaction() as session:
        return session.scalar(select(func.max(WeighingRow.seq)).where(WeighingRow.batch_id == batch_id)) or 0


def holds(caller: Caller, first_day: date, batch_id: UUID, placement_id: UUID) -> str:
    """What a box of a batch was weighed with, as it is typed; empty while it is open.

    Raises:
        NotFound: when the week asks for no such batch, or it has no such box.
    """
    with caller.transaction() as session:
        portion = portion_of(worked_at(session, first_day, batch_id), placement_id)
        return short(portion.grams) if portion.stage == WEIGHED else ""


def share_of_pot_g(caller: Caller, first_day: date, batch_id: UUID, share: float) -> float:
    """A share of the whole weighed pot, in g to 0.1; of what is expected before it is weighed.

    Raises:
        NotFound: when the week asks for no such batch.
    """
    with caller.transaction() as session:
        return round(worked_at(session, first_day, batch_id).outcome.state.available_g * share, 1)


@contextmanager
def at_the_bench(caller: Caller, first_day: date) -> Iterator[HouseholdSession]:
    """A transaction that has the week's pots to itself: two cooks at one pot must not both take the last grams."""
    with caller.transaction() as session:
        take_turns(session, first_day)
        yield session


def portion_of(worked: WorkedBatch, placement_id: UUID) -> BoxPortion:
    """The portion of one placement in a batch.

    Raises:
        NotFound: when the batch has none for it.
    """
    for portion in worked.outcome.portions:
        if portion.placing_key == str(placement_id):
            return portion
    raise NotFound("box")


def weigh_pot(
    caller: Caller,
    first_day: date,
    batch_id: UUID,
    event_id: UUID,
    gross_g: float,
    tare_g: float,
    shortfall: str | None = None,
    pot_id: UUID | None = None,
    *,
    vessel_id: UUID | None = None,
) -> None:
    """Log what a cooked pot weighs, gross and tare. The batch is started if it was not. `vessel_id` is the vessel of
    the kitchen it is, where somebody said which.

    Of several pots it is `pot_id`, or the first that is not weighed; the last of them is asked why all together are
    lighter than expected.

    Raises:
        NotFound: when the week asks for no such batch, it has no such pot, or the kitchen no such vessel.
        InvalidInput: for impossible weights, a light pot without a reason, or one lighter than its packed boxes.
    """
    net_g = net_weight_g(gross_g, tare_g)
    with at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        outcome = worked_at(session, first_day, batch_id).outcome
        pots = dict(zip((pot for pot in batch.pots if pot.live), outcome.state.pots_g, strict=True))
        pot = _pot(session, pots, event_id, pot_id)
        others_g = [g for other, g in pots.items() if other is not pot]
        total_g, answer = net_g + sum(g for g in others_g if g is not None), None
        if None not in others_g:
            answer = check_shortfall(shortfall, total_g, outcome.state.expected_g)
            if outcome.packed_g + sum(outcome.rest_g.values()) > total_g:
                raise InvalidInput(
                    "gross_g",
                    say("The packed boxes hold {packed_g} g already.", packed_g=shown(outcome.packed_g)),
                    say("Take them out, or weigh the pot again."),
                )
        log(
            session,
            caller,
            event_id,
            batch_id=batch.id,
            kind=POT_KIND,
            net_g=net_g,
            pot_id=pot.id,
            gross_g=gross_g,
            tare_g=tare_g,
            shortfall=answer,
        )
        if vessel_id is not None:
            pot.vessel_id = existing(session, VesselRow, vessel_id, "vessel").id
        session.flush()
        learn_yields(session, batch.component_id)


def _pot(session: HouseholdSession, pots: Mapping[PotRow, float | None], event_id: UUID, pot_id: UUID | None) -> PotRow:
    sent_before = session.find(WeighingRow, event_id)
    wanted = pot_id if sent_before is None else sent_before.pot_id
    if wanted is None:
        return next((pot for pot, net_g in pots.items() if net_g is None), next(iter(pots)))
    for pot in pots:
        if pot.id == wanted:
            return pot
    raise NotFound("pot")


def add_pot(caller: Caller, first_day: date, batch_id: UUID, pot_id: UUID, filling: int = 1) -> None:
    """Say that a batch came out of one pot more. The batch is started if it was not; sending it twice adds one.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: while boxes of it are packed, for their division would change, or for too many pots.
    """
    with at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        if session.find(PotRow, pot_id) is not None:
            return
        _refuse_if_packed(worked_at(session, first_day, batch_id))
        if sum(1 for pot in batch.pots if pot.live) >= MOST_POTS:
            raise InvalidInput(
                "pot", say("A batch in more than {MOST_POTS} pots is not possible.", MOST_POTS=MOST_POTS)
            )
        row = PotRow(id=pot_id, batch_id=batch.id, filling=filling, position=len(batch.pots), live=1)
        add_once(session, row)


MOST_POTS = 8


def leave_pot_out(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID) -> None:
    """Take back the last pot that was added; what it weighed stays in the log and does not count.

    Raises:
        NotFound: when the batch was not started.
        InvalidInput: while boxes of it are packed.
    """
    with at_the_bench(caller, first_day) as session:
        batch = existing(session, BatchRow, batch_id, "batch")
        pots = [pot for pot in batch.pots if pot.live]
        if len(pots) < 2 or session.find(WeighingRow, event_id) is not None:
            return
        _refuse_if_packed(worked_at(session, first_day, batch_id))
        log(session, caller, event_id, batch_id=batch_id, kind=POT_KIND, net_g=None, pot_id=pots[-1].id)
        pots[-1].live = None
        session.flush()
        learn_yields(session, batch.component_id)


def _refuse_if_packed(worked: WorkedBatch) -> None:
    if worked.outcome.packed_g > 0:
        raise InvalidInput("pot", say("Boxes of this pot are packed."), say("Take them out first."))


def take_out_pot(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID) -> None:
    """Take the weights of a batch's pots back; the readings stay in the log.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: while boxes of it are packed.
    """
    with at_the_bench(caller, first_day) as session:
        worked = worked_at(session, first_day, batch_id)
        _refuse_if_packed(worked)
        if worked.is_started:
            batch = existing(session, BatchRow, batch_id, "batch")
            for place, pot in enumerate(pot for pot in batch.pots if pot.live):
                one = event_id if place == 0 else uuid5(event_id, str(pot.id))
                log(session, caller, one, batch_id=batch_id, kind=POT_KIND, net_g=None, pot_id=pot.id)
            session.flush()
            learn_yields(session, UUID(worked.plan.component_key))


def weigh_box(
    caller: Caller, first_day: date, batch_id: UUID, placement_id: UUID, event_id: UUID, in_box: Filled | float
) -> None:
    """Log what one box really holds of this batch, in g; the rest is divided again by itself. Of a batch that is
    divided by count the pieces say the grams.

    Raises:
        NotFound: when the batch has no such box.
        InvalidInput: before the pot is weighed, or for more than is left in it.
    """
    with at_the_bench(caller, first_day) as session:
        picture = existing_picture(session, first_day)
        worked = worked_batch(picture, batch_id)
        portion = portion_of(worked, placement_id)
        pot_g = worked.outcome.state.pot_g
        if pot_g is None:
            raise InvalidInput("net_g", say("The pot is not weighed yet."), say("Weigh it first."))
        filled = in_box if isinstance(in_box, Filled) else Filled(in_box)
        own_g = portion.grams if portion.stage == WEIGHED else 0.0
        others_g = worked.outcome.packed_g - own_g + sum(worked.outcome.rest_g.values())  # spare boxes are among them
        if filled.pieces and worked.outcome.piece_g:
            net_g = pieces_g(filled.pieces, pot_g - others_g, worked.outcome.piece_g)
            filled = replace(filled, net_g=net_g, how=COUNTED)
        net_g = filled.net_g
        if net_g <= 0:
            raise InvalidInput("net_g", say("A packed box holds more than 0 g."), say("Give the grams of food in it."))
        if net_g > pot_g - others_g + 0.05:
            raise InvalidInput(
                "net_g",
                say("Only {pot_g} g are left in the pot.", pot_g=shown(pot_g - others_g)),
                say("Weigh the box again, or the pot."),
            )
        pack_box(session, caller, batch_id, _own_box(picture, portion), event_id, filled)


def fill_as_divided(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID) -> None:
    """Log every box that is not packed yet with exactly the grams divided for it.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: before the pot is weighed.
    """
    with at_the_bench(caller, first_day) as session:
        picture = existing_picture(session, first_day)
        worked = worked_batch(picture, batch_id)
        if worked.outcome.state.pot_g is None:
            raise InvalidInput("net_g", say("The pot is not weighed yet."), say("Weigh it first."))
        left_g = worked.outcome.left_g
        for portion in worked.outcome.portions:
            if portion.stage != WEIGHED and portion.grams > 0:  # with nothing left in the pot, none is packed
                net_g = portion.grams
                if portion.pieces and worked.outcome.piece_g:
                    net_g = pieces_g(portion.pieces, left_g, worked.outcome.piece_g)
                left_g -= net_g
                box = _own_box(picture, portion)
                how = COUNTED if portion.pieces else AS_PLANNED  # nobody read a scale
                filled = Filled(net_g, how=how, pieces=portion.pieces)
                pack_box(session, caller, batch_id, box, uuid5(event_id, portion.placing_key), filled)


def take_out_box(caller: Caller, first_day: date, batch_id: UUID, placement_id: UUID, event_id: UUID) -> None:
    """Take a packed box's weight back; the reading stays in the log.

    Raises:
        NotFound: when the batch has no such box.
    """
    with at_the_bench(caller, first_day) as session:
        portion = portion_of(worked_at(session, first_day, batch_id), placement_id)
        if portion.stage == WEIGHED:
            unpack_box(session, caller, batch_id, own_box_id(placement_id), event_id)


def unpack_box(session: HouseholdSession, caller: Caller, batch_id: UUID, box_id: UUID, event_id: UUID) -> None:
    """Take out what a batch gave to a box; with nothing left in it, it was not packed."""
    batch = existing(session, BatchRow, batch_id, "batch")
    inside = content_id(box_id, batch.component_id)
    log(session, caller, event_id, batch_id=batch_id, kind=BOX, net_g=None, content_id=inside)
    session.flush()
    box = box_in(session, box_id)
    packed = next((e for e in reversed(standing(box.log)) if e.kind == PACKED), None)
    if packed is not None and all(content.actual_g is None for content in box.contents):
        undo(session, caller, UUID(packed.key))


@dataclass(frozen=True)
class OwnBox:
    """The box of a meal, what of a batch was meant for it, in g, and the container it goes into, where one is known."""

    meal_id: UUID
    planned_g: float | None
    vessel_id: UUID | None


def _own_box(picture: WeekPicture, portion: BoxPortion) -> OwnBox:
    container = picture.packing.by_key.get(portion.placing_key)
    return OwnBox(UUID(portion.placing_key), portion.target_g, None if container is None else UUID(container.key))


def pack_box(
    session: HouseholdSession, caller: Caller, batch_id: UUID, box: OwnBox | UUID, event_id: UUID, filled: Filled
) -> None:
    """Weigh what a batch gives to a meal's own box, or to one (by its id) for nobody yet; it is packed by that."""
    batch = existing(session, BatchRow, batch_id, "batch")
    own = box if isinstance(box, OwnBox) else None
    box_id = box if isinstance(box, UUID) else own_box_id(box.meal_id)
    inside = content_id(box_id, batch.component_id)
    meal = None if own is None else existing(session, PlacementRow, own.meal_id, "meal")
    cooked = existing(session, SessionRow, batch.session_id, "session")
    row = BoxRow(
        id=box_id,
        recipe_id=batch.recipe_id if meal is None else meal.recipe_id,
        vessel_id=None if own is None else own.vessel_id,
        packed_for=None if own is None else own.meal_id,
        lot=box_id,
        cooked_on=cooked.starts_at.date(),
    )
    content = BoxContentRow(
        id=inside,
        box_id=box_id,
        component_id=batch.component_id,
        batch_id=batch.id,
        planned_g=None if own is None or own.planned_g is None else grams(own.planned_g),
    )
    place = FREEZER if meal is not None and meal.is_frozen else FRIDGE
    pack(session, caller, row, [content], BoxEvent(str(uuid5(event_id, "packed")), PACKED, utc_now(), place))
    log(
        session,
        caller,
        event_id,
        batch_id=batch_id,
        kind=BOX,
        net_g=filled.net_g,
        content_id=inside,
        gross_g=filled.gross_g,
        tare_g=filled.tare_g,
        how=filled.how,
        pieces=filled.pieces,
    )
