"""What can be done about a day that came out otherwise: nothing, another box, a smaller or a larger portion.

Each move is computed by the same fit as a week's portions, with what it does to every day it touches. None takes a day
below its protein floor or the low end of its band that was not below already: nobody makes up for anything by hunger.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from goodcrate.core.ground.writing import round_half_up
from goodcrate.core.targets.day_target import DayTarget, MeanTarget, NutrientBand, Standing, judge_band
from goodcrate.core.week.fit.fit_problem import FitDay, FitPortion, WeekFitProblem
from goodcrate.core.week.fit.week_fit import fit_week
from goodcrate.core.week.week_problem import PlanBand

LEAVE, SWAP, LESS, MORE = "leave", "swap", "less", "more"
MEAN_WITHIN = 0.02
"""A week whose mean is within 2 % of its targets' mean is near enough to leave a day as it is."""
STEP_G = 5
LEAST_SHARE = 0.25
"""Less than a quarter of a box is left out whole, or eaten whole: our own line."""
MOST_MOVES = 3
SHOWN_AS_WHOLE = 0.499
"""So much less of a unit is shown, and judged, as the whole one."""


@dataclass(frozen=True, slots=True)
class DayNow:
    """Where a day stands with all that is to come: energy (kcal), protein (g), what it should be, and what it holds of
    the other nutrients that have a band, each in its unit."""

    day: int
    kcal: float
    protein_g: float
    target: DayTarget
    others: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Movable:
    """A portion that is still to be eaten on a day, or food in the house: its grams and what a gram holds."""

    key: str
    day: int
    grams: float
    kcal_per_g: float
    protein_per_g: float
    others_per_g: Mapping[str, float] = field(default_factory=dict)

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
    """A day before and after a move: energy in kcal, protein in g, what else has a band in its unit."""

    day: int
    kcal_before: float
    kcal: float
    protein_before_g: float
    protein_g: float
    others_before: Mapping[str, float] = field(default_factory=dict)
    others: Mapping[str, float] = field(default_factory=dict)


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


def miss_of(
    kcal: float, protein_g: float, target: DayTarget | MeanTarget, others: Mapping[str, float] | None = None
) -> float:
    """How far a day is outside its band, under its floor and outside its other bands, in shares of its energy, of its
    floor and of the end that is missed; 0 when it is in."""
    shown, grams = round_half_up(kcal), round_half_up(protein_g)
    over = max(0.0, shown - round_half_up(target.energy_high_kcal))
    under = max(0.0, round_half_up(target.energy_low_kcal) - shown)
    short = max(0.0, target.protein_floor_g - grams)
    miss = (over + under) / target.energy_kcal + (short / target.protein_floor_g if target.protein_floor_g > 0 else 0)
    return miss + sum(_outside(band, (others or {}).get(band.key, 0.0)) for band in target.bands)


def _outside(band: NutrientBand, total: float) -> float:
    judged = judge_band(total, band)
    end = {Standing.SHORT: band.low, Standing.OVER: band.high}.get(judged.standing)
    return 0.0 if end is None else judged.by / max(end, 1.0)


@dataclass(frozen=True)
class _Week:
    """The days with what their mean must keep to, where it is what counts."""

    days: Sequence[DayNow]
    mean: MeanTarget | None

    def miss(self, move: Move | None = None) -> float:
        """How far the mean is outside, once a move is done, counted as each of the days; 0 where each day counts by
        itself."""
        if self.mean is None:
            return 0.0
        changed = () if move is None else move.days
        n = len(self.days)
        kcal = sum(d.kcal for d in self.days) + sum(d.kcal - d.kcal_before for d in changed)
        protein_g = sum(d.protein_g for d in self.days) + sum(d.protein_g - d.protein_before_g for d in changed)
        others = {
            b.key: sum(d.others.get(b.key, 0.0) for d in self.days)
            + sum(d.others.get(b.key, 0.0) - d.others_before.get(b.key, 0.0) for d in changed)
            for b in self.mean.bands
        }
        return n * miss_of(kcal / n, protein_g / n, self.mean, {key: there / n for key, there in others.items()})

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
        before = sum(miss_of(d.kcal_before, d.protein_before_g, target[d.day], d.others_before) for d in move.days)
        after = sum(miss_of(d.kcal, d.protein_g, target[d.day], d.others) for d in move.days)
        return before - after + self.miss() - self.miss(move)


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
    if now is None or (_miss(now) == 0 and week.miss() == 0):
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


def _miss(now: DayNow) -> float:
    return miss_of(now.kcal, now.protein_g, now.target, now.others)


