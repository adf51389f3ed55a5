"""What no box of its dish takes: boxes for nobody yet, and boxes of other dishes that are topped up."""

from datetime import date
from uuid import UUID

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.store.box import GONE
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.db.cook import WeighingRow
from goodcrate.db.store import BoxRow
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook.cooking import worked_batch
from goodcrate.services.portion.filling import Filled, OwnBox, at_the_bench, pack_box, unpack_box, worked_at
from goodcrate.services.store.boxes import box_in, own_box_id
from goodcrate.services.week.weeks import existing_week, load_picture


def pack_spare(caller: Caller, first_day: date, batch_id: UUID, box_id: UUID, event_id: UUID, net_g: float) -> None:
    """Pack what is over into a box that is for nobody yet; it is in the house then, to be eaten by any meal.

    Raises:
        NotFound: when the week asks for no such batch, or the box is a meal's own.
        InvalidInput: before the pot is weighed, or for more than is left in it.
    """
    with at_the_bench(caller, first_day) as session:
        there = session.find(BoxRow, box_id)
        if there is not None and there.packed_for is not None:
            raise NotFound("box")
        if there is not None and session.find(WeighingRow, event_id) is not None:
            return
        outcome = worked_at(session, first_day, batch_id).outcome
        if outcome.state.pot_g is None:
            raise InvalidInput("spare_g", say("The pot is not weighed yet."), say("Weigh it first."))
        if not 0 < net_g <= outcome.left_g + 0.05:
            raise InvalidInput(
                "spare_g",
                say("{left_g} g are left in the pot.", left_g=shown(outcome.left_g)),
                say("More than 0 g, up to that."),
            )
        pack_box(session, caller, batch_id, box_id, event_id, Filled(net_g))


def top_up(caller: Caller, first_day: date, batch_id: UUID, placement_id: UUID, event_id: UUID, net_g: float) -> None:
    """Give what is over to the box of another dish that the same session cooks.

    Raises:
        NotFound: when the week asks for no such batch, or the session packs no such box beside the batch's own.
        InvalidInput: before the pot is weighed, for more than is left in it, or for somebody who must not get it.
    """
    with at_the_bench(caller, first_day) as session:
        picture = load_picture(session, existing_week(session, first_day))
        worked = worked_batch(picture, batch_id)
        box = picture.outcome.boxes.get(str(placement_id))
        own = {p.placing_key for p in worked.outcome.portions}
        if box is None or str(placement_id) in own or box.placing.session_key != worked.plan.session_key:
            raise NotFound("box")
        meal = next(m for m in picture.meals if m.id == placement_id)
        eater = next(e for e in picture.eaters if e.id == meal.eater_id)
        if why := why_not_for(eater.exclusions, picture.recipes[worked.plan.recipe_key]):
            raise InvalidInput("rest_g", why, say("Choose another box."))
        left_g = worked.outcome.left_g + sum(
            p.grams for p in worked.outcome.spare if p.placing_key == str(placement_id)
        )
        sent_before = session.find(WeighingRow, event_id) is not None
        if worked.outcome.state.pot_g is None or not (sent_before or 0 < net_g <= left_g + 0.05):
            told = say("{left_g} g are left in the pot.", left_g=shown(left_g))
            raise InvalidInput("rest_g", told, say("More than 0 g, up to that."))
        container = picture.packing.by_key.get(str(placement_id))
        given_to = OwnBox(placement_id, None, None if container is None else UUID(container.key))
        pack_box(session, caller, batch_id, given_to, event_id, Filled(net_g))


def take_top_up_back(caller: Caller, first_day: date, batch_id: UUID, placement_id: UUID, event_id: UUID) -> None:
    """Take out of another dish's box what this batch gave to it.

    Raises:
        NotFound: when the week asks for no such batch, or it gave that box nothing.
    """
    with at_the_bench(caller, first_day) as session:
        outcome = worked_at(session, first_day, batch_id).outcome
        if session.find(WeighingRow, event_id) is not None:
            return
        if all(p.placing_key != str(placement_id) for p in outcome.spare):
            raise NotFound("box")
        unpack_box(session, caller, batch_id, own_box_id(placement_id), event_id)


def take_out_spare(caller: Caller, first_day: date, batch_id: UUID, box_id: UUID, event_id: UUID) -> None:
    """Take back a box that was packed for nobody; its reading stays in the log.

    Raises:
        NotFound: when the batch has no such box.
        InvalidInput: when a meal eats it, or it is not in the house any more.
    """
    with at_the_bench(caller, first_day) as session:
        box = box_in(session, box_id)
        if all(content.batch_key != str(batch_id) for content in box.contents):
            raise NotFound("box")
        if box.for_meal is not None:
            raise InvalidInput("box", say("A meal eats this box."), say("Take that out of the week first."))
        if box.state in GONE:
            raise InvalidInput("box", say("This box is not in the house any more."), say("Put it back at Store first."))
        unpack_box(session, caller, batch_id, box_id, event_id)
