"""What a planned batch means at stove and shop: vessels, pieces, packs, the least it can be, and what is over."""

from dataclasses import replace

import pytest

from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.core.week.batch_notes import BatchNote, batch_notes
from goodcrate.core.week.placings import PlannedBatch, PlannedPortion
from goodcrate.formats.reference import reference_foods
from tests.core.dishes import BLENDER, POT, component


def planned(made: Component, factor: float, boxes: int) -> PlannedBatch:
    grams = expected_cooked_weight(made).grams * factor
    return PlannedBatch(
        "s", "r", made.key, factor, grams, tuple(PlannedPortion(str(n), grams / boxes) for n in range(boxes))
    )


def notes_of(made: Component, factor: float, boxes: int, *vessels: Vessel) -> dict[str, BatchNote]:
    return {n.kind: n for n in batch_notes(made, planned(made, factor, boxes), vessels)}


def test_too_much_for_the_pot_is_split_and_too_little_for_the_beaker_makes_more() -> None:
    stew = replace(component("pot", "swede_raw 1500"), vessel="pot")
    assert notes_of(stew, 1, 6, POT) == {}
    assert "2 fillings" in notes_of(stew, 2, 15, POT)["vessel"].sentence
    dip = replace(component("dip", "quark 200"), vessel="blender")
    note = notes_of(dip, 0.5, 2, BLENDER)["minimum"]
    assert note.surplus_g == pytest.approx(100 * (300 / (100 / 1.05) - 1), rel=0.08)
    assert note.surplus_portions == pytest.approx(note.surplus_g / 50)


def test_eggs_are_made_whole_and_the_surplus_is_said() -> None:
    egg = reference_foods()["egg_whole_raw"]
    assert egg.each_g is not None
    line = IngredientLine("e", egg, amount_of(3 * egg.each_g, "count"))
    slice_ = Component("slice", "slice", (line,), None)
    assert notes_of(slice_, 1, 4) == {}
    note = notes_of(slice_, 1.15, 4)["pieces"]  # 3.45 eggs
    assert note.sentence.startswith("3.5 eggs asked for: 4 whole ones") or note.sentence.startswith("3.4 eggs")
    assert note.surplus_g == pytest.approx(expected_cooked_weight(slice_).grams * (4 - 3.45) / 3, rel=1e-6)
    assert "% of a portion" in note.sentence
    assert "freeze them" in notes_of(slice_, 1.05, 12)["pieces"].sentence


def test_an_open_pack_that_spoils_is_named_and_an_open_bag_of_grain_is_not() -> None:
    quark = replace(reference_foods()["quark"], pack_g=250.0)
    made = Component("pot", "pot", (IngredientLine("q", quark, amount_of(200, "weighed")),), None)
    assert "2.4 packs of quark (250 g): 150 g stay" in notes_of(made, 3, 6)["pack"].sentence
    assert notes_of(made, 2.5, 4) == {}  # two whole packs
    barley = next(f for f in reference_foods().values() if f.keep_group == "pantry" and f.group == "grain" and f.pack_g)
    dry = Component("grain", "grain", (IngredientLine("b", barley, amount_of(300, "weighed")),), None)
    assert notes_of(dry, 1, 4) == {}
