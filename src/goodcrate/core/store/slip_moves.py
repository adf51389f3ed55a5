"""What can be done about a day that came out otherwise: nothing, another box, a smaller or a larger portion.

Each move is computed by the same fit as a week's portions, with what it does to every day it touches. None takes a day
below its protein floor or the low end of its band that was not below already: nobody makes up for anything by hunger.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from goodcrate.core.ground.writing import round_half_up
from goodcrate.core.targets.day_target import DayTarget, MeanTarget
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


def miss_of(kcal: float, protein_g: float, target: DayTarget | MeanTarget) -> float:
    """How far a day is outside its band and under its floor, in shares of its energy and its floor; 0 when it is in."""
    shown, grams = round_half_up(kcal), round_half_up(protein_g)
    over = max(0.0, shown - round_half_up(target.energy_high_kcal))
    under = max(0.0, round_half_up(target.energy_low_kcal) - shown)
    short = max(0.0, target.protein_floor_g - grams)
    return (over + under) / target.energy_kcal + (short / target.protein_floor_g if target.protein_floor_g > 0 else 0)


@dataclass(frozen=True)
class _Week:
    """The days with what their mean must keep to, where it is what counts."""

    days: Sequence[DayNow]
    mean: MeanTarget | None

    def miss(self, more_kcal: float = 0.0, more_protein_g: float = 0.0) -> float:
        """How far the mean is outside, counted as each of the days; 0 where each day counts by itself."""
        if self.mean is None:
            return 0.0
        n = len(self.days)
        kcal = (sum(d.kcal for d in self.days) + more_kcal) / n
        protein_g = (sum(d.protein_g for d in self.days) + more_protein_g) / n
        return n * miss_of(kcal, protein_g, self.mean)

    def ends(self, now: DayNow) -> tuple[float, float, float]:
        """What a day should come to: its own band (kcal) and floor (g), narrowed to what brings the mean into its own,
        as far as its band lets it."""
        least, most, floor = now.target.energy_low_kcal, now.target.energy_high_kcal, now.target.protein_floor_g
        if self.mean is None:
            return least, most, floor
        n = len(self.days)
        kcal = sum(d.kcal for d in self.days) - now.kcal
        protein_g = sum(d.protein_g for d in self.days) - now.protein_g
        low, high = n * self.mean.energy_low_kcal - kcal, n * self.mean.energy_high_kcal - kcal
        low, high = (min(max(end, least), most) for end in (low, high))
        return low, high, max(floor, n * self.mean.protein_floor_g - protein_g)

    def gain(self, move: Move) -> float:
        """By how much a move brings the days, and their mean, nearer."""
        target = {d.day: d.target for d in self.days}
        before = sum(miss_of(d.kcal_before, d.protein_before_g, target[d.day]) for d in move.days)
        after = sum(miss_of(d.kcal, d.protein_g, target[d.day]) for d in move.days)
        kcal = sum(d.kcal - d.kcal_before for d in move.days)
        protein_g = sum(d.protein_g - d.protein_before_g for d in move.days)
        return before - after + self.miss() - self.miss(kcal, protein_g)


def slip_moves(
    today: int,
    days: Sequence[DayNow],
    to_come: Sequence[Movable],
    in_house: Sequence[Movable] = (),
    may_swap: Callable[[str, str], bool] = lambda _a, _b: True,
    mean: MeanTarget | None = None,
) -> tuple[Move, ...]:
    """At most three moves for the day `today`, the ones that bring the days nearest first; with them, when the week's
    mean is within 2 %, that it can be left. None when the day is in its band and its floor is met.

    With `mean`, what the mean of the days must keep to, it counts as each of the days would, and is what decides
    whether the day can be left.

    `to_come` are the eater's portions that are still to be eaten, `in_house` what could be eaten besides today;
    `may_swap` says whether two of them may change places.
    """
    by_day = {d.day: d for d in days}
    now = by_day.get(today)
    week = _Week(days, mean)
    if now is None or (miss_of(now.kcal, now.protein_g, now.target) == 0 and week.miss() == 0):
        return ()
    found = [*_swaps(now, by_day, to_come, may_swap), *_sizes(now, to_come, week), *_snacks(now, in_house, week)]
    better = [m for m in found if week.gain(m) > 1e-9 and _keeps_floors(m, by_day)]
    best: dict[str, Move] = {}
    for move in sorted(better, key=lambda m: (-week.gain(m), m.kind, m.key, m.other)):
        best.setdefault(move.kind, move)
    whole = [_with_mean(move, days) for move in best.values()]
    leave = _with_mean(Move(LEAVE), days)
    if abs(leave.mean_off) <= MEAN_WITHIN if mean is None else week.miss() == 0:
        whole = [leave, *whole]
    return tuple(whole[:MOST_MOVES])


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


def _sizes(now: DayNow, to_come: Sequence[Movable], week: _Week) -> Iterator[Move]:
    """Less of a portion that is still to come, as much as the fit wants."""
    for p in (p for p in to_come if p.day == now.day):
        rest = (now.kcal - p.kcal, now.protein_g - p.protein_g)
        grams = _fitted(week.ends(now), p, (p.grams * LEAST_SHARE, p.grams), rest)
        if grams < p.grams:
            less = grams - p.grams
            yield Move(LESS, p.key, grams=grams, days=(_then(now, less * p.kcal_per_g, less * p.protein_per_g),))


def _snacks(now: DayNow, in_house: Sequence[Movable], week: _Week) -> Iterator[Move]:
    """Something from the house besides, as much as the fit wants of it."""
    for p in in_house:
        if p.grams < STEP_G:
            continue
        grams = _fitted(week.ends(now), replace(p, grams=0.0), (0.0, p.grams), (now.kcal, now.protein_g))
        if grams >= STEP_G:
            days = (_then(now, grams * p.kcal_per_g, grams * p.protein_per_g),)
            yield Move(MORE, p.key, grams=grams, days=days)


def _fitted(
    ends: tuple[float, float, float], p: Movable, sizes_g: tuple[float, float], rest: tuple[float, float]
) -> float:
    """What the week’s fit makes of one portion on one day, in g: by its band (kcal) and floor (g), how small and large
    it may be, and what else the day holds (kcal, g of protein)."""
    low_g, high_g = sizes_g
    portion = FitPortion(
        "eater", p.key, max(p.grams, low_g), p.kcal_per_g, p.protein_per_g, low_g, high_g=high_g, days=(p.day,)
    )
    day = FitDay("eater", p.day, *ends, rest[0], fixed_protein_g=rest[1])
    return fit_week(WeekFitProblem((portion,), (day,), STEP_G)).portions[0].after_g


def _with_mean(move: Move, days: Sequence[DayNow]) -> Move:
    change = sum(d.kcal - d.kcal_before for d in move.days)
    mean = (sum(d.kcal for d in days) + change) / len(days)
    return replace(move, mean=mean, mean_target=sum(d.target.energy_kcal for d in days) / len(days))
