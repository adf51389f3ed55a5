"""Fitting a week: every answer checked by one who did not solve, against other sizes and against the bound."""

from dataclasses import replace
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.week.fit.fit_check import check_week_fit
from goodcrate.core.week.fit.fit_problem import FitDay, FitPortion, WeekFit, WeekFitProblem
from goodcrate.core.week.fit.week_fit import fit_week
from goodcrate.core.week.week_problem import PlanBand


def portion(
    recipe: str, grams: float, kcal: float, protein: float, days: tuple[int, ...], **more: object
) -> FitPortion:
    return FitPortion("maren", recipe, grams, kcal, protein, grams * 0.5, high_g=grams * 2, days=days, **more)  # type: ignore[arg-type]


def day(n: int, kcal: float = 2000, protein: float = 100, band: float = 0.03) -> FitDay:
    return FitDay("maren", n, kcal * (1 - band), kcal * (1 + band), protein)


PLAIN = WeekFitProblem(
    (
        portion("porridge", 400, 1.2, 0.05, (0, 1)),
        portion("stew", 500, 1.1, 0.09, (0, 1)),
        portion("bake", 420, 1.4, 0.08, (0, 1)),
        portion("bar", 60, 4.3, 0.1, (1,)),
    ),
    (day(0), day(1, 2250)),
)


def test_days_come_into_their_bands_with_whole_steps() -> None:
    fit = fit_week(PLAIN)
    assert check_week_fit(PLAIN, fit) == []
    assert fit.days_met == 2
    assert fit.is_proven_best
    assert all(p.after_g % 5 == 0 for p in fit.portions if p.moved_g)


def test_a_week_that_fits_already_is_left_alone() -> None:
    first = fit_week(PLAIN)
    again = WeekFitProblem(
        tuple(
            FitPortion(
                "maren", p.recipe_key, f.after_g, p.kcal_per_g, p.protein_per_g, p.low_g, high_g=p.high_g, days=p.days
            )
            for p, f in zip(PLAIN.portions, first.portions, strict=True)
        ),
        PLAIN.days,
    )
    assert all(p.moved_g == 0 for p in fit_week(again).portions)


def test_held_portions_stay_and_pieces_stay_whole() -> None:
    held = portion("stew", 500, 1.1, 0.09, (0,), is_held=True)
    eggs = portion("eggs", 102, 1.4, 0.12, (0,), piece_g=51.0)
    problem = WeekFitProblem((held, eggs, portion("rice", 300, 1.3, 0.03, (0,))), (day(0, 1500, 90),))
    fit = fit_week(problem)
    assert check_week_fit(problem, fit) == []
    assert fit.portions[0].after_g == 500
    assert fit.portions[1].after_g % 51 == 0


def test_what_cannot_be_reached_is_missed_as_little_as_can_be() -> None:
    problem = WeekFitProblem((portion("soup", 400, 0.5, 0.03, (0,)),), (day(0),))
    fit = fit_week(problem)
    assert fit.portions[0].after_g == 800
    assert not fit.days[0].is_met
    assert fit.is_proven_best
    assert fit.days[0].miss_kcal == pytest.approx(1940 - 400)


def test_other_bands_pull_portions_too() -> None:
    """Two dishes alike in energy: only the one with less fat keeps its ceiling."""
    rich = replace(portion("pie", 500, 2, 0.1, (0,)), others_per_g={"fat_g": 0.15})
    lean = replace(portion("soup", 500, 2, 0.1, (0,)), others_per_g={"fat_g": 0.02})
    free = WeekFitProblem((rich, lean), (day(0, 2000, 80),))
    assert all(p.moved_g == 0 for p in fit_week(free).portions)
    bound = WeekFitProblem((rich, lean), (replace(day(0, 2000, 80), bands=(PlanBand("fat_g", None, 65, 5.0),)),))
    fit = fit_week(bound)
    assert check_week_fit(bound, fit) == []
    assert fit.days_met == 1
    pie, soup = (p.after_g for p in fit.portions)
    assert pie * 0.15 + soup * 0.02 + 5 <= 65
    assert pie < 400
    tight = WeekFitProblem((rich,), (replace(day(0, 2000, 80), bands=(PlanBand("fat_g", None, 40),)),))
    missed = fit_week(tight).days[0]
    assert not missed.is_met
    assert dict(missed.missed).keys() <= {"fat_g"}


