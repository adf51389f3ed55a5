"""Whole packs that cover a need: exactly the combination that leaves least, or costs least."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import ceil, gcd, prod

from goodcrate.core.foods.food import FOOD_FACTS
from goodcrate.core.ground.amounts import LARGEST_POT_G
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import shown

LEAST_LEFT, LEAST_COST = "least_left", "least_cost"
AIMS = {LEAST_LEFT: Saying("least left over"), LEAST_COST: Saying("lowest price")}
"""What a choice of packs is judged by first."""
_TENTHS = 10
"""Amounts are weighed and printed to a tenth of a gram; packs are added up in whole tenths."""


@dataclass(frozen=True, slots=True)
class Pack:
    """A pack that is on sale: what is in it as bought (g), and its price, None when nobody knows it."""

    key: str
    grams: float
    price: float | None = None

    def __post_init__(self) -> None:
        size, price = FOOD_FACTS["pack_g"], FOOD_FACTS["price"]
        if not size.low <= self.grams <= size.high:
            raise InvalidInput(
                "pack_g",
                say("A pack of {grams} g cannot be.", grams=shown(self.grams, 1)),
                say("Give {low} to {high} g.", low=shown(size.low), high=shown(size.high)),
            )
        if self.price is not None and not price.low <= self.price <= price.high:
            raise InvalidInput(
                "price",
                say("A pack for {price} cannot be.", price=shown(self.price, 2)),
                say("Give {low} to {high}.", low=shown(price.low), high=shown(price.high)),
            )


@dataclass(frozen=True, slots=True)
class Buying:
    """Packs to buy, each with how many, the largest first; `left_g` is what they hold beyond the need."""

    packs: tuple[tuple[Pack, int], ...] = ()
    left_g: float = 0.0

    @property
    def grams(self) -> float:
        """What all of them hold."""
        return round(sum(pack.grams * count for pack, count in self.packs), 1)

    @property
    def count(self) -> int:
        """How many packs they are."""
        return sum(count for _, count in self.packs)

    @property
    def price(self) -> float | None:
        """What they cost together; None when the price of any is not known."""
        if any(pack.price is None for pack, _ in self.packs):
            return None
        return round(sum((pack.price or 0.0) * count for pack, count in self.packs), 4)


def whole_packs(need_g: float, packs: Sequence[Pack], aim: str = LEAST_LEFT) -> Buying:
    """The whole packs to buy for a need (g as bought).

    Least left over: no combination that covers the need leaves less; of those the cheapest, then the fewest packs, and
    a combination whose price is not known after any other. Lowest price: no combination of the packs with a price
    that covers the need costs less; of those the one that leaves least, then the fewest packs. Without any price it
    is least left over. What is not looked at cannot be better (`_by_counts`, `_by_totals`); the tests try all.

    Raises:
        InvalidInput: without a pack, or for a need that is no amount of food.
    """
    if not 0 <= need_g <= LARGEST_POT_G:
        raise InvalidInput(
            "need_g",
            say("{need} g to buy cannot be.", need=shown(need_g, 1)),
            say("Give 0 to {most} g.", most=shown(LARGEST_POT_G)),
        )
    if not packs:
        raise InvalidInput("packs", say("No pack is known."), say("Say what a pack weighs."))
    need = ceil(round(need_g * _TENTHS, 6))
    if need == 0:
        return Buying()
    offered = _worth_looking_at(packs, aim)
    best = min(_ways(need, offered), key=_MERIT[aim if all(p.price is not None for p in offered) else LEAST_LEFT])
    bought = tuple((pack, count) for pack, count in zip(offered, best.counts, strict=True) if count)
    return Buying(bought, round(best.total / _TENTHS - need_g, 1))


def _tenths(pack: Pack) -> int:
    return round(pack.grams * _TENTHS)


def _worth_looking_at(packs: Sequence[Pack], aim: str) -> list[Pack]:
    """One pack of each size, the cheapest; for the lowest price only those with one. The largest come first."""
    priced = [pack for pack in packs if pack.price is not None]
    best: dict[int, Pack] = {}
    for pack in priced if aim == LEAST_COST and priced else packs:
        there = best.get(_tenths(pack))
        if there is None or _dearness(pack) < _dearness(there):
            best[_tenths(pack)] = pack
    return [best[size] for size in sorted(best, reverse=True)]


def _dearness(pack: Pack) -> tuple[bool, float, str]:
    return pack.price is None, pack.price or 0.0, pack.key


@dataclass(frozen=True, slots=True)
class _Way:
    """So many of each pack: what they hold (tenths of a g), how many have no price, the price of the others."""

    counts: tuple[int, ...]
    total: int
    unknown: int
    price: float
    packs: int

    def and_(self, count: int, pack: Pack, size: int) -> "_Way":
        """The same with so many of the next size."""
        has_price = pack.price is not None
        return _Way(
            (*self.counts, count),
            self.total + size * count,
            self.unknown + (0 if has_price else count),
            round(self.price + (pack.price or 0.0) * count, 4),
            self.packs + count,
        )


_MERIT: Mapping[str, Callable[[_Way], tuple[float, ...]]] = {
    LEAST_LEFT: lambda way: (way.total, way.unknown, way.price, way.packs),
    LEAST_COST: lambda way: (way.price, way.total, way.packs),
}
"""How good a way is among those that cover the same need, least first."""


def _ways(need: int, packs: Sequence[Pack]) -> Iterable[_Way]:
    """Ways to cover a need, the best by either aim among them, by whichever road has less to look at."""
    sizes = [_tenths(pack) for pack in packs]
    step = gcd(*sizes)
    totals = ceil((need + sizes[0]) / step) * len(sizes)
    if prod(ceil(need / size) + 1 for size in sizes[:-1]) <= totals:
        return _by_counts(need, packs, sizes)
    return _by_totals(need, packs, [size // step for size in sizes], step)


def _by_counts(need: int, packs: Sequence[Pack], sizes: Sequence[int]) -> Iterable[_Way]:
    """All ways without a pack to spare: of each size as many as still cover something, the rest of the smallest.

    Less of the smallest does not cover the need; more leaves more and costs no less.
    """
    ways = [_Way((), 0, 0, 0.0, 0)]
    for pack, size in zip(packs[:-1], sizes[:-1], strict=True):
        ways = [way.and_(n, pack, size) for way in ways for n in range(max(0, ceil((need - way.total) / size)) + 1)]
    return [way.and_(max(0, ceil((need - way.total) / sizes[-1])), packs[-1], sizes[-1]) for way in ways]


def _by_totals(need: int, packs: Sequence[Pack], sizes: Sequence[int], step: int) -> Iterable[_Way]:
    """For each total that covers the need by less than the largest pack: its cheapest, then smallest combination.

    Beyond that a pack could be put back. A total is reached from one that is smaller by one pack (dynamic programming).
    """
    first, last = ceil(need / step), ceil(need / step) + sizes[0]
    worth: list[tuple[int, float, int] | None] = [None] * last
    by: list[int] = [0] * last
    worth[0] = (0, 0.0, 0)
    for total in range(1, last):
        for n, size in enumerate(sizes):
            before = worth[total - size] if size <= total else None
            if before is None:
                continue
            price = packs[n].price
            here = (before[0] + (price is None), round(before[1] + (price or 0.0), 4), before[2] + 1)
            there = worth[total]
            if there is None or here < there:
                worth[total], by[total] = here, n
    for total in range(first, last):
        reached = worth[total]
        if reached is None:
            continue
        counts, left = [0] * len(packs), total
        while left:
            counts[by[left]] += 1
            left -= sizes[by[left]]
        yield _Way(tuple(counts), total * step, reached[0], reached[1], reached[2])
