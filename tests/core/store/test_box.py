"""A box and its log: whatever happened to it, and was taken back, decides where it is and what is in it."""

from dataclasses import replace
from datetime import date, datetime
from itertools import count

import pytest

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.recipe import serving_of
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.core.store.box import (
    EATEN,
    EVENTS,
    FROZEN,
    GIVEN_AWAY,
    GONE,
    MOVED,
    PACKED,
    PART_EATEN,
    PLANNED,
    SWAPPED,
    TAKEN_OUT,
    THAWED,
    THERE,
    THROWN_AWAY,
    UNDONE,
    Box,
    BoxEvent,
    Content,
    check_event,
    contents_tally,
    standing,
)
from tests.core.dishes import turkey_pot

AT = datetime(2026, 11, 22, 17)
_keys = count()
PLAIN = Box("box", "soup", (Content("pot", 300.0),), date(2026, 11, 22))


def event(kind: str, **facts: object) -> BoxEvent:
    return BoxEvent(f"event {next(_keys)}", kind, AT, **facts)  # type: ignore[arg-type]


def after(*events: BoxEvent, box: Box = PLAIN) -> Box:
    """The box with these events written down one after the other, each allowed."""
    for one in events:
        check_event(box, one)
        box = replace(box, log=(*box.log, one))
    return box


def test_a_box_is_planned_then_there_then_gone() -> None:
    assert (PLAIN.state, PLAIN.place, PLAIN.grams) == (PLANNED, "", 300)
    there = after(event(PACKED, place="fridge"))
    assert (there.state, there.place, there.grams) == (THERE, "fridge", 300)
    for kind in GONE:
        gone = after(event(PACKED), event(kind, why="spoilt"))
        assert (gone.state, gone.grams) == (kind, 0)
        assert gone.eaten_g == (300 if kind == EATEN else 0)


def test_where_it_is_follows_what_happened_last() -> None:
    box = after(event(PACKED, place="fridge"), event(FROZEN))
    assert box.place == "freezer"
    box = after(event(THAWED), box=box)
    assert box.place == "fridge"
    box = after(event(MOVED, place="bag"), box=box)
    assert box.place == "bag"
    assert after(event(UNDONE, undoes=box.log[-1].key), box=box).place == "fridge"


def test_taking_back_is_an_event_and_can_be_taken_back() -> None:
    box = after(event(PACKED), event(GIVEN_AWAY))
    back = after(event(UNDONE, undoes=box.log[-1].key), box=box)
    assert back.state == THERE
    assert len(back.log) == 3
    again = after(event(UNDONE, undoes=back.log[-1].key), box=back)
    assert again.state == GIVEN_AWAY
    assert [e.kind for e in standing(again.log)] == [PACKED, GIVEN_AWAY]


def test_eaten_in_part_leaves_the_rest() -> None:
    box = after(event(PACKED), event(PART_EATEN, grams=120.0), event(PART_EATEN, grams=80.0))
    assert (box.eaten_g, box.grams, box.state) == (200, 100, THERE)
    with pytest.raises(InvalidInput, match="There are 100 g in it"):
        after(event(PART_EATEN, grams=100.0), box=box)


def test_whose_it_is_follows_the_last_swap() -> None:
    mine = replace(PLAIN, meal_key="monday")
    assert mine.for_meal == "monday"
    assert PLAIN.for_meal is None
    swapped = after(event(SWAPPED, meal_key="tuesday"), box=mine)
    assert swapped.for_meal == "tuesday"
    assert after(event(SWAPPED), box=swapped).for_meal is None


GLASS = Vessel("jar", "glass jar", "box", 400, stands=frozenset({"microwave"}))


@pytest.mark.parametrize(
    ("box", "next_event", "why"),
    [
        (PLAIN, event("lent"), "nothing that happens"),
        (PLAIN, event(EATEN), "not in the house"),
        (after(event(PACKED)), event(PACKED), "packed already"),
        (after(event(PACKED), event(EATEN)), event(TAKEN_OUT), "not in the house"),
        (after(event(PACKED)), event(THROWN_AWAY), "Why was it thrown away"),
        (after(event(PACKED)), event(PART_EATEN), "There are 300 g"),
        (after(event(PACKED)), event(UNDONE, undoes="never was"), "nothing to undo"),
        (replace(after(event(PACKED)), container=GLASS), event(FROZEN), "must not go into the freezer"),
        (replace(after(event(PACKED)), container=GLASS), event(MOVED, place="freezer"), "must not go into the freezer"),
    ],
)
def test_what_cannot_happen_is_refused(box: Box, next_event: BoxEvent, why: str) -> None:
    with pytest.raises(InvalidInput, match=why):
        check_event(box, next_event)


def test_every_kind_of_event_can_happen_to_some_box() -> None:
    allowed = set[str]()
    packed = after(event(PACKED))
    for kind in EVENTS:
        for box in (PLAIN, packed):
            try:
                check_event(box, event(kind, grams=10.0, why="old", undoes=packed.log[0].key))
                allowed.add(kind)
            except InvalidInput:
                pass
    assert allowed == set(EVENTS)


def test_what_is_in_it_counts_by_component_and_else_as_the_dish() -> None:
    recipe = turkey_pot()
    serving = serving_of(recipe)
    first, second = serving.parts
    both = contents_tally(
        recipe, (Content(first.component.key, 500.0, first.grams), Content(second.component.key, second.grams))
    )
    assert both.amount("energy_kcal").value == pytest.approx(serving.tally.amount("energy_kcal").value)
    whole = contents_tally(recipe, (Content(None, serving.tally.grams / 2),))
    assert whole.amount("protein_g").value == pytest.approx(serving.tally.amount("protein_g").value / 2)
    only = contents_tally(recipe, (Content(first.component.key, first.grams),))
    assert only.amount("energy_kcal").value == pytest.approx(first.tally.amount("energy_kcal").value)
    assert only.amount("energy_kcal").value < both.amount("energy_kcal").value
