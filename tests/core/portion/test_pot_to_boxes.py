"""A pot into boxes: by weight, by count, in the room containers give, one taking the difference; nothing is lost."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.cook.batch_record import COUNTED, REST, BatchRecord, Weighing
from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import amount_of, reading_error_g
from goodcrate.core.ground.nutrients import Composition
from goodcrate.core.portion.division import BoxTarget, DivisionProblem, check_division, divide, divide_with_one
from goodcrate.core.portion.filled_boxes import DIVIDED, WEIGHED, BatchOutcome, batch_outcome, pieces_g
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.week.placings import PlannedPortion

BARLEY = Food("barley", "Barley, cooked", "ready", "grain", Composition.of({"energy_kcal": 120, "protein_g": 3.0}))
LINES = (IngredientLine("barley", BARLEY, amount_of(1200)),)
PLANNED = tuple(PlannedPortion(key, g) for key, g in (("mon", 400.0), ("tue", 400.0), ("wed", 200.0), ("thu", 200.0)))


def poured(
    *log: Weighing, pot_g: float = 1200, rooms: dict[str, float] | None = None, **record: object
) -> BatchOutcome:
    made = BatchRecord(LINES, 1200.0, (Weighing("pot", pot_g), *log), **record)  # type: ignore[arg-type]
    return batch_outcome(made, PLANNED, "b", rooms)


def grams(outcome: BatchOutcome) -> list[float]:
    return [p.grams for p in outcome.portions]


def everything(outcome: BatchOutcome) -> float:
    boxes = sum(p.grams for p in (*outcome.portions, *outcome.spare))
    return boxes + sum(outcome.rest_g.values()) + outcome.remainder_g


def test_what_was_tasted_and_thrown_away_is_taken_off_before_the_boxes_share() -> None:
    outcome = poured(Weighing(f"{REST}tasted", 60), Weighing(f"{REST}thrown", 40))
    assert grams(outcome) == [366, 366, 184, 184]
    assert outcome.left_g == pytest.approx(1100)
    assert outcome.rest_g == {"tasted": 60, "thrown": 40}
    back = poured(Weighing(f"{REST}tasted", 60), Weighing(f"{REST}tasted", None))
    assert grams(back) == [400, 400, 200, 200]


def test_by_count_boxes_get_whole_pieces_of_the_average_weight() -> None:
    outcome = poured(pieces=12)
    assert [p.pieces for p in outcome.portions] == [4, 4, 2, 2]
    assert grams(outcome) == [400, 400, 200, 200]
    assert outcome.piece_g == 100
    took = poured(Weighing("mon", 500, how=COUNTED, pieces=5), pieces=12)
    assert [p.pieces for p in took.portions] == [5, 3, 2, 2]
    assert [p.stage for p in took.portions] == [WEIGHED, DIVIDED, DIVIDED, DIVIDED]


@given(st.integers(500, 20000), st.integers(4, 40), st.permutations(["mon", "tue", "wed", "thu"]), st.integers(0, 4))
def test_counted_boxes_come_out_even_whatever_a_piece_weighs(
    tenths: int, count: int, order: list[str], packed: int
) -> None:
    pot_g, log = tenths / 10, list[Weighing]()
    for key in order[:packed]:
        outcome = poured(*log, pot_g=pot_g, pieces=count)
        portion = next(p for p in outcome.portions if p.placing_key == key)
        assert outcome.piece_g is not None
        if portion.pieces:
            net_g = pieces_g(portion.pieces, outcome.left_g, outcome.piece_g)
            assert 0 < net_g <= outcome.left_g + 1e-9
            log.append(Weighing(key, net_g, how=COUNTED, pieces=portion.pieces))
    outcome = poured(*log, pot_g=pot_g, pieces=count)
    assert everything(outcome) == pytest.approx(pot_g, abs=1e-9)
    assert outcome.left_g >= -1e-9
    assert sum(p.pieces for p in outcome.portions) == count


def test_pieces_are_less_sure_than_the_scale_and_several_less_off_than_each() -> None:
    by_scale, by_count = poured(), poured(pieces=12)

    def doubt(outcome: BatchOutcome, n: int) -> float:
        return outcome.portions[n].tally.amount("energy_kcal").standard_error

    assert doubt(by_count, 0) > 5 * doubt(by_scale, 0)
    own_g = 0.15 * 400 / 4**0.5
    assert doubt(by_count, 0) == pytest.approx(1.2 * (own_g**2 + (reading_error_g() / 3) ** 2) ** 0.5, rel=0.02)


def test_one_box_takes_what_is_missing_or_over() -> None:
    assert grams(poured(pot_g=1100, short_for="wed")) == [400, 400, 100, 200]
    assert grams(poured(pot_g=1300, short_for="wed")) == [400, 400, 300, 200]
    spare = poured(pot_g=1300, short_for="wed", rooms={"wed": 250})
    assert grams(spare) == [400, 400, 250, 200]
    assert spare.remainder_g == 50
    assert sum(grams(poured(pot_g=700, short_for="wed"))) == 700, "with too little even for the others, all share"


def test_in_steps_of_five_grams_what_is_less_than_a_step_stays_in_the_pot() -> None:
    outcome = poured(pot_g=1187.4, step_g=5)
    assert all(g % 5 == 0 for g in grams(outcome))
    assert outcome.remainder_g == pytest.approx(2.4)
    assert sum(grams(poured(pot_g=1102, step_g=5, short_for="mon"))) == 1100


def test_no_box_gets_more_than_its_container_takes() -> None:
    outcome = poured(rooms={"mon": 350, "tue": 500})
    assert outcome.portions[0].grams == 350
    assert outcome.portions[0].room_g == 350
    assert sum(grams(outcome)) == 1200
    full = poured(rooms=dict.fromkeys(("mon", "tue", "wed", "thu"), 150))
    assert grams(full) == [150] * 4
    assert full.remainder_g == 600


events = st.lists(
    st.one_of(
        st.tuples(st.sampled_from(["mon", "tue", "wed", "thu"]), st.none() | st.integers(1, 150)),
        st.tuples(st.sampled_from([f"{REST}tasted", f"{REST}thrown", "nobody"]), st.none() | st.integers(1, 90)),
    ),
    max_size=12,
)


@given(events, st.integers(1000, 15000), st.sampled_from([None, "tue"]), st.booleans())
def test_weighed_in_is_boxes_left_tasted_and_thrown(
    drawn: list[tuple[str, int | None]], tenths: int, short: str | None, has_rooms: bool
) -> None:
    log = [Weighing(key, None if g is None else float(g)) for key, g in drawn]
    rooms = {"mon": 300.0, "wed": 120.0} if has_rooms else {}
    pot_g = tenths / 10
    if sum(g or 0 for g in dict(drawn).values()) > pot_g:
        return
    outcome = poured(*log, pot_g=pot_g, short_for=short, rooms=rooms)
    assert everything(outcome) == pytest.approx(pot_g, abs=1e-9)


problems = st.lists(st.tuples(st.integers(1, 600), st.none() | st.integers(0, 700)), min_size=1, max_size=6).flatmap(
    lambda boxes: st.tuples(st.just(boxes), st.integers(1, 3000), st.integers(0, len(boxes) - 1))
)


@given(problems, st.sampled_from([1, 5]))
def test_the_one_box_loses_nothing_and_the_others_stand_nearest_their_targets(
    drawn: tuple[list[tuple[int, int | None]], int, int], step: int
) -> None:
    boxes, supply, one = drawn
    problem = DivisionProblem(supply, tuple(BoxTarget(str(n), t, c) for n, (t, c) in enumerate(boxes)), step)
    division = divide_with_one(problem, str(one))
    assert check_division(problem, division) == ()

    def nearest(target: int, cap: int | None) -> int:
        steps = range(0, (1400 if cap is None else cap) + 1, step)
        return min(steps, key=lambda g: (abs(Fraction(g - target)), g))

    others = [nearest(t, c) for n, (t, c) in enumerate(boxes) if n != one]
    if sum(others) <= supply:
        assert [f.grams for n, f in enumerate(division.boxes) if n != one] == others
    else:
        assert division == divide(problem)
