"""What is in the house put into a week: by hand into a gap, and offered to gaps before anything is planned."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from uuid import UUID, uuid5

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import day_month, weekday_whole
from goodcrate.core.recipes.recipe import serving_of
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.store.boxes_in_house import Gap, offer
from goodcrate.core.targets.day_target import banded_per_g
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.core.week.week_problem import PlanDay, PlanDish, PlanSlot
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import PlacementRow
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.store.house import BoxesInHouse, House, house_in
from goodcrate.services.week.placing import PlaceInput, place_in
from goodcrate.services.week.week_targets import eater_in_week
from goodcrate.services.week.weeks import existing_week, take_turns

IN_HOUSE = "@house:"
"""Between a recipe's key and that of its boxes in the house, in the key of a planner's dish."""


def boxes_for(house: House, eater: Eater, day: date) -> tuple[BoxesInHouse, ...]:
    """The free boxes an eater may get on a day, what keeps shortest first."""
    return tuple(
        b
        for b in house.boxes
        if b.free
        and not b.part
        and day <= b.until
        and for_eater(b.recipe, str(eater.id)).key == b.recipe.key
        and why_not_for(eater.exclusions, b.recipe) is None
    )


def place_box(
    caller: Caller, first_day: date, box_id: UUID, placement_id: UUID, eater_id: UUID, slot_id: UUID, day: date
) -> None:
    """Eat a box of the house in a slot. Sending it twice places one.

    Raises:
        NotFound: when week, box, eater or slot is not the household's.
        InvalidInputs: when none is left, it keeps not so long, or the eater must not get it.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        if session.find(PlacementRow, uuid5(placement_id, day.isoformat())) is not None:
            return
        box = next((b for b in house_in(session).boxes if b.id == box_id), None)
        if box is None:
            raise NotFound("box")
        eater = eater_in_week(session, existing_week(session, first_day).id, eater_id)
        if box not in boxes_for(House((box,), ()), eater, day):
            until = f"{weekday_whole(box.until)} {day_month(box.until)}"
            not_theirs = say("it keeps until {until}, or is not for them", until=until)
            why = not_theirs if box.free else say("no box of it is left")
            raise InvalidInputs([InvalidInput("box", f"{box.recipe.name}: {why}.", say("Choose another."))])
        recipe_id, own = UUID(box.recipe.key), box.free_ids[0]
        typed = PlaceInput(placement_id, eater_id, slot_id, recipe_id, box.servings, (day,), from_box=own)
        place_in(session, first_day, typed)


@dataclass(frozen=True)
class Offered:
    """A plan's slots, days and dishes with the boxes of the house standing where they are eaten first."""

    slots: tuple[PlanSlot, ...]
    days: tuple[PlanDay, ...]
    dishes: tuple[PlanDish, ...]


def offered(
    session: HouseholdSession, first_day: date, slots: Sequence[PlanSlot], days: Sequence[PlanDay], polyol_share: float
) -> Offered:
    """Boxes of the house in the gaps where they fit best; such a day sizes its other portions by itself."""
    boxes = {str(b.id): b for b in house_in(session).boxes if b.free and not b.part}
    energy = {(d.eater_key, d.day): (d.energy_low_kcal + d.energy_high_kcal) / 2 - d.extra_kcal for d in days}
    a_day: dict[tuple[str, int], int] = {}
    for slot in slots:
        a_day[slot.eater_key, slot.day] = a_day.get((slot.eater_key, slot.day), 0) + 1
    gaps = {
        (slot.eater_key, str(slot.day), slot.slot_key): Gap(
            (slot.eater_key, str(slot.day), slot.slot_key),
            first_day + timedelta(days=slot.day),
            frozenset(slot.dishes),
            slot.wanted_kcal or energy[slot.eater_key, slot.day] / a_day[slot.eater_key, slot.day],
        )
        for slot in slots
        if slot.fixed is None and (slot.eater_key, slot.day) in energy
    }
    found = offer([b.box for b in boxes.values()], list(gaps.values()))
    dishes = {}
    for key in set(found.values()):
        box, serving = boxes[key], serving_of(boxes[key].recipe).tally
        dishes[key] = PlanDish(
            f"{box.recipe.key}{IN_HOUSE}{box.id}",
            box.recipe.name,
            serving.amount("energy_kcal").value / serving.grams,
            serving.amount("protein_g").value / serving.grams,
            box.grams,
            box.grams,
            batches=0,
            hands_on_min=0.0,
            keeps_days=0,
            freezes=True,
            own_serving_g=serving.grams,
            others_per_g=banded_per_g(serving, polyol_share),
            waits_in=box.place,
        )
    put = []
    for slot in slots:
        chosen = found.get((slot.eater_key, str(slot.day), slot.slot_key)) if slot.fixed is None else None
        fixed = None if chosen is None else (dishes[chosen].key, boxes[chosen].grams)
        put.append(slot if fixed is None else replace(slot, fixed=fixed, fixed_session=IN_HOUSE, dishes=()))
    with_box = {(eater, int(day)) for eater, day, _ in found}
    own = tuple(replace(d, kind=f"{d.kind} {d.day}") if (d.eater_key, d.day) in with_box else d for d in days)
    return Offered(tuple(put), own, tuple(dishes.values()))
