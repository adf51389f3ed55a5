"""What can be done about a day that came out otherwise: nothing, another box, a smaller or a larger portion.

Each move is computed by the same fit as a week's portions, with what it does to every day it touches. None takes a day
below its protein floor or the low end of its band that was not below already: nobody makes up for anything by hunger.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from goodcrate.core.ground.writing import round_half_up
from goodcrate.core.targets.day_target import DayTarget
from goodcrate.core.week.fit.fit_problem import FitDay, FitPortion, WeekFitProblem
from goodcrate.core.week.fit.week_fit import fit_week

LEAVE, SWAP, LESS, MORE = "leave", "swap", "less", "more"
MEAN_WITHIN = 0.02
"""A week whose mean is within 2 % of its targets' mean is near enough to leave a day as it is."""
STEP_G = 5
LEAST_SHARE = 0.25
"""Less than a quarter of a box is left out whole, or eaten whole: our own line."""
MOST_MOVES = 3


@dataclass(frozen=True, slots=True)
class DayNow:
    """Where a day stands with all that is to come: energy (kcal), protein (g), and what it should be."""

    day: int
    kcal: float
    protein_g: float
    target: DayTarget


@dataclass(frozen=True, slots=True)
class Movable:
    """A portion that is still to be eaten on a day, or food in the house: its grams and what a gram holds."""

    key: str
    day: int
    grams: float
    kcal_per_g: float
    protein_per_g: float

    @property
    def kcal(self) -> float:
        """Its energy, in kcal."""
        return self.grams * self.kcal_per_g

    @property
    def protein_g(self) -> float:
        """Its protein, in g."""
        return self.grams * self.protein_per_g


@dataclass(frozen=True, slots=True)
class DayThen:
    """A day before and after a move: energy in kcal, protein in g."""

    day: int
    kcal_before: float
    kcal: float
    protein_before_g: float
    protein_g: float


@dataclass(frozen=True, slots=True)
class Move:
    """Something that could be done: what with which portion (and for which other), the grams it has then, and every
    day it touches. `mean` and `mean_target` are the week's, in kcal a day, once it is done."""

    kind: str
    key: str = ""
    other: str = ""
    grams: float | None = None
    days: tuple[DayThen, ...] = ()
    mean: float = 0.0
    mean_target: float = 0.0

    @property
    def mean_off(self) -> float:
        """How far the week's mean is from its targets', as a share."""
        return self.mean / self.mean_target - 1 if self.mean_target > 0 else 0.0


def miss_of(kcal: float, protein_g: float, target: DayTarget) -> float:
    """How far a day is outside its band and under its floor, in shares of its energy and its floor; 0 when it is in."""
    shown, grams = round_half_up(kcal), round_half_up(protein_g)
    over = max(0.0, shown - round_half_up(target.energy_high_kcal))
    under = max(0.0, round_half_up(target.energy_low_kcal) - shown)
    short = max(0.0, target.protein_floor_g - grams)
    return (over + under) / target.energy_kcal + (short / target.protein_floor_g if target.protein_floor_g > 0 else 0)


def slip_moves(
    today: int,
    days: Sequence[DayNow],
    to_come: Sequence[Movable],
    in_house: Sequence[Movable] = (),
    may_swap: Callable[[str, str], bool] = lambda _a, _b: True,
) -> tuple[Move, ...]:
    """At most three moves for the day `today`, the ones that bring the days nearest first; with them, when the week's
    mean is within 2 %, that it can be left. None when the day is in its band and its floor is met.

    `to_come` are the eater's portions that are still to be eaten, `in_house` what could be eaten besides today;
    `may_swap` says whether two of them may change places.
    """
    by_day = {d.day: d for d in days}
    now = by_day.get(today)
    if now is None or miss_of(now.kcal, now.protein_g, now.target) == 0:
        return ()
    found = [*_swaps(now, by_day, to_come, may_swap), *_sizes(now, to_come), *_snacks(now, in_house)]
    better = [m for m in found if _gain(m, by_day) > 1e-9 and _keeps_floors(m, by_day)]
    best: dict[str, Move] = {}
    for move in sorted(better, key=lambda m: (-_gain(m, by_day), m.kind, m.key, m.other)):
        best.setdefault(move.kind, move)
    whole = [_with_mean(move, days) for move in best.values()]
    leave = _with_mean(Move(LEAVE), days)
    if abs(leave.mean_off) <= MEAN_WITHIN:
        whole = [leave, *whole]
    return tuple(whole[:MOST_MOVES])


