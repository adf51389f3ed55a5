"""Portioning: a weighed pot divided into boxes, in whole steps of grams, with nothing lost.

The promise is *leximax*: among all divisions in whole steps, the one whose worst relative deviation from
target is least, then the next worst, and so on; ties go to the box named first. All arithmetic is exact.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from heapq import heappop, heappush
from math import ceil

from goodcrate.core.ground.errors import Inconsistent, InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short, shown

SPREAD, KEEP = "spread", "keep"
"""`SPREAD` lets the pot come out even; `KEEP` never fills past a target and leaves the rest."""


@dataclass(frozen=True, slots=True)
class BoxTarget:
    """One box to fill: what it should hold, what it can hold, and what it already holds (then it stays)."""

    key: str
    target_g: float
    capacity_g: float | None = None
    filled_g: float | None = None


@dataclass(frozen=True, slots=True)
class DivisionProblem:
    """A net weight in g and the boxes it goes into, in steps of `step_g` (1 or 5 as a rule).

    Raises:
        InvalidInputs: naming every figure that cannot be used.
    """

    net_g: float
    boxes: tuple[BoxTarget, ...]
    step_g: int = 1
    policy: str = SPREAD

    def __post_init__(self) -> None:
        faults = []
        if not 0 < self.net_g <= 1_000_000:
            faults.append(
                InvalidInput(
                    "net_g",
                    say("{net_g} g cannot be divided.", net_g=short(self.net_g)),
                    say("Give a net weight above 0 g."),
                )
            )
        if not 1 <= self.step_g <= 100:
            faults.append(
                InvalidInput(
                    "step_g", say("A step of {step_g} g is not possible.", step_g=self.step_g), say("Give 1 to 100 g.")
                )
            )
        if self.policy not in (SPREAD, KEEP):
            faults.append(
                InvalidInput(
                    "policy",
                    say("“{policy}” is no way of dividing.", policy=self.policy),
                    say("Choose spread or keep."),
                )
            )
        if not self.boxes:
            faults.append(InvalidInput("boxes", say("There is no box to fill."), say("Give at least one.")))
        if len({box.key for box in self.boxes}) < len(self.boxes):
            faults.append(InvalidInput("boxes", say("Two boxes have the same key."), say("Name each once.")))
        faults += self._faults_of_boxes()
        if faults:
            raise InvalidInputs(faults)
        filled = sum(box.filled_g or 0.0 for box in self.boxes)
        if filled > self.net_g + 0.05:
            raise InvalidInputs(
                [
                    InvalidInput(
                        "boxes",
                        say(
                            "The filled boxes hold {filled} g, the pot gave {net_g} g.",
                            filled=shown(filled, 1),
                            net_g=shown(self.net_g, 1),
                        ),
                        say("Weigh the pot or a box again."),
                    )
                ]
            )

    def _faults_of_boxes(self) -> list[InvalidInput]:
        faults = []
        for place, box in enumerate(self.boxes):
            if not 0 < box.target_g <= 1_000_000:
                said = say("{target_g} g is no target.", target_g=short(box.target_g))
                faults.append(InvalidInput(f"boxes.{place}.target_g", said, say("Above 0 g.")))
            for name, value in (("capacity_g", box.capacity_g), ("filled_g", box.filled_g)):
                if value is not None and not 0 <= value <= 1_000_000:
                    said = say("{value} g is not possible.", value=short(value))
                    faults.append(InvalidInput(f"boxes.{place}.{name}", said, say("0 g or more.")))
        return faults


@dataclass(frozen=True, slots=True)
class BoxFill:
    """What one box gets, in g, and how far that is from its target (share, signed)."""

    key: str
    grams: float
    deviation: float
    was_filled: bool


@dataclass(frozen=True, slots=True)
class Division:
    """The boxes in the order given, and what stays in the pot."""

    boxes: tuple[BoxFill, ...]
    remainder_g: float


def divide(problem: DivisionProblem) -> Division:
    """Divide a net weight over its boxes. Boxes + remainder = net weight, to the last decimal given.

    Boxes already filled keep their grams; the others share the rest in proportion to their targets, clipped to
    capacity. Cost grows with boxes², not with grams.

    Raises:
        Inconsistent: if the parts ever failed to add up to the whole (a bug of ours).
    """
    net = _exact(problem.net_g)
    rest = max(
        Fraction(0), net - sum((_exact(b.filled_g) for b in problem.boxes if b.filled_g is not None), Fraction(0))
    )
    given = _shares(problem, rest)
    fills = []
    for box in problem.boxes:
        grams = given[box.key] if box.filled_g is None else _exact(box.filled_g)
        deviation = float(grams / _exact(box.target_g) - 1)
        fills.append(BoxFill(box.key, float(grams), deviation, box.filled_g is not None))
    remainder = rest - sum(given.values(), Fraction(0))
    if remainder < 0:
        raise Inconsistent(say("{float} g more were given than the pot held", float=float(-remainder)))
    return Division(tuple(fills), float(remainder))


def divide_with_one(problem: DivisionProblem, key: str) -> Division:
    """Divide so that one box takes all that is missing or over: the others get their whole steps nearest to target.

    When the one box has nothing to give any more (or is filled already), all that are open share as usual.

    Raises:
        Inconsistent: if the parts ever failed to add up to the whole (a bug of ours).
    """
    step = problem.step_g
    kept: dict[str, float] = {}
    for box in problem.boxes:
        if box.filled_g is None and box.key != key:
            units = _nearest(_exact(box.target_g) / step, _most_units(box, problem))
            kept[box.key] = float(units * step)
    filled = sum((_exact(b.filled_g) for b in problem.boxes if b.filled_g is not None), Fraction(0))
    left = _exact(problem.net_g) - filled - sum((_exact(g) for g in kept.values()), Fraction(0))
    one = next((box for box in problem.boxes if box.key == key and box.filled_g is None), None)
    if one is None or left < 0:
        return divide(problem)
    most = _most_units(one, problem)
    units = int(left // step)
    kept[key] = float((units if most is None else min(units, most)) * step)
    boxes = []
    for box in problem.boxes:
        grams = kept.get(box.key, box.filled_g or 0.0)
        deviation = float(_exact(grams) / _exact(box.target_g) - 1)
        boxes.append(BoxFill(box.key, grams, deviation, box.filled_g is not None))
    return Division(tuple(boxes), float(left - _exact(kept[key])))


def _shares(problem: DivisionProblem, rest: Fraction) -> dict[str, Fraction]:
    """What each box that is not filled yet gets of the rest, in g."""
    free = [box for box in problem.boxes if box.filled_g is None]
    targets = [_exact(box.target_g) / problem.step_g for box in free]
    units = _divide_units(int(rest // problem.step_g), targets, [_most_units(box, problem) for box in free])
    return {box.key: Fraction(u * problem.step_g) for box, u in zip(free, units, strict=True)}


def _exact(grams: float) -> Fraction:
    """The decimal a person sees, not the binary float beside it."""
    return Fraction(repr(float(grams)))


def _most_units(box: BoxTarget, problem: DivisionProblem) -> int | None:
    """Whole units a box can take; one that keeps to its target can take no more than that. None is no limit."""
    limits = [box.capacity_g] if problem.policy == SPREAD else [box.capacity_g, box.target_g]
    units = [int(_exact(limit) // problem.step_g) for limit in limits if limit is not None]
    return min(units) if units else None


def _divide_units(supply: int, targets: Sequence[Fraction], capacities: Sequence[int | None]) -> list[int]:
    """Whole units per box, leximax: no other division has a smaller worst deviation, then next worst, and so on.

    Each box starts at the whole units nearest to its target. From there all boxes move the same way, for two that
    move against each other could both move back. Each unit makes its box's deviation worse, so the units whose
    resulting deviation is least are the ones to move. Most of them are moved at once: all that stay within a level a
    little inside the common one.
    """
    near = [_nearest(target, cap) for target, cap in zip(targets, capacities, strict=True)]
    difference = supply - sum(near)
    level, _ = _common_level(supply, targets, capacities)
    whole = sum(targets, Fraction(0))
    slack = Fraction(len(near)) / whole if whole else Fraction(0)
    units = list(near)
    if difference > 0 and level - slack >= 1:
        inside = [int(target * (level - slack)) for target in targets]
        units = [max(u, i if cap is None else min(i, cap)) for u, i, cap in zip(near, inside, capacities, strict=True)]
    elif difference < 0 and level + slack <= 1:
        units = [min(u, ceil(target * (level + slack))) for u, target in zip(near, targets, strict=True)]
    _settle(units, supply, targets, capacities)
    return units


def _nearest(target: Fraction, cap: int | None) -> int:
    """The whole units nearest to a target, the fewer of two equally near, within the capacity."""
    nearest = ceil(target - Fraction(1, 2))
    return nearest if cap is None else min(nearest, cap)


def _common_level(
    supply: int, targets: Sequence[Fraction], capacities: Sequence[int | None]
) -> tuple[Fraction, set[int]]:
    """The share of target that every box can reach alike, and the boxes that are full below it."""
    capped: set[int] = set()
    while True:
        open_targets = sum((t for i, t in enumerate(targets) if i not in capped), Fraction(0))
        if open_targets == 0:
            return Fraction(1), capped
        level = (supply - sum(capacities[i] or 0 for i in capped)) / open_targets
        full = {i for i, cap in enumerate(capacities) if cap is not None and cap <= targets[i] * level}
        if full <= capped:
            return level, capped
        capped |= full


def _settle(units: list[int], supply: int, targets: Sequence[Fraction], capacities: Sequence[int | None]) -> None:
    """Move the last units one by one, always where the resulting relative deviation is least.

    Of equals, the one furthest off already moves, so that the others stay nearer; then the box named first is given
    to, and the one named last is taken from.
    """
    difference = supply - sum(units)
    step = 1 if difference > 0 else -1
    movable: list[tuple[Fraction, Fraction, int, int]] = []  # a heap: what a move costs depends on its own box alone

    def may_move(i: int) -> None:
        target, cap, result = targets[i], capacities[i], units[i] + step
        if result >= 0 and (cap is None or result <= cap):
            heappush(movable, (abs(result - target) / target, -abs(units[i] - target) / target, i * step, i))

    if difference:
        for i in range(len(units)):
            may_move(i)
    for _ in range(abs(difference)):
        if not movable:
            return
        i = heappop(movable)[-1]
        units[i] += step
        may_move(i)


def check_division(problem: DivisionProblem, division: Division) -> tuple[str, ...]:
    """Every promise a division breaks, worked out from the answer alone; empty when it keeps them all."""
    broken = []
    given = sum(_exact(fill.grams) for fill in division.boxes) + _exact(division.remainder_g)
    if abs(given - _exact(problem.net_g)) > Fraction(1, 20):
        sums = {"given": float(given), "net_g": problem.net_g}
        broken.append(say("boxes and remainder come to {given} g, the pot held {net_g} g", **sums))
    if [fill.key for fill in division.boxes] != [box.key for box in problem.boxes]:
        broken.append(say("the boxes are not those asked for, in their order"))
    for box, fill in zip(problem.boxes, division.boxes, strict=False):
        if box.filled_g is not None and fill.grams != box.filled_g:
            broken.append(say("{key} was already filled and changed", key=box.key))
        if box.filled_g is None and fill.grams % problem.step_g:
            broken.append(say("{key} is not in whole steps of {step_g} g", key=box.key, step_g=problem.step_g))
        if box.filled_g is None and box.capacity_g is not None and fill.grams > box.capacity_g:
            broken.append(say("{key} holds more than it can", key=box.key))
        if fill.grams < 0:
            broken.append(say("{key} holds less than nothing", key=box.key))
    return tuple(broken)
