"""View models of the drawings and the writing of figures."""

from datetime import date

import pytest

from goodcrate.core.ground.nutrients import Composition, Measured, Tally
from goodcrate.core.ground.writing import TODAY, day_month, signed, span
from goodcrate.core.portion.week_outcome import BoxPart
from goodcrate.core.targets.day_target import DayTarget, NutrientBand
from goodcrate.web import figures
from goodcrate.web.drawing import draw_box, draw_fill, energy_bar, energy_beam, protein_beam
from goodcrate.web.tape import DoubtSource, Why, doubt_sentence

MEAT = Composition.of({"energy_kcal": 114, "protein_g": 20.8, "fat_g": 3.4, "carbohydrate_g": 0})


def part(name: str, grams: float) -> BoxPart:
    return BoxPart(name, name, grams, "planned", Tally.of(MEAT, grams))


def test_a_box_is_filled_to_scale_and_shared_by_grams() -> None:
    drawing = draw_box([part("stew", 300), part("mash", 100)])
    assert drawing.level == 0.5
    assert [(f.x_pct, f.width_pct, f.texture) for f in drawing.fills] == [(0, 75, "protein"), (75, 25, "protein")]
    assert (drawing.height(20), drawing.top(20)) == (10, 10)
    assert draw_box([part("a pail", 5000)]).level == 1.0
    assert draw_box([]).fills == ()
    assert draw_fill(50, 200, "fat").level == 0.25


@pytest.mark.parametrize(
    ("total", "words", "marker"),
    [
        (2432, "in band, −18", 47.55),
        (2280, "short by 97", 26.87),
        (2564, "over by 40", 65.51),
        (200, "short by 2,177", 2),
    ],
)
def test_the_beam_says_in_words_what_it_draws(total: float, words: str, marker: float) -> None:
    beam = energy_beam(total, DayTarget(2450, 150))
    assert beam.words == words
    assert beam.marker_pct == pytest.approx(marker, abs=0.9)
    assert (beam.low_pct, beam.high_pct) == (40, 60)


def test_the_protein_beam_is_a_floor() -> None:
    inside, short = protein_beam(154, DayTarget(2450, 150)), protein_beam(146, DayTarget(2450, 150))
    assert (inside.words, inside.is_inside, inside.is_floor) == ("154 of 150 g", True, True)
    assert (short.words, short.is_inside) == ("4 g short", False)


def test_the_energy_bar_adds_up() -> None:
    bar = energy_bar(Tally.of(MEAT, 100))
    assert [s.texture for s in bar] == ["protein", "fat"]
    assert sum(s.width_pct for s in bar) == pytest.approx(100, abs=0.05)
    assert energy_bar(Tally()) == ()


def test_figures_are_written_for_people() -> None:
    assert figures.whole(172.5) == "173"
    assert figures.whole(-0.2) == "0"
    assert figures.whole(2450) == "2,450"
    assert [signed(x) for x in (-18, 0.2, 12)] == ["−18", "±0", "+12"]
    assert [figures.grams(x) for x in (0, 5.35, 9.96, 446)] == ["0", "5.4", "10", "446"]
    assert figures.plain(1.250) == "1.25"
    bands = (NutrientBand("fibre_g", 30), NutrientBand("sodium_mg", high=2300), NutrientBand("fat_g", 60, 92.5))
    assert [b.words for b in bands] == ["fibre at least 30 g", "sodium up to 2,300 mg", "fat 60–92.5 g"]
    assert span(date(2026, 11, 23), date(2026, 11, 29)) == "23–29 November"
    assert span(date(2026, 12, 28), date(2027, 1, 3)) == "28 December – 3 January"
    token = TODAY.set(date(2026, 11, 28))
    assert span(date(2026, 12, 28), date(2027, 1, 3)) == "28 December – 3 January 2027"
    assert day_month(date(2025, 11, 8)) == "8 November 2025"
    TODAY.reset(token)
    assert figures.measured(Measured(641.6, 13.8, 0, 500), "energy_kcal") == "642 ± 14 kcal"
    assert figures.measured(Measured(910, 0.1, 40, 500), "sodium_mg") == "at least 910 mg"
    assert figures.measured(Measured(0, 0, 500, 500), "iodine_ug") == "unknown"


def test_the_doubt_is_named_and_what_weighing_would_bring() -> None:
    oil = Tally.of(Composition.of({"energy_kcal": 900}), 40, 14, "oil")
    tally = oil + Tally.of(MEAT, 500, 0.6, "meat")
    sources = {"oil": DoubtSource("rapeseed oil", False), "meat": DoubtSource("turkey", True)}
    said = doubt_sentence(tally, sources)
    assert said == Why("Nearly all of the ± is rapeseed oil. Weigh it and this is 930 ± 1 kcal.")
    fixable = doubt_sentence(tally, sources | {"oil": DoubtSource("rapeseed oil", False, "/cook/here")})
    assert fixable is not None
    assert (fixable.fix, fixable.url) == ("Weigh it now", "/cook/here")
    weighed = doubt_sentence(oil, {"oil": DoubtSource("rapeseed oil", True)})
    assert weighed is not None
    assert "finer scale" in weighed.text
    assert doubt_sentence(Tally.of(MEAT, 500, 0.6, "meat"), sources) is None