def _gain(move: Move, by_day: Mapping[int, DayNow]) -> float:
    return sum(
        miss_of(d.kcal_before, d.protein_before_g, by_day[d.day].target)
        - miss_of(d.kcal, d.protein_g, by_day[d.day].target)
        for d in move.days
    )


def _keeps_floors(move: Move, by_day: Mapping[int, DayNow]) -> bool:
    """Whether no day is taken below its floor or its band by it, nor further below where it was already."""
    for d in move.days:
        target = by_day[d.day].target
        for was, becomes, least in (
            (d.kcal_before, d.kcal, target.energy_low_kcal),
            (d.protein_before_g, d.protein_g, target.protein_floor_g),
        ):
            if round_half_up(becomes) < round_half_up(min(was, least)):
                return False
    return True


def _then(now: DayNow, kcal: float, protein_g: float) -> DayThen:
    return DayThen(now.day, now.kcal, now.kcal + kcal, now.protein_g, now.protein_g + protein_g)


def _swaps(
    now: DayNow, by_day: Mapping[int, DayNow], to_come: Sequence[Movable], may_swap: Callable[[str, str], bool]
) -> Iterator[Move]:
    for a in (p for p in to_come if p.day == now.day):
        for b in (p for p in to_come if p.day > now.day and p.day in by_day):
            if may_swap(a.key, b.key):
                kcal, protein = b.kcal - a.kcal, b.protein_g - a.protein_g
                days = (_then(now, kcal, protein), _then(by_day[b.day], -kcal, -protein))
                yield Move(SWAP, a.key, b.key, days=days)


def _sizes(now: DayNow, to_come: Sequence[Movable]) -> Iterator[Move]:
    """Less of a portion that is still to come, as much as the fit wants."""
    for p in (p for p in to_come if p.day == now.day):
        grams = _fitted(now, p, p.grams * LEAST_SHARE, p.grams, now.kcal - p.kcal, now.protein_g - p.protein_g)
        if grams < p.grams:
            less = grams - p.grams
            yield Move(LESS, p.key, grams=grams, days=(_then(now, less * p.kcal_per_g, less * p.protein_per_g),))


def _snacks(now: DayNow, in_house: Sequence[Movable]) -> Iterator[Move]:
    """Something from the house besides, as much as the fit wants of it."""
    for p in in_house:
        if p.grams < STEP_G:
            continue
        grams = _fitted(now, replace(p, grams=0.0), 0.0, p.grams, now.kcal, now.protein_g)
        if grams >= STEP_G:
            days = (_then(now, grams * p.kcal_per_g, grams * p.protein_per_g),)
            yield Move(MORE, p.key, grams=grams, days=days)


def _fitted(now: DayNow, p: Movable, low_g: float, high_g: float, fixed_kcal: float, fixed_protein_g: float) -> float:
    """What the week's fit makes of one portion on one day, in g."""
    target = now.target
    portion = FitPortion(
        "eater", p.key, max(p.grams, low_g), p.kcal_per_g, p.protein_per_g, low_g, high_g=high_g, days=(now.day,)
    )
    day = FitDay(
        "eater",
        now.day,
        target.energy_low_kcal,
        target.energy_high_kcal,
        target.protein_floor_g,
        fixed_kcal,
        fixed_protein_g=fixed_protein_g,
    )
    return fit_week(WeekFitProblem((portion,), (day,), STEP_G)).portions[0].after_g


def _with_mean(move: Move, days: Sequence[DayNow]) -> Move:
    change = sum(d.kcal - d.kcal_before for d in move.days)
    mean = (sum(d.kcal for d in days) + change) / len(days)
    return replace(move, mean=mean, mean_target=sum(d.target.energy_kcal for d in days) / len(days))
