"""Targets worked out by each way, with every caution and floor of the job's rules."""

from dataclasses import replace

import pytest

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import Composition, Tally
from goodcrate.core.targets.body import Blocks, Body
from goodcrate.core.targets.cautions import CONDITIONS, low_energy_caution
from goodcrate.core.targets.day_target import NutrientBand, Standing, banded_amount, judge_band
from goodcrate.core.targets.target_ways import DayWay, Person, WorkedDay, work_out

OSKAR = Person("male", Body("male", 41, 182, 84), 84, "light", Blocks(520, 200))
TYPED = DayWay(energy_kcal=1950, protein_g=120)


def cautions(done: WorkedDay) -> str:
    return " / ".join(c.text for c in done.cautions)


def test_each_way_gives_its_figures_and_says_where_they_come_from() -> None:
    typed = work_out(TYPED, Person())
    assert (typed.energy.value, typed.protein.value, typed.cautions) == (1950, 120, ())
    assert typed.energy.lines[0].source == "your own figure"
    blocks = work_out(replace(TYPED, energy_way="blocks", meals=3, snacks=2), OSKAR)
    assert blocks.energy.value == 1960
    body = work_out(DayWay("body", change_pct=-10, protein_way="per_kg", protein_value=1.6), OSKAR)
    assert (body.energy.value, body.protein.value) == (2200, 134)
    split = work_out(DayWay("typed", 2000, protein_way="share", protein_value=25, fat_pct=30), OSKAR)
    assert split.protein.value == 125
    assert split.bands == {"fat_g": (57, 77), "net_carbohydrate_g": (191, 259)}
    alone = work_out(DayWay("typed", 2000, protein_way="share", protein_value=25), OSKAR)
    assert (alone.protein.value, alone.bands) == (125, {})


@pytest.mark.parametrize(
    ("way", "person", "field"),
    [
        (DayWay("body"), Person("male"), "energy_way"),
        (DayWay("blocks", meals=3), Person(), "energy_way"),
        (DayWay("blocks"), OSKAR, "meal_blocks"),
        (DayWay("magic", 2000), OSKAR, "energy_way"),
        (DayWay("body", change_pct=-60), OSKAR, "energy_change_pct"),
        (DayWay("typed", 2000, protein_way="per_kg", protein_value=1.6), Person(), "protein_way"),
        (DayWay("typed", 2000, protein_way="magic"), OSKAR, "protein_way"),
        (DayWay("typed", 2000, protein_way="share", protein_value=25, fat_pct=90), OSKAR, "split"),
    ],
)
def test_what_keeps_a_figure_away_is_named_at_its_field(way: DayWay, person: Person, field: str) -> None:
    with pytest.raises(InvalidInputs) as caught:
        work_out(way, person)
    assert [f.field for f in caught.value.faults] == [field]


@pytest.mark.parametrize("condition", list(CONDITIONS))
def test_with_a_condition_nothing_is_computed_and_licensed_care_is_named(condition: str) -> None:
    person = replace(OSKAR, conditions=(condition,))
    with pytest.raises(InvalidInputs, match="doctor or registered dietitian"):
        work_out(DayWay("body", protein_g=100), person)
    with pytest.raises(InvalidInputs, match="we compute no target"):
        work_out(DayWay("typed", 2000, protein_way="per_lb", protein_value=0.7), person)
    done = work_out(TYPED, person)  # what a clinician gave can be typed
    assert CONDITIONS[condition] in cautions(done)
    assert all(c.source.endswith("follow your own clinician") for c in done.cautions)


@pytest.mark.parametrize(
    ("kcal", "sex", "says"),
    [
        (999, "female", "Under 1,000"),
        (1150, "female", "Under 1,200"),
        (1200, "female", ""),
        (1450, "female", ""),
        (1450, "male", "Under 1,500 kcal a day is low:"),
        (1450, "", "low for men"),
        (1500, "male", ""),
    ],
)
def test_floors_by_sex(kcal: float, sex: str, says: str) -> None:
    caution = low_energy_caution(kcal, sex)
    assert says in (caution.text if caution else "")
    assert (caution is None) == (says == "")


def test_a_large_deficit_and_a_fast_loss_are_cautioned_also_when_the_target_is_typed() -> None:
    needed = 1777.5 * 1.375
    assert "more than 25 %" not in cautions(work_out(replace(TYPED, energy_kcal=needed * 0.751), OSKAR))
    assert "more than 25 %" in cautions(work_out(replace(TYPED, energy_kcal=needed * 0.749), OSKAR))
    small = Person("female", Body("female", 30, 165, 50), 50, "very_heavy")
    assert "of your weight, more than 1 %" in cautions(work_out(DayWay("typed", 1700, protein_g=80), small))
    assert cautions(work_out(TYPED, replace(OSKAR, body=None))) == ""


def test_much_protein_and_a_kidney_disease() -> None:
    assert "which is a lot" in cautions(work_out(replace(TYPED, protein_g=170), OSKAR))
    assert "which is a lot" not in cautions(work_out(replace(TYPED, protein_g=167), OSKAR))
    ill = cautions(work_out(TYPED, replace(OSKAR, conditions=("kidney",))))
    assert "can harm diseased kidneys" in ill


def test_other_bands_are_judged_in_whole_units_and_refused_when_they_cannot_be() -> None:
    fibre, sodium = NutrientBand("fibre_g", 30), NutrientBand("sodium_mg", None, 2300)
    assert judge_band(29.5, fibre).standing == Standing.INSIDE
    assert (judge_band(24.4, fibre).standing, judge_band(24.4, fibre).by) == (Standing.SHORT, 6)
    assert (judge_band(2400.4, sodium).standing, judge_band(2400.4, sodium).by) == (Standing.OVER, 100)
    for key, low, high in (("iron_mg", 1, 2), ("fat_g", 90, 60), ("fibre_g", -1, None), ("sodium_mg", 0, 99_999)):
        with pytest.raises(InvalidInput):
            NutrientBand(key, low, high)


def test_net_carbohydrate_of_a_day_follows_the_households_habit() -> None:
    sweet = Composition.of({"carbohydrate_g": 60, "fibre_g": 10, "polyols_g": 20})
    tally = Tally.of(sweet, 200)
    assert banded_amount(tally, "net_carbohydrate_g", 0.5) == pytest.approx(80)
    assert banded_amount(tally, "net_carbohydrate_g", 1.0) == pytest.approx(60)
    assert banded_amount(tally, "carbohydrate_g", 0.5) == pytest.approx(120)