def test_slots_get_their_share_of_the_day_where_they_have_one() -> None:
    """A day in its band whichever way it is cut; with shares, lunch gets 30 % and dinner 70."""
    lunch, dinner = portion("salad", 500, 2, 0.1, (0,)), portion("stew", 500, 2, 0.1, (0,))
    assert fit_week(WeekFitProblem((lunch, dinner), (day(0, 2000, 80),))).portions[0].moved_g == 0
    shared = WeekFitProblem(
        (replace(lunch, wanted_kcal=(600.0,)), replace(dinner, wanted_kcal=(1400.0,))), (day(0, 2000, 80),)
    )
    fit = fit_week(shared)
    assert check_week_fit(shared, fit) == []
    assert fit.days_met == 1
    kcal = [p.after_g * 2 for p in fit.portions]
    assert kcal[0] == pytest.approx(600, rel=0.101)
    assert kcal[1] == pytest.approx(1400, rel=0.101)
    with pytest.raises(InvalidInputs, match="for each meal"):
        fit_week(WeekFitProblem((replace(lunch, wanted_kcal=(600.0, 300.0)),), (day(0),)))


def test_an_eater_in_whole_blocks_gets_whole_blocks() -> None:
    blocks = (450, 900, 630)
    sizes = {name: tuple(float(round(b / per_g)) for b in blocks) for name, per_g in (("stew", 1.5), ("salad", 1.0))}
    given = WeekFitProblem(
        (
            replace(portion("stew", 400, 1.5, 0.1, (0, 1)), sizes_g=sizes["stew"]),
            replace(portion("salad", 500, 1.0, 0.05, (0, 1)), sizes_g=sizes["salad"]),
        ),
        (day(0, 1350, 60), day(1, 1350, 60)),
    )
    fit = fit_week(given)
    assert check_week_fit(given, fit) == []
    assert fit.days_met == 2
    assert [p.after_g for p in fit.portions] == [300.0, 900.0] or [p.after_g for p in fit.portions] == [600.0, 450.0]
    assert fit_week(given) == fit
    cannot = WeekFitProblem(given.portions, (day(0, 1150, 60), day(1, 1150, 60)))
    missed = fit_week(cannot)
    assert missed.days_met == 0
    assert min(  # no whole blocks come nearer
        abs(a * 1.5 + b - 1150) for a in sizes["stew"] for b in sizes["salad"]
    ) == pytest.approx(abs(missed.days[0].kcal - 1150), abs=1)


sizes = st.integers(40, 160).map(lambda n: n * 5.0)


@st.composite
def weeks(draw: st.DrawFn) -> WeekFitProblem:
    made = []
    for n in range(draw(st.integers(1, 4))):
        days = tuple(draw(st.lists(st.integers(0, 2), min_size=1, max_size=3)))
        made.append(
            replace(
                portion(f"r{n}", draw(sizes), draw(st.floats(0.5, 3)), draw(st.floats(0.01, 0.15)), days),
                others_per_g={"fat_g": draw(st.floats(0, 0.2))},
                wanted_kcal=tuple(draw(st.none() | st.integers(100, 900).map(float)) for _ in days),
                sizes_g=tuple(sorted(draw(st.sets(sizes, max_size=4)))),
                is_held=draw(st.booleans()),
            )
        )
    wanted = tuple(
        replace(
            day(n, draw(st.integers(900, 2600)), draw(st.integers(20, 150))),
            bands=tuple(PlanBand("fat_g", None, high, 3.0) for high in draw(st.lists(st.floats(20, 90), max_size=1))),
        )
        for n in range(3)
    )
    return WeekFitProblem(tuple(made), wanted)


