"""What a planned week buys: foods with their packs, what is needed anyway, and what the till says of its meals."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from goodcrate.core.foods.packs import LEAST_LEFT, Pack, whole_packs
from goodcrate.core.ground.amounts import LARGEST_POT_G
from goodcrate.core.ground.writing import round_half_up


@dataclass(frozen=True, slots=True)
class Weighed:
    """What a gram of a dish takes of a food, in g as bought: weighed at its session, or so many days before it is
    eaten (0 on the day, 1 the night before)."""

    food_key: str
    per_g: float
    days_before: int | None = None


@dataclass(frozen=True, slots=True)
class PlanFood:
    """A food as the planner buys it.

    `packs` it is sold in, each with its price; without any it is bought loose at `per_g` (money a gram). `needs` is
    what the week takes of it anyway, by day (g as bought), `stock` what is in the house (g, last day; None keeps), and
    `floor_g` what is always kept.
    """

    key: str
    packs: tuple[Pack, ...] = ()
    per_g: float = 0.0
    needs: Mapping[int, float] = field(default_factory=dict)
    stock: tuple[tuple[float, int | None], ...] = ()
    floor_g: float = 0.0

    @property
    def about_per_g(self) -> float:
        """What a gram costs in its cheapest pack."""
        prices = [pack.price / pack.grams for pack in self.packs if pack.price is not None]
        return min(prices, default=self.per_g)

    def price_of(self, buy_g: float, aim: str = LEAST_LEFT) -> float:
        """What so much of it costs at the till, in whole packs.

        Raises:
            InvalidInput: for packs that cannot be.
        """
        if buy_g <= 0:
            return 0.0
        if not self.packs:
            return self.per_g * buy_g
        bought = whole_packs(min(buy_g, LARGEST_POT_G), self.packs, aim)
        return self.per_g * bought.grams if bought.price is None else bought.price

    def to_buy_g(self, needs: Mapping[int, float], spare_pct: float = 0.0) -> float:
        """How much is bought for needs by day, all of them: less the house, with the usual loss, and what is kept."""
        stock = sorted(self.stock, key=lambda s: (s[1] is None, s[1] or 0))
        left = [grams for grams, _ in stock]
        missing = 0.0
        for day in sorted(needs):
            wanted = needs[day]
            for n, (_, until) in enumerate(stock):
                if until is None or until >= day:
                    part = min(wanted, left[n])
                    left[n] -= part
                    wanted -= part
            missing += wanted
        first = min((day for day, grams in needs.items() if grams > 0), default=None)
        kept = sum(grams for grams, (_, until) in zip(left, stock, strict=True) if not _is_past(until, first))
        return round_half_up(missing * (1 + spare_pct / 100) + max(0.0, self.floor_g - kept), 1)


def _is_past(until: int | None, first: int | None) -> bool:
    """Whether its last day is before anything needs it."""
    return until is not None and first is not None and until < first


@dataclass(frozen=True, slots=True)
class Till:
    """How a week is bought: its foods, the aim of the packs, loss that is bought on top (%), and what the list may cost
    (None: nothing is said)."""

    foods: tuple[PlanFood, ...]
    aim: str = LEAST_LEFT
    spare_pct: float = 0.0
    budget: float | None = None

    def price(self, weighed: Iterable[tuple[str, int, float]]) -> float:
        """What the list costs when so much of these foods is weighed (food, day, g as bought) besides what is needed
        anyway.

        Raises:
            InvalidInput: for packs that cannot be.
        """
        needs = {food.key: dict(food.needs) for food in self.foods}
        for key, day, grams in weighed:
            if key in needs:
                needs[key][day] = needs[key].get(day, 0.0) + grams
        bought: Sequence[float] = [
            food.price_of(food.to_buy_g(needs[food.key], self.spare_pct), self.aim) for food in self.foods
        ]
        return round(sum(bought), 2)
