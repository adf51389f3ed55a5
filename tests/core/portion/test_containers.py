"""Containers: as many boxes as can be get one, with the least air, against every way there is."""

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.portion.containers import APART_ML, ToPack, fits, pack_into
from goodcrate.core.recipes.vessels import ASSUMED_G_PER_ML, BOX, Vessel, container_steps, holds_g

LARGE = Vessel("large", "750 ml box", BOX, 750, count=2, compartments=2, stands=frozenset({"freezer"}))
SMALL = Vessel("small", "500 ml box", BOX, 500, count=1, stands=frozenset())
JAR = Vessel("jar", "250 ml jar", BOX, 250, count=3)


def test_a_box_keeps_room_to_freeze() -> None:
    assert holds_g(LARGE) == pytest.approx(750 * 0.9 * 0.9)
    assert fits(ToPack("a", 607), LARGE)
    assert not fits(ToPack("a", 608), LARGE)
    assert not fits(ToPack("a", 300, is_frozen=True), SMALL)
    assert fits(ToPack("a", 150, is_frozen=True), JAR), "nobody said what the jar stands"


def test_so_many_portions_can_be_larger_than_each_size() -> None:
    assert [(round(g, 3), more) for g, more in container_steps([LARGE, SMALL, JAR])] == [(202.5, 3), (405, 2)]
    assert container_steps([LARGE]) == ()


def test_ten_large_boxes_take_ten_large_portions() -> None:
    ten = Vessel("large", "750 ml box", BOX, 750, count=10)
    boxes = [ToPack(str(n), 560) for n in range(12)] + [ToPack("small", 200), ToPack("huge", 900)]
    packing = pack_into(boxes, [ten, SMALL])
    assert sum(v.key == "large" for v in packing.by_key.values()) == 10
    assert packing.by_key["small"].key == "small"
    assert len(packing.without) == 2
    assert packing.too_large == ("huge",)


def test_what_is_kept_apart_has_a_pot_of_its_own_and_no_meal_goes_into_one() -> None:
    pot = Vessel("pot", "60 ml pot", BOX, 60, count=2)
    dressings = [ToPack(f"{n}/dressing", 40, is_small=True) for n in range(3)]
    packing = pack_into([*dressings, ToPack("0", 40)], [pot, JAR])
    assert sorted(v.key for v in packing.by_key.values()) == ["jar", "jar", "pot", "pot"]
    assert packing.by_key["0"].key == "jar"
    assert pack_into([ToPack("0", 40)], [pot]).too_large == ("0",)


def test_a_container_is_free_again_when_its_meal_is_eaten() -> None:
    boxes = [ToPack("mon", 500, since=0, until=1), ToPack("tue", 500, since=0, until=4)]
    later = [ToPack("wed", 500, since=2, until=5), ToPack("thu", 500, since=2, until=6)]
    packing = pack_into([*boxes, *later], [LARGE])
    assert set(packing.by_key) in ({"mon", "tue", "wed"}, {"mon", "tue", "thu"})
    assert len(packing.without) == 1


def test_a_kitchen_that_named_no_boxes_is_not_short_of_any() -> None:
    assert pack_into([ToPack("a", 500)], [Vessel("pot", "pot", "pot", 4000)]).without == ()


boxes_drawn = st.lists(st.tuples(st.integers(60, 700), st.integers(1, 3), st.booleans()), min_size=1, max_size=5)


@given(boxes_drawn)
def test_no_way_gives_more_boxes_a_container_or_less_air(drawn: list[tuple[int, int, bool]]) -> None:
    boxes = [ToPack(str(n), g, parts, frozen) for n, (g, parts, frozen) in enumerate(drawn)]
    kinds = [LARGE, SMALL, JAR]

    def worth(way: tuple[Vessel | None, ...]) -> tuple[int, float] | None:
        if any(sum(v is kind for v in way) > kind.count for kind in kinds):
            return None
        air = 0
        for box, kind in zip(boxes, way, strict=True):
            if kind is not None:
                if not fits(box, kind):
                    return None
                air += max(0, round(kind.volume_ml - box.grams / ASSUMED_G_PER_ML))
                air += APART_ML * max(0, box.parts - kind.compartments)
        return sum(kind is None for kind in way), air

    every = [w for way in product([*kinds, None], repeat=len(boxes)) if (w := worth(way)) is not None]
    packing = pack_into(boxes, kinds)
    assert worth(tuple(packing.by_key.get(box.key) for box in boxes)) == min(every)