@settings(max_examples=40, deadline=None)
@given(weeks())
def test_answers_keep_their_promises_and_repeat(problem: WeekFitProblem) -> None:
    fit = fit_week(problem)
    assert check_week_fit(problem, fit) == []
    assert fit_week(problem) == fit


@settings(max_examples=12, deadline=None)
@given(weeks())
def test_no_other_sizes_on_the_step_miss_much_less(problem: WeekFitProblem) -> None:
    """Every fourth size on the step of the first two portions: none misses less than the answer's bound."""
    fit = fit_week(problem)
    grids = [
        [p.grams] if p.is_held else p.sizes_g or list(range(-int(-p.low_g // 5) * 5, int(p.high_g) + 1, 20))[:12]
        for p in problem.portions[:2]
    ]
    for choice in product(*grids):
        after = list(choice) + [f.after_g for f in fit.portions[len(choice) :]]
        miss = 0.0
        for d in problem.days:
            eaten = [(p, p.days.count(d.day) * g) for p, g in zip(problem.portions, after, strict=True)]
            kcal = sum(g * p.kcal_per_g for p, g in eaten)
            protein = sum(g * p.protein_per_g for p, g in eaten)
            miss += max(0, d.energy_low_kcal - kcal) / d.energy_low_kcal
            miss += max(0, kcal - d.energy_high_kcal) / d.energy_high_kcal
            miss += max(0, d.protein_floor_g - protein) / d.protein_floor_g
            fat = sum(g * p.others_per_g["fat_g"] for p, g in eaten)
            miss += sum(max(0, fat + b.extra - (b.high or 0)) / max(b.high or 0, 1) for b in d.bands)
        assert miss >= fit.bound - 1e-6


def test_what_cannot_be_fitted_is_refused() -> None:
    odd = WeekFitProblem(
        (portion("r", 100, 20, 3, (0,)), FitPortion("maren", "s", -5, 1, 0.1, 50, high_g=10, days=(0,))),
        (day(0), day(0), FitDay("maren", 1, 3000, 2000, 10)),
        7,
    )
    with pytest.raises(InvalidInputs) as caught:
        fit_week(odd)
    assert {f.field for f in caught.value.faults} == {"step_g", "portions.0", "portions.1", "days.1", "days.2"}
    empty = fit_week(WeekFitProblem((), (day(0),)))
    assert empty.days[0].miss_kcal == pytest.approx(1940)


def test_the_check_rejects_an_answer_that_breaks_any_one_rule() -> None:
    """One answer for each sentence of the check, each changed in that alone."""
    held = replace(PLAIN.portions[0], is_held=True)
    sized = replace(PLAIN.portions[1], sizes_g=(450.0, 550.0))
    problem = replace(PLAIN, portions=(held, sized, *PLAIN.portions[2:]))
    fit = fit_week(problem)
    assert check_week_fit(problem, fit) == []

    def resized(n: int, **change: float) -> WeekFit:
        portions = list(fit.portions)
        portions[n] = replace(portions[n], **change)  # type: ignore[arg-type]
        return replace(fit, portions=tuple(portions))

    def on_day(**change: object) -> WeekFit:
        return replace(fit, days=(replace(fit.days[0], **change), *fit.days[1:]))  # type: ignore[arg-type]

    mutants = {
        "porridge of maren was another size before": resized(0, before_g=405),
        "porridge of maren was held and moved": resized(0, after_g=410),
        "stew of maren is none of its sizes": resized(1, after_g=510),
        "bake of maren left its limits": resized(2, after_g=1000),
        "bake of maren is off its step": resized(2, after_g=fit.portions[2].after_g + 0.5),
        "day 0 of maren does not add up": on_day(kcal=fit.days[0].kcal + 1),
        "day 0 of maren is met or not, and is said otherwise": on_day(
            miss_kcal=0.0 if fit.days[0].miss_kcal else 9.0, miss_protein_g=0.0
        ),
        "the misses do not add up": replace(fit, miss=fit.miss + 0.01),
        "the miss is under its bound": replace(fit, bound=fit.miss + 0.01),
    }
    for sentence, wrong in mutants.items():
        assert sentence in check_week_fit(problem, wrong), sentence


@st.composite
def in_pieces(draw: st.DrawFn) -> WeekFitProblem:
    """Up to three portions in whole pieces or blocks on two days: few enough to try every size of each."""
    made = []
    for n in range(draw(st.integers(1, 3))):
        piece, was = draw(st.integers(40, 130)), draw(st.integers(1, 6))
        days = tuple(draw(st.lists(st.integers(0, 1), min_size=1, max_size=2)))
        blocks = tuple(sorted(draw(st.sets(st.integers(10, 60).map(lambda k: k * 10.0), max_size=4))))
        one = portion(f"r{n}", float(piece * was), draw(st.floats(0.8, 4)), draw(st.floats(0.02, 0.2)), days)
        one = replace(one, low_g=40.0, high_g=piece * 7.0)
        in_blocks = draw(st.booleans()) and bool(blocks)
        made.append(replace(one, sizes_g=blocks) if in_blocks else replace(one, piece_g=float(piece)))
    wanted = tuple(day(n, draw(st.integers(500, 2200)), draw(st.integers(10, 120))) for n in range(2))
    return WeekFitProblem(tuple(made), wanted)


@settings(max_examples=60, deadline=None)
@given(in_pieces())
def test_the_first_stage_is_exact_with_whole_pieces(problem: WeekFitProblem) -> None:
    """Held against every combination of sizes: none misses less, and it says so."""
    fit = fit_week(problem)
    assert check_week_fit(problem, fit) == []

    def sizes_of(p: FitPortion) -> list[float]:
        if p.sizes_g:
            return list(p.sizes_g)
        piece = p.piece_g or 1.0
        return [piece * n for n in range(1, 8) if p.low_g <= piece * n <= p.high_g] + [p.grams]

    def missed(grams: tuple[float, ...]) -> float:
        miss = 0.0
        for d in problem.days:
            kcal = sum(p.days.count(d.day) * g * p.kcal_per_g for p, g in zip(problem.portions, grams, strict=True))
            protein = sum(
                p.days.count(d.day) * g * p.protein_per_g for p, g in zip(problem.portions, grams, strict=True)
            )
            miss += max(0.0, d.energy_low_kcal - kcal) / d.energy_low_kcal
            miss += max(0.0, kcal - d.energy_high_kcal) / d.energy_high_kcal
            miss += max(0.0, d.protein_floor_g - protein) / d.protein_floor_g
        return miss

    best = min(missed(grams) for grams in product(*map(sizes_of, problem.portions)))
    assert fit.miss == pytest.approx(best, abs=1e-6)
    assert fit.is_proven_best


def test_pieces_that_can_all_be_met_are_met() -> None:
    """Rounding to the nearest piece misses, and so does one more of either: the programme in whole numbers sees it."""
    eggs = portion("eggs", 120, 1.5, 0.12, (0,), piece_g=60.0)
    rolls = portion("rolls", 160, 2.6, 0.09, (0,), piece_g=80.0)
    wide = WeekFitProblem(
        (replace(eggs, high_g=360.0), replace(rolls, high_g=400.0)), (FitDay("maren", 0, 864, 868, 30),)
    )
    fit = fit_week(wide)
    assert [p.after_g for p in fit.portions] == [300.0, 160.0], "five eggs and two rolls: nothing else does"
    assert fit.miss == 0.0
