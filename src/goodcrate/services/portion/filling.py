"""Portioning: weighing the pot and the boxes. Everything else follows from the log."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from uuid import UUID, uuid5

from goodcrate.core.cook.batch_record import check_shortfall, net_weight_g
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.portion.filled_boxes import WEIGHED, BoxPortion
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.db.cook import BOX, POT_KIND, BoxRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, NotFound, add_once, utc_now
from goodcrate.services.cook.cooking import log, started, worked_batch
from goodcrate.services.kitchen import learn_yields
from goodcrate.services.week.weeks import existing_week, load_picture, take_turns


def _worked(session: HouseholdSession, first_day: date, batch_id: UUID) -> WorkedBatch:
    return worked_batch(load_picture(session, existing_week(session, first_day)), batch_id)


@contextmanager
def _at_the_bench(caller: Caller, first_day: date) -> Iterator[HouseholdSession]:
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
) -> None:
    """Log what the cooked pot weighs, gross and tare. The batch is started if it was not.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: for impossible weights, a light pot without a reason, or one lighter than its packed boxes.
    """
    net_g = net_weight_g(gross_g, tare_g)
    with _at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        worked = _worked(session, first_day, batch_id)
        answer = check_shortfall(shortfall, net_g, worked.outcome.state.expected_g)
        packed_g = worked.outcome.packed_g
        if packed_g > net_g:
            raise InvalidInput(
                "gross_g", f"The packed boxes hold {packed_g:,.0f} g already.", "Withdraw them, or weigh the pot again."
            )
        log(
            session, caller, event_id, batch_id=batch.id, kind=POT_KIND, net_g=net_g, gross_g=gross_g, tare_g=tare_g,
            shortfall=answer,
        )  # fmt: skip
        session.flush()
        learn_yields(session, batch.component_id)


def withdraw_pot(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID) -> None:
    """Take the pot's weight back; the reading stays in the log.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: while boxes of it are packed.
    """
    with _at_the_bench(caller, first_day) as session:
        worked = _worked(session, first_day, batch_id)
        if any(p.stage == WEIGHED for p in worked.outcome.portions):
            raise InvalidInput("pot", "Boxes of this pot are packed.", "Withdraw them first.")
        if worked.is_started:
            log(session, caller, event_id, batch_id=batch_id, kind=POT_KIND, net_g=None)
            session.flush()
            learn_yields(session, UUID(worked.plan.component_key))


def weigh_box(
    caller: Caller, first_day: date, batch_id: UUID, placement_id: UUID, event_id: UUID, net_g: float
) -> None:
    """Log what one box really holds of this batch; the rest is divided again by itself.

    Raises:
        NotFound: when the batch has no such box.
        InvalidInput: before the pot is weighed, or for more than is left in it.
    """
    with _at_the_bench(caller, first_day) as session:
        worked = _worked(session, first_day, batch_id)
        portion = portion_of(worked, placement_id)
        pot_g = worked.outcome.state.pot_g
        if pot_g is None:
            raise InvalidInput("net_g", "The pot is not weighed yet.", "Weigh it first.")
        others_g = sum(p.grams for p in worked.outcome.portions if p.stage == WEIGHED and p is not portion)
        if net_g <= 0:
            raise InvalidInput("net_g", "A packed box holds more than 0 g.", "Give the grams of food in it.")
        if net_g > pot_g - others_g + 0.05:
            raise InvalidInput(
                "net_g", f"Only {pot_g - others_g:,.0f} g are left in the pot.", "Weigh the box again, or the pot."
            )
        _pack(session, caller, batch_id, placement_id, event_id, net_g)


def fill_as_divided(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID) -> None:
    """Log every box that is not packed yet with exactly the grams divided for it.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: before the pot is weighed.
    """
    with _at_the_bench(caller, first_day) as session:
        worked = _worked(session, first_day, batch_id)
        if worked.outcome.state.pot_g is None:
            raise InvalidInput("net_g", "The pot is not weighed yet.", "Weigh it first.")
        for portion in worked.outcome.portions:
            if portion.stage != WEIGHED:
                placement_id = UUID(portion.placing_key)
                _pack(session, caller, batch_id, placement_id, uuid5(event_id, portion.placing_key), portion.grams)


def withdraw_box(caller: Caller, first_day: date, batch_id: UUID, placement_id: UUID, event_id: UUID) -> None:
    """Take a packed box's weight back; the reading stays in the log.

    Raises:
        NotFound: when the batch has no such box.
    """
    with _at_the_bench(caller, first_day) as session:
        portion = portion_of(_worked(session, first_day, batch_id), placement_id)
        if portion.stage == WEIGHED:
            log(session, caller, event_id, batch_id=batch_id, kind=BOX, placement_id=placement_id, net_g=None)


def _pack(
    session: HouseholdSession, caller: Caller, batch_id: UUID, placement_id: UUID, event_id: UUID, net_g: float
) -> None:
    log(session, caller, event_id, batch_id=batch_id, kind=BOX, placement_id=placement_id, net_g=net_g)
    box_id = uuid5(placement_id, "box")
    add_once(session, BoxRow(id=box_id, placement_id=placement_id, packed_at=utc_now()))
