"""What a day comes to at the table: boxes eaten, in part, swapped and left, and what was eaten besides."""

from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.nutrients import KEYS, Composition, Tally
from goodcrate.core.store.at_table import LEFT, PART, TO_COME, DayAtTable, OffPlan, eaten_by, plates_of
from goodcrate.core.store.box import (
    EATEN,
    GIVEN_AWAY,
    PACKED,
    PART_EATEN,
    SWAPPED,
    THROWN_AWAY,
    UNDONE,
    Box,
    BoxEvent,
    Content,
)
from goodcrate.core.store.off_plan import FREE_ERROR, read_free_energy

START = datetime(2026, 11, 22, 16, 0, tzinfo=UTC)


def tally(kcal: float, grams: float = 400.0) -> Tally:
    figures = tuple(kcal / grams * 100 if key == "energy_kcal" else 5.0 for key in KEYS)
    return Tally.of(Composition(figures), grams)


def box(meal: str, *events: tuple[str, dict[str, Any]], grams: float = 400.0) -> Box:
    log = [BoxEvent(f"{meal}-packed", PACKED, START)]
    for n, (kind, fields) in enumerate(events):
        log.append(BoxEvent(f"{meal}-{n}", kind, START + timedelta(hours=n + 1), **fields))
    return Box(f"box-{meal}", "stew", (Content(None, grams),), date(2026, 11, 22), meal, tuple(log))


def plates(*boxes: Box, meals: tuple[str, ...] = ("mon", "tue")) -> dict[str, Any]:
    return plates_of(boxes, {b.key: tally(800) for b in boxes}, meals)


def test_nothing_said_is_all_to_come() -> None:
    found = plates(box("mon"), box("tue"))
    assert [p.fate for p in found.values()] == [TO_COME, TO_COME]
    assert found["mon"].ahead.amount("energy_kcal").value == pytest.approx(800)
    assert found["mon"].eaten.grams == 0


def test_eaten_in_part_counts_by_its_grams_and_ends_the_meal() -> None:
    found = plates(box("mon", (PART_EATEN, {"grams": 100.0, "meal_key": "mon"})), box("tue"))
    assert found["mon"].fate == PART
    assert found["mon"].eaten.amount("energy_kcal").value == pytest.approx(200)
    assert found["mon"].ahead.grams == 0
    assert found["mon"].said_by == "mon-0"


def test_two_swapped_boxes_stand_on_each_others_plates() -> None:
    first = box("mon", (SWAPPED, {"meal_key": "tue"}))
    second = box("tue", (SWAPPED, {"meal_key": "mon"}))
    found = plates_of([first, second], {first.key: tally(800), second.key: tally(500)}, ["mon", "tue"])
    assert found["mon"].ahead.amount("energy_kcal").value == pytest.approx(500)
    assert found["mon"].moved_from == "tue"
    assert found["tue"].ahead.amount("energy_kcal").value == pytest.approx(800)


def test_a_rest_that_goes_to_another_day_stays_eaten_where_it_was() -> None:
    """100 g of Monday's box on Monday, the rest on Tuesday in place of Tuesday's own."""
    monday = box(
        "mon",
        (PART_EATEN, {"grams": 100.0, "meal_key": "mon"}),
        (SWAPPED, {"meal_key": "tue"}),
        (EATEN, {"meal_key": "tue"}),
    )
    tuesday = box("tue", (SWAPPED, {"meal_key": ""}))
    found = plates(monday, tuesday)
    assert found["mon"].eaten.amount("energy_kcal").value == pytest.approx(200)
    assert found["tue"].eaten.amount("energy_kcal").value == pytest.approx(600)
    assert found["tue"].fate == EATEN


@pytest.mark.parametrize(
    ("event", "fate"),
    [
        ((SWAPPED, {"meal_key": ""}), LEFT),
        ((GIVEN_AWAY, {}), GIVEN_AWAY),
        ((THROWN_AWAY, {"why": "too old"}), THROWN_AWAY),
    ],
)
def test_what_is_not_eaten_gives_nothing_and_says_what_an_undoing_takes_back(
    event: tuple[str, dict[str, Any]], fate: str
) -> None:
    plate = plates(box("mon", event), box("tue"))["mon"]
    assert (plate.fate, plate.eaten.grams, plate.ahead.grams) == (fate, 0, 0)
    assert plate.said_by == "mon-0"
    undone = plates(box("mon", event, (UNDONE, {"undoes": "mon-0"})), box("tue"))["mon"]
    assert undone.fate == TO_COME
    assert undone.ahead.amount("energy_kcal").value == pytest.approx(800)


EVENTS = st.lists(
    st.tuples(st.sampled_from([PART_EATEN, EATEN, SWAPPED]), st.sampled_from(["mon", "tue", ""]), st.integers(1, 150)),
    max_size=6,
)


@given(EVENTS)
def test_no_more_is_eaten_of_a_box_than_was_packed(events: list[tuple[str, str, int]]) -> None:
    log: list[tuple[str, dict[str, Any]]] = []
    left = 400.0
    for kind, meal, grams in events:
        if kind == PART_EATEN and grams < left:
            left -= grams
            log.append((kind, {"meal_key": meal, "grams": float(grams)}))
        elif kind == SWAPPED:
            log.append((kind, {"meal_key": meal}))
        elif kind == EATEN:
            log.append((kind, {"meal_key": meal}))
            break
    one = box("mon", *log)
    eaten = eaten_by(one)
    assert sum(eaten.values()) == pytest.approx(one.packed_g - one.grams)
    found = plates(one, box("tue"))
    by_plates = sum(p.eaten.grams for p in found.values()) + eaten.get("", 0.0)
    assert by_plates == pytest.approx(sum(eaten.values()))


def test_a_day_sums_what_was_eaten_is_to_come_and_came_besides() -> None:
    found = plates(box("mon", (EATEN, {"meal_key": "mon"})), box("tue"))
    cake = read_free_energy("birthday cake, about 350 kcal, 5 g protein")
    assert cake is not None
    day = DayAtTable(date(2026, 11, 23), tuple(found.values()), (OffPlan("c", START.date(), "cake", cake.tally),))
    assert day.eaten.amount("energy_kcal").value == pytest.approx(1150)
    assert day.whole.amount("energy_kcal").value == pytest.approx(1950)
    assert day.whole.amount("energy_kcal").standard_error == pytest.approx(350 * FREE_ERROR)
    assert day.whole.amount("fibre_g").is_at_least


@pytest.mark.parametrize(
    ("typed", "kcal", "protein"),
    [
        ("350 kcal", 350, None),
        ("cake, ~ 350 kcal", 350, None),
        ("bought soup 420 kcal 18 g protein", 420, 18),
        ("420,5 kcal and 18 g of protein.", 420.5, 18),
    ],
)
def test_energy_without_a_food_is_read(typed: str, kcal: float, protein: float | None) -> None:
    found = read_free_energy(typed)
    assert found is not None
    assert (found.kcal, found.protein_g) == (kcal, protein)
    assert found.tally.amount("protein_g").is_unknown is (protein is None)


@pytest.mark.parametrize("typed", ["2 oat biscuits, 40 g", "0 kcal", "9000 kcal", "kcal", "50 kcal of x"])
def test_what_is_no_free_energy_is_left_to_the_foods(typed: str) -> None:
    assert read_free_energy(typed) is None