def _keeps_floors(move: Move, by_day: Mapping[int, DayNow]) -> bool:
    """Whether no day is taken below its floor or its band by it, nor further below where it was already."""
    for d in move.days:
        target = by_day[d.day].target
        floors = [
            (d.kcal_before, d.kcal, target.energy_low_kcal),
            (d.protein_before_g, d.protein_g, target.protein_floor_g),
        ]
        floors += [
            (d.others_before.get(b.key, 0.0), d.others.get(b.key, 0.0), b.low)
            for b in target.bands
            if b.low is not None
        ]
        for was, becomes, least in floors:
            if round_half_up(becomes) < round_half_up(min(was, least)):
                return False
    return True


def _then(now: DayNow, *more: tuple[Movable, float]) -> DayThen:
    """A day with so many grams more (or, negative, fewer) of some portions."""
    kcal = now.kcal + sum(p.kcal_per_g * grams for p, grams in more)
    protein_g = now.protein_g + sum(p.protein_per_g * grams for p, grams in more)
    others = {
        key: there + sum(p.others_per_g.get(key, 0.0) * grams for p, grams in more) for key, there in now.others.items()
    }
    return DayThen(now.day, now.kcal, kcal, now.protein_g, protein_g, others_before=now.others, others=others)


def _swaps(
    now: DayNow, by_day: Mapping[int, DayNow], to_come: Sequence[Movable], may_swap: Callable[[str, str], bool]
) -> Iterator[Move]:
    for a in (p for p in to_come if p.day == now.day):
        for b in (p for p in to_come if p.day > now.day and p.day in by_day):
            if may_swap(a.key, b.key):
                then = _then(by_day[b.day], (a, a.grams), (b, -b.grams))
                days = (_then(now, (b, b.grams), (a, -a.grams)), then)
                yield Move(SWAP, a.key, b.key, days=days)


def _sizes(now: DayNow, to_come: Sequence[Movable], week: _Week) -> Iterator[Move]:
    """Less of a portion that is still to come, as much as the fit wants."""
    for p in (p for p in to_come if p.day == now.day):
        sizes_g = (p.grams - _can_spare_g(now, p), p.grams)
        grams = _fitted(week.ends(now), p, sizes_g, _then(now, (p, -p.grams)), now.target.bands)
        if grams < p.grams:
            yield Move(LESS, p.key, grams=grams, days=(_then(now, (p, grams - p.grams)),))


def _can_spare_g(now: DayNow, p: Movable) -> float:
    """How much of a portion can be left out before the day falls below a floor or the low end of a band, in g."""
    floors = [(now.kcal, p.kcal_per_g, now.target.energy_low_kcal)]
    floors.append((now.protein_g, p.protein_per_g, now.target.protein_floor_g))
    floors += [
        (now.others.get(b.key, 0.0), p.others_per_g.get(b.key, 0.0), b.low)
        for b in now.target.bands
        if b.low is not None
    ]
    ends = [(there - round_half_up(least) + SHOWN_AS_WHOLE, per_g) for there, per_g, least in floors if per_g > 0]
    spare = [max(0.0, room) / per_g for room, per_g in ends]
    return min([p.grams * (1 - LEAST_SHARE), *spare])


def _snacks(now: DayNow, in_house: Sequence[Movable], week: _Week) -> Iterator[Move]:
    """Something from the house besides, as much as the fit wants of it."""
    for p in in_house:
        if p.grams < STEP_G:
            continue
        grams = _fitted(week.ends(now), replace(p, grams=0.0), (0.0, p.grams), _then(now), now.target.bands)
        if grams >= STEP_G:
            yield Move(MORE, p.key, grams=grams, days=(_then(now, (p, grams)),))


def _fitted(
    ends: tuple[float, float, float],
    p: Movable,
    sizes_g: tuple[float, float],
    rest: DayThen,
    bands: Sequence[NutrientBand],
) -> float:
    """What the week's fit makes of one portion on one day, in g: by its band (kcal) and floor (g), how small and large
    it may be, what else the day holds, and the day's other bands."""
    low_g, high_g = sizes_g
    grams, others = max(p.grams, low_g), dict(p.others_per_g)
    portion = FitPortion(
        "eater", p.key, grams, p.kcal_per_g, p.protein_per_g, low_g, high_g=high_g, days=(p.day,), others_per_g=others
    )
    kept = tuple(PlanBand(b.key, b.low, b.high, rest.others.get(b.key, 0.0)) for b in bands)
    day = FitDay("eater", p.day, *ends, rest.kcal, fixed_protein_g=rest.protein_g, bands=kept)
    return fit_week(WeekFitProblem((portion,), (day,), STEP_G)).portions[0].after_g


def _with_mean(move: Move, days: Sequence[DayNow]) -> Move:
    change = sum(d.kcal - d.kcal_before for d in move.days)
    mean = (sum(d.kcal for d in days) + change) / len(days)
    return replace(move, mean=mean, mean_target=sum(d.target.energy_kcal for d in days) / len(days))
