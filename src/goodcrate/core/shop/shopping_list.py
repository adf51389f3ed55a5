"""The list: needs less the house, in whole packs, what remains of each pack and where it goes, and what it costs."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from statistics import median

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.keep_groups import KeepGroup
from goodcrate.core.foods.packs import LEAST_LEFT, Buying, Pack, whole_packs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many, round_half_up
from goodcrate.core.shop.needs import Need
from goodcrate.core.week.storing import CAUTIOUS, CUPBOARD, FREEZER, FRIDGE, keeps_until

NO_NEED_G = 0.05
"""Less than a scale shows is nothing."""


@dataclass(frozen=True, slots=True)
class Stock:
    """What of a food is in the house: g as it stands there, where, and its last day, None when nobody knows one."""

    food_key: str
    grams: float
    place: str = CUPBOARD
    until: date | None = None


@dataclass(frozen=True, slots=True)
class Remains:
    """What is over of the packs of a food: g as bought, where it goes, until when it keeps there, and why."""

    grams: float
    place: str
    until: date | None
    why: str


@dataclass(frozen=True, slots=True)
class ShopLine:
    """One food on the list.

    `needed_g` is what the week weighs of it as bought; `spare_g` is bought on top for the usual loss, `floor_g` to keep
    what the household always keeps. `house_g` is taken from what is there, `past_g` is there but too old by its day.
    Without a known pack the food is bought loose, so many grams. `per_g` is what a gram of it costs, by its packs or
    estimated from others of its kind; None while nothing tells it. `wants_some`: nobody said how much, and none is
    there.
    """

    need: Need
    needed_g: float
    spare_g: float
    floor_g: float
    house_g: float
    past_g: float
    buy_g: float
    buying: Buying | None
    remains: Remains | None
    per_g: float | None
    is_price_estimated: bool
    wants_some: bool = False

    @property
    def food(self) -> Food:
        """The food."""
        return self.need.food

    @property
    def bought_g(self) -> float:
        """What is carried home, in g."""
        return self.buy_g if self.buying is None else self.buying.grams

    @property
    def price(self) -> float | None:
        """What it costs at the till; None while nothing tells it, or nobody knows how much it is."""
        if self.wants_some:
            return None
        if self.buying is not None and self.buying.price is not None:
            return self.buying.price
        return None if self.per_g is None else round(self.per_g * self.bought_g, 4)


@dataclass(frozen=True, slots=True)
class ShopRules:
    """What the list is made by: the aim of the packs, loss that is bought on top (%), what is always kept by food (g),
    the packs by food, how a food keeps, the household's keep rule, and until when the week's leftovers are waited for.
    """

    packs: Mapping[str, Sequence[Pack]]
    keeping: Mapping[str, KeepGroup]
    keep_rule: str = CAUTIOUS
    aim: str = LEAST_LEFT
    spare_pct: float = 0.0
    floors: Mapping[str, float] = field(default_factory=dict)
    next_use: date | None = None


@dataclass(frozen=True, slots=True)
class ShoppingList:
    """All of it, in the order of the needs; what is in the house already stands among it with nothing to buy."""

    lines: tuple[ShopLine, ...]

    @property
    def to_buy(self) -> tuple[ShopLine, ...]:
        """The lines something is bought for."""
        return tuple(line for line in self.lines if line.buy_g > 0 or line.wants_some)

    @property
    def price(self) -> float:
        """What the till says, of all whose price is known or estimated."""
        return round(sum(line.price or 0.0 for line in self.to_buy), 4)

    @property
    def estimated(self) -> float:
        """What of it is estimated, because a price is missing."""
        return round(sum(line.price or 0.0 for line in self.to_buy if line.is_price_estimated), 4)

    @property
    def unpriced(self) -> tuple[ShopLine, ...]:
        """Lines nothing tells a price of: they are in no sum."""
        return tuple(line for line in self.to_buy if line.price is None)


def shopping_list(needs: Iterable[Need], stock: Sequence[Stock], rules: ShopRules) -> ShoppingList:
    """Make the list.

    Raises:
        InvalidInput: for a pack, a price or an amount that cannot be.
    """
    lines, needs = [], list(needs)
    per_kind = prices_by_kind(rules.packs, [need.food for need in needs])
    for need in needs:
        there = [s for s in stock if s.food_key == need.food.key]
        house_g, past_g = _from_house(need, there)
        needed_g = need.bought_g(need.edible_g)
        missing_g = max(0.0, needed_g - house_g)
        spare_g = missing_g * rules.spare_pct / 100 if missing_g > NO_NEED_G else 0.0
        kept_g = sum(s.grams for s in there) - past_g - house_g
        floor_g = max(0.0, rules.floors.get(need.food.key, 0.0) - kept_g)
        buy_g = round_half_up(missing_g + spare_g + floor_g, 1)
        packs = rules.packs.get(need.food.key, ())
        buying = whole_packs(buy_g, packs, rules.aim) if packs and buy_g > 0 else None
        remains = _remains(need, buying, floor_g, rules) if buying is not None else None
        per_g = _per_g(packs, buying)
        lines.append(
            ShopLine(
                need,
                needed_g,
                spare_g,
                floor_g,
                house_g,
                past_g,
                buy_g=buy_g,
                buying=buying,
                remains=remains,
                per_g=per_kind.get(price_kind(need.food)) if per_g is None else per_g,
                is_price_estimated=per_g is None and price_kind(need.food) in per_kind,
                wants_some=bool(need.some_for) and buy_g <= 0 and not any(s.grams > 0 for s in there),
            )
        )
    return ShoppingList(tuple(lines))


def _from_house(need: Need, there: Sequence[Stock]) -> tuple[float, float]:
    """What of the house covers uses, and what is too old for all of them; in g as bought.

    Uses in the order of their days take what keeps shortest and still keeps then: no other order covers more.
    """
    there = sorted(there, key=lambda s: s.until or date.max)
    left = [stock.grams for stock in there]
    for use in need.uses:
        wanted = need.bought_g(use.grams)
        for n, stock in enumerate(there):
            if stock.until is None or stock.until >= use.day:
                part = min(wanted, left[n])
                left[n] -= part
                wanted -= part
    first = need.uses[0].day if need.uses else date.min
    past = sum(s.grams for s in there if s.until is not None and s.until < first)
    return sum(stock.grams for stock in there) - sum(left), past


def _remains(need: Need, buying: Buying, floor_g: float, rules: ShopRules) -> Remains | None:
    """Where the rest of a pack goes: the cupboard if it keeps dry, the fridge as long as it is wanted there, else the
    freezer if it freezes well."""
    if buying.left_g + floor_g <= NO_NEED_G:
        return None
    grams, group = round_half_up(buying.left_g + floor_g, 1), rules.keeping.get(need.food.key)
    if group is None:
        return Remains(grams, FRIDGE, None, say("nobody knows how long it keeps"))
    if group.keeps_dry:
        return Remains(grams, CUPBOARD, None, say("keeps dry"))
    opened = max((use.day for use in need.uses), default=rules.next_use or date.min)
    days = group.fridge_days_cautious if rules.keep_rule == CAUTIOUS else group.fridge_days_usual
    until = keeps_until(group, opened, days, is_frozen=False)
    if rules.next_use is not None and until < rules.next_use and group.freezable == "yes" and group.freezer_months:
        frozen = keeps_until(group, opened, days, is_frozen=True)
        return Remains(grams, FREEZER, frozen, say("{months} frozen", months=many(group.freezer_months, "month")))
    return Remains(grams, FRIDGE, until, say("{days} open", days=many(days, "day")))


Kind = tuple[str, str, str]


def price_kind(food: Food) -> Kind:
    """Foods that cost alike: of one group, kept alike (milk is no cheese), in one aisle (salt is no honey)."""
    return food.group, food.keep_group, food.aisle


def prices_by_kind(packs: Mapping[str, Sequence[Pack]], foods: Iterable[Food]) -> Mapping[Kind, float]:
    """What a gram costs in the middle of the foods of a kind whose price is known: for those it is not known of."""
    known: dict[Kind, list[float]] = {}
    for food in foods:
        prices = [pack.price / pack.grams for pack in packs.get(food.key, ()) if pack.price is not None]
        if prices:
            known.setdefault(price_kind(food), []).append(min(prices))
    return {kind: median(prices) for kind, prices in known.items()}


def _per_g(packs: Sequence[Pack], buying: Buying | None) -> float | None:
    """What a gram costs in the packs that are bought, else in the cheapest one known."""
    if buying is not None and buying.price is not None:
        return buying.price / buying.grams
    prices = [pack.price / pack.grams for pack in packs if pack.price is not None]
    return min(prices, default=None)
