"""What is left in the house of what was put there, once batches were weighed in."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

from goodcrate.core.ground.writing import round_half_up


@dataclass(frozen=True, slots=True)
class Kept:
    """A food in the house: so many g as bought when it was counted last, opened or not.

    `since` is the day it was opened, or brought home while it is closed; `until` its last day, None where none is
    known. `is_first` is to be used before other food.
    """

    key: str
    food_key: str
    grams: float
    counted_at: datetime
    since: date
    until: date | None = None
    is_open: bool = True
    is_first: bool = False


@dataclass(frozen=True, slots=True)
class Taking:
    """So many g of a food, as bought, weighed into a batch at a moment (UTC); less than 0 is taken out of it again."""

    food_key: str
    grams: float
    at: datetime


def after_taking(kept: Sequence[Kept], takings: Iterable[Taking]) -> tuple[Kept, ...]:
    """What is left, in the same order.

    Each taking comes out of what was counted before it: what is to be used first, then what is open, then what keeps
    shortest. A closed pack that something is taken from is open from that day. What nobody noted as being in the house
    cannot be taken: the rest of such a taking came from elsewhere. What is taken out of a batch again goes back to what
    it would come out of.
    """
    left = {thing.key: thing for thing in kept}
    for taking in sorted(takings, key=lambda t: t.at):
        there = [t for t in left.values() if t.food_key == taking.food_key and t.counted_at <= taking.at]
        wanted = taking.grams
        if wanted < 0 and there:
            thing = min(there, key=_order)
            left[thing.key] = replace(thing, grams=round_half_up(thing.grams - wanted, 1))
        for thing in sorted(there, key=_order):
            part = min(wanted, thing.grams)
            if part > 0:
                since = thing.since if thing.is_open else taking.at.date()
                grams = round_half_up(thing.grams - part, 1)
                left[thing.key] = replace(thing, grams=grams, is_open=True, since=since)
                wanted -= part
    return tuple(left[thing.key] for thing in kept)


def _order(thing: Kept) -> tuple[bool, bool, date, date, str]:
    return not thing.is_first, not thing.is_open, thing.until or date.max, thing.since, thing.key
