"""What weighed pots teach about a component's yield."""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median


@dataclass(frozen=True, slots=True)
class LearnedYield:
    """A yield learned from pots that were weighed: the median of the last ones, with the lowest and highest."""

    factor: float
    low: float
    high: float
    pots: int


LEARN_FROM = 5


def learned_yield(yields: Sequence[float]) -> LearnedYield | None:
    """What the last `LEARN_FROM` weighed pots teach, oldest first; None when no pot was weighed."""
    last = [y for y in yields if y > 0][-LEARN_FROM:]
    return LearnedYield(median(last), min(last), max(last), len(last)) if last else None
