"""Energy and protein from body size, by hand; blocks; and where a target is not ours to compute."""

import pytest

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.targets.body import (
    Blocks,
    Body,
    Split,
    chosen_energy,
    needed_energy,
    protein_per_weight,
    resting_energy,
    weekly_loss_kg,
)

OSKAR = Body("male", 41, 182, 84)
MAREN = Body("female", 35, 170, 66)


def test_energy_at_rest_by_hand() -> None:
    assert resting_energy(OSKAR).value == pytest.approx(840 + 1137.5 - 205 + 5)
    assert resting_energy(MAREN).value == pytest.approx(660 + 1062.5 - 175 - 161)
    line = resting_energy(MAREN).lines[0]
    assert line.working == "10 × 66 kg + 6.25 × 170 cm − 5 × 35 − 161"
    assert (line.result, "Mifflin" in line.source) == ("1,387 kcal", True)  # 1,386.5


def test_what_keeps_the_weight_and_a_chosen_share_of_it() -> None:
    needed = needed_energy(OSKAR, "light").value
    assert needed == pytest.approx(1777.5 * 1.375)
    cut = chosen_energy(OSKAR, "light", -20)
    assert cut.value == round(needed * 0.8 / 10) * 10 == 1960
    assert [line.what for line in cut.lines][-2:] == ["deficit you chose", "predicted loss a week"]
    assert cut.lines[-2].working == "−20 %"
    assert cut.lines[-1].result == "0.44 kg"
    assert weekly_loss_kg(needed, 1960) == pytest.approx((needed - 1960) * 7 / 7700)
    more = chosen_energy(OSKAR, "light", 10)
    assert more.lines[-1].what == "surplus you chose"
    assert weekly_loss_kg(needed, more.value) == 0
    assert all(line.source for line in cut.lines if line.what not in ("deficit you chose",))
    for change, activity in ((-41, "light"), (60, "light"), (0, "flying")):
        with pytest.raises(InvalidInput):
            chosen_energy(OSKAR, activity, change)


def test_protein_per_kilogram_and_per_pound_agree() -> None:
    assert protein_per_weight(84, 1.6, "kg").value == 134
    assert protein_per_weight(84, 0.8, "lb").value == round(0.8 * 84 / 0.45359237) == 148
    for grams, unit in ((9, "kg"), (0.1, "kg"), (3, "lb"), (1, "stone")):
        with pytest.raises(InvalidInput):
            protein_per_weight(84, grams, unit)


def test_a_split_gives_grams_that_add_up_to_the_energy() -> None:
    split = Split(25, 30, 45)
    fat, carbohydrate = split.grams(2000)
    assert split.protein_g(2000).value == 125
    assert 125 * 4 + fat * 9 + carbohydrate * 4 == pytest.approx(2000)
    for shares in ((25, 30, 40), (110, -10, 0)):
        with pytest.raises(InvalidInput, match="shares come to"):
            Split(*shares)


def test_blocks_make_days_and_boxes() -> None:
    blocks = Blocks(520, 200)
    assert blocks.day(3, 2).value == 1960
    assert blocks.sums(1000) == (200, 400, 520, 600, 720, 800, 920, 1000)
    assert [blocks.words(kcal) for kcal in (515, 730, 1040, 405)] == [
        "1 meal",
        "1 meal + 1 snack",
        "2 meals",
        "2 snacks",
    ]
    for meals, snacks in ((0, 0), (13, 0), (-1, 3)):
        with pytest.raises(InvalidInput):
            blocks.day(meals, snacks)
    with pytest.raises(InvalidInput):
        Blocks(520, 20)


@pytest.mark.parametrize(
    ("body", "field"),
    [
        (("male", 17, 180, 70), "age_years"),
        (("", 30, 180, 70), "sex"),
        (("female", 30, 80, 70), "height_cm"),
        (("female", 30, 170, 20), "weight_kg"),
    ],
)
def test_bodies_the_equation_was_not_made_for_are_refused(body: tuple[str, float, float, float], field: str) -> None:
    with pytest.raises(InvalidInputs) as caught:
        Body(*body)
    assert [f.field for f in caught.value.faults] == [field]
    if field == "age_years":
        assert "Under 18 we compute nothing" in str(caught.value)
