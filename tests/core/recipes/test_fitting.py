"""Fitting one serving: checked against an independent search, and against its own promises."""

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.tune import Aim, Fit, FitProblem, Limits, about, fit_serving, usual_limits
from tests.core.dishes import component, ingredient, turkey_pot

ABOUT = (about("energy_kcal", 520), Aim("protein_g", low=38))


def check_fit(problem: FitProblem, fit: Fit) -> list[str]:
    """What is wrong with a fit, from the answer alone."""
    wrong = []
    limits = {x.line_key: x for x in problem.limits}
    before = {x.key: x.amount.grams for x in problem.recipe.lines}
    for line in fit.recipe.lines:
        grams, limit = line.amount.grams, limits.get(line.key)
        if limit is None and grams != before[line.key]:
            wrong.append(f"{line.key} moved and was not named")
        if limit is not None and not limit.low_g - 1e-6 <= grams <= limit.high_g + 1e-6:
            wrong.append(f"{line.key} left its limits")
    tally = serving_of(fit.recipe).tally
    for aim in problem.aims:
        value = tally.amount(aim.nutrient).value
        said = any(a is aim for a, _ in fit.misses)
        if (aim.miss(value) > 0.004) != said:
            wrong.append(f"{aim.nutrient} is {value:g}, and the fit says otherwise")
    return wrong


def test_a_serving_is_fitted_with_the_least_change() -> None:
    problem = FitProblem(turkey_pot(), ABOUT, usual_limits(turkey_pot(), ["pot.0", "pot.4", "mash.0"]))
    fit = fit_serving(problem)
    assert fit.is_met
    assert check_fit(problem, fit) == []
    assert 504 <= fit.after["energy_kcal"] <= 536
    assert fit.after["protein_g"] >= 38
    assert fit.before["energy_kcal"] == pytest.approx(serving_of(turkey_pot()).tally.amount("energy_kcal").value)


@settings(max_examples=25)
@given(st.integers(250, 900), st.integers(10, 70), st.lists(st.sampled_from(range(5)), min_size=1, unique=True))
def test_fits_keep_their_promises(kcal: int, protein: int, movable: list[int]) -> None:
    recipe = turkey_pot()
    keys = [x.key for x in recipe.lines if x.food.group not in ("spice", "condiment")][:5]
    problem = FitProblem(
        recipe,
        (about("energy_kcal", kcal), Aim("protein_g", low=protein)),
        usual_limits(recipe, [keys[n] for n in movable]),
    )
    assert check_fit(problem, fit_serving(problem)) == []


def test_no_grid_point_misses_less() -> None:
    """Two lines on a 20 g grid: none of the points comes nearer than the fit does."""
    recipe = turkey_pot()
    limits = (Limits("pot.0", 600, 1400), Limits("mash.1", 0, 600))
    aims = (Aim("energy_kcal", high=330), Aim("protein_g", low=45))  # cannot both be met
    fit = fit_serving(FitProblem(recipe, aims, limits))
    assert not fit.is_met

    def miss(r: Recipe) -> float:
        tally = serving_of(r).tally
        return sum(a.miss(tally.amount(a.nutrient).value) for a in aims)

    best = miss(fit.recipe)
    for meat_g, potato_g in product(range(600, 1401, 20), range(0, 601, 20)):
        pot, mash = recipe.components
        from dataclasses import replace

        moved = [replace(x, amount=x.amount.scaled_to(meat_g)) if x.key == "pot.0" else x for x in pot.lines]
        boiled = [replace(x, amount=x.amount.scaled_to(potato_g)) if x.key == "mash.1" else x for x in mash.lines]
        other = replace(recipe, components=(pot.with_lines(moved), mash.with_lines(boiled)))
        assert miss(other) >= best - 0.002


def test_eggs_stay_whole() -> None:
    egg = ingredient("egg", "egg_whole_raw", 102, "count")
    bake = component("bake", "quark 500, oat_flour 120")
    recipe = Recipe("r", "Bake", 2, (bake.with_lines([*bake.lines, egg]),))
    fit = fit_serving(FitProblem(recipe, (Aim("protein_g", low=60),), usual_limits(recipe, ["egg", "bake.0"])))
    moved = {m.line_key: m.after_g for m in fit.moves}
    assert moved["egg"] % 51 == 0
    assert fit.is_met


@settings(max_examples=60)
@given(st.integers(250, 700), st.integers(15, 60), st.integers(60, 300))
def test_no_whole_eggs_with_whole_grams_miss_less(kcal: int, protein: int, egg_g: int) -> None:
    """Against every number of eggs with every whole gram of quark: what can be met is met, and nothing misses less."""
    egg = ingredient("egg", "egg_whole_raw", egg_g, "count")
    quark = ingredient("quark", "quark", 250)
    recipe = Recipe("r", "Bake", 2, (component("bake", "quark 250").with_lines([egg, quark]),))
    aims = (about("energy_kcal", kcal), Aim("protein_g", low=protein))
    limits = (Limits("egg", 51, 306), Limits("quark", 100, 400))
    fit = fit_serving(FitProblem(recipe, aims, limits))
    assert {m.line_key: m.after_g for m in fit.moves}["egg"] % 51 == 0

    def miss(eggs: float, quark_g: float) -> float:
        figures = [(egg.food.composition, eggs), (quark.food.composition, quark_g)]
        sums = {a.nutrient: sum((c.get(a.nutrient) or 0) * g / 200 for c, g in figures) for a in aims}
        return sum(a.miss(sums[a.nutrient]) for a in aims)

    best = min(miss(51 * n, q) for n in range(1, 7) for q in range(100, 401))
    grams = {m.line_key: m.after_g for m in fit.moves}
    assert miss(grams["egg"], grams["quark"]) <= best + 1e-6


def test_what_cannot_be_asked_is_refused_all_at_once() -> None:
    recipe = turkey_pot()
    with pytest.raises(InvalidInputs) as caught:
        fit_serving(
            FitProblem(
                recipe,
                (Aim("energy_kcal", 600, 500), Aim("taste", 1)),
                (Limits("pot.0", 900, 100), Limits("nothing", 0, 1)),
            )
        )
    assert {f.field for f in caught.value.faults} == {"fit-energy_kcal", "fit-taste", "fit-pot.0", "fit-nothing"}
    with pytest.raises(InvalidInputs, match="No ingredient may move"):
        fit_serving(FitProblem(recipe, ABOUT, ()))
