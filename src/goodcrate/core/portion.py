"""Portioning: a weighed pot divided into boxes, in whole steps of grams, with nothing lost.

The promise is *leximax*: among all divisions in whole steps, the one whose worst relative deviation from
target is least, then the next worst, and so on; ties go to the box named first. All arithmetic is exact.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from goodcrate.core.errors import Inconsistent, InvalidInput, InvalidInputs

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
            faults.append(InvalidInput("net_g", f"{self.net_g:g} g cannot be divided.", "Give a net weight above 0 g."))
        if not 1 <= self.step_g <= 100:
            faults.append(InvalidInput("step_g", f"A step of {self.step_g} g is not possible.", "Give 1 to 100 g."))
        if self.policy not in (SPREAD, KEEP):
            faults.append(InvalidInput("policy", f"“{self.policy}” is no way of dividing.", "Choose spread or keep."))
        if not self.boxes:
            faults.append(InvalidInput("boxes", "There is no box to fill.", "Give at least one."))
        if len({box.key for box in self.boxes}) < len(self.boxes):
            faults.append(InvalidInput("boxes", "Two boxes have the same key.", "Name each once."))
        for place, box in enumerate(self.boxes):
            if not 0 < box.target_g <= 1_000_000:
                faults.append(
                    InvalidInput(f"boxes.{place}.target_g", f"{box.target_g:g} g is no target.", "Above 0 g.")
                )
            for name, value in (("capacity_g", box.capacity_g), ("filled_g", box.filled_g)):
                if value is not None and not 0 <= value <= 1_000_000:
                    faults.append(
                        InvalidInput(f"boxes.{place}.{name}", f"{value:g} g is not possible.", "0 g or more.")
                    )
        if faults:
            raise InvalidInputs(faults)
        filled = sum(box.filled_g or 0.0 for box in self.boxes)
        if filled > self.net_g + 0.05:
            raise InvalidInputs(
                [
                    InvalidInput(
                        "boxes",
                        f"The filled boxes hold {filled:,.1f} g, the pot gave {self.net_g:,.1f} g.",
                        "Weigh the pot or a box again.",
                    )
                ]
            )


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
    free = [box for box in problem.boxes if box.filled_g is None]
    units = _divide_units(
        int(rest // problem.step_g),
        [_exact(box.target_g) / problem.step_g for box in free],
        [None if box.capacity_g is None else int(_exact(box.capacity_g) // problem.step_g) for box in free],
        may_exceed=problem.policy == SPREAD,
    )
    given = dict(zip((box.key for box in free), (Fraction(u * problem.step_g) for u in units), strict=True))
    fills = []
    for box in problem.boxes:
        grams = given[box.key] if box.filled_g is None else _exact(box.filled_g)
        deviation = float(grams / _exact(box.target_g) - 1)
        fills.append(BoxFill(box.key, float(grams), deviation, box.filled_g is not None))
    remainder = rest - sum(given.values(), Fraction(0))
    if remainder < 0:
        raise Inconsistent(f"{float(-remainder)} g more were given than the pot held")
    return Division(tuple(fills), float(remainder))


def _exact(grams: float) -> Fraction:
    """The decimal a person sees, not the binary float beside it."""
    return Fraction(repr(float(grams)))


def _divide_units(
    supply: int, targets: Sequence[Fraction], capacities: Sequence[int | None], may_exceed: bool
) -> list[int]:
    """Whole units per box: the common level first (exact water-filling under the capacities), then the last few.

    Every unit of the level has a resulting deviation no worse than the level, so taking the level at once is the
    same as giving unit by unit to the box whose resulting deviation is least.
    """
    count = len(targets)
    if count == 0:
        return []
    capped: set[int] = set()
    while True:
        open_targets = sum((targets[i] for i in range(count) if i not in capped), Fraction(0))
        if open_targets == 0:
            level = Fraction(1)
            break
        left = supply - sum(capacities[i] or 0 for i in capped)
        level = left / open_targets
        if not may_exceed:
            level = min(level, Fraction(1))
        newly = {
            i
            for i in range(count)
            if i not in capped and (cap := capacities[i]) is not None and cap <= targets[i] * level
        }
        if not newly:
            break
        capped |= newly
    giving = level >= 1
    units = []
    for i in range(count):
        cap = capacities[i]
        if i in capped and cap is not None:
            units.append(cap)
            continue
        exact = targets[i] * level
        rounded = int(exact // 1) if giving else -int(-exact // 1)
        units.append(rounded if cap is None else min(rounded, cap))
    _settle(units, supply, targets, capacities, may_exceed)
    return units


def _settle(
    units: list[int], supply: int, targets: Sequence[Fraction], capacities: Sequence[int | None], may_exceed: bool
) -> None:
    """Move the last units one by one, always where the resulting relative deviation is least."""
    difference = supply - sum(units)
    step = 1 if difference > 0 else -1
    for _ in range(abs(difference)):
        movable = []
        for i, target in enumerate(targets):
            cap, result = capacities[i], units[i] + step
            full = cap is not None and result > cap
            past_target = not may_exceed and step > 0 and result > target
            if result >= 0 and not full and not past_target:
                movable.append((abs(result - target) / target, i))
        if not movable:
            return
        units[min(movable)[1]] += step


def check_division(problem: DivisionProblem, division: Division) -> tuple[str, ...]:
    """Every promise a division breaks, worked out from the answer alone; empty when it keeps them all."""
    broken = []
    given = sum(_exact(fill.grams) for fill in division.boxes) + _exact(division.remainder_g)
    if abs(given - _exact(problem.net_g)) > Fraction(1, 20):
        broken.append(f"boxes and remainder come to {float(given)} g, the pot held {problem.net_g} g")
    if [fill.key for fill in division.boxes] != [box.key for box in problem.boxes]:
        broken.append("the boxes are not those asked for, in their order")
    for box, fill in zip(problem.boxes, division.boxes, strict=False):
        if box.filled_g is not None and fill.grams != box.filled_g:
            broken.append(f"{box.key} was already filled and changed")
        if box.filled_g is None and fill.grams % problem.step_g:
            broken.append(f"{box.key} is not in whole steps of {problem.step_g} g")
        if box.filled_g is None and box.capacity_g is not None and fill.grams > box.capacity_g:
            broken.append(f"{box.key} holds more than it can")
        if fill.grams < 0:
            broken.append(f"{box.key} holds less than nothing")
    return tuple(broken)
