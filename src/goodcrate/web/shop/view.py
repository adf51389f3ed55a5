"""The list as its page shows it: by aisle, each line with its packs drawn to scale, and what a box costs."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.foods.food import ALLERGENS
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import day_month, many, price, shown, weekday_whole
from goodcrate.core.shop.costs import DishCost, cost_by_day, cost_by_dish, till_of
from goodcrate.core.shop.shelf import BOUGHT, NOT_THERE, OPEN, ShelfEvent
from goodcrate.core.shop.shopping_list import Remains, ShopLine
from goodcrate.core.week.storing import CUPBOARD
from goodcrate.services.shop.listing import WeekShopping
from goodcrate.services.store.house import PLACES
from goodcrate.web.figures import plain
from goodcrate.web.tape import Tape, TapeLine, Why

AISLES = (
    *("vegetables", "fruit", "herbs", "bakery", "butcher", "fish counter", "eggs", "dairy", "chilled", "grains"),
    *(
        "tins",
        "dried fruit",
        "nuts & seeds",
        "baking",
        "oils",
        "sauces",
        "spices",
        "snacks",
        "drinks",
        "health",
        "frozen",
    ),
)
"""A usual way through a shop, frozen food last; aisles of a household's own names follow by name."""
OTHER = Saying("other things")


@dataclass(frozen=True)
class PackBar:
    """A line drawn to scale, in per cent: what the house gives, each pack (from, width, used), what is needed."""

    house_pct: float
    packs: tuple[tuple[float, float, float], ...]
    need_pct: float
    told: str


@dataclass(frozen=True)
class Row:
    """A line of the list in words. `state` is what became of it at the shelf, `told` says it; `tick_g` is all that is
    carried home of it once it is ticked, None for what nobody weighs; `label` is what to look for on its label."""

    line: ShopLine
    state: str
    told: str
    tick_g: float | None
    label: str
    needs: str
    edible: str
    house: str
    buy: str
    packs: tuple[str, ...]
    remains: str
    where: str
    waits: str
    price: str
    bar: PackBar

    @property
    def sum(self) -> str:
        """The line as a sentence."""
        words = say("{needs} as bought", needs=self.needs)
        if self.line.house_g > 0:
            words += say(", {house} of it in the house", house=self.house)
        if self.waits:
            words += f"; {self.waits}"
        return words + (
            say("; {remains} stay: {where}.", remains=self.remains, where=self.where) if self.where else "."
        )

    @property
    def sends(self) -> str:
        """What its button says: open again what is ticked, else what is bought, nothing for what nobody weighs."""
        if self.state == BOUGHT:
            return OPEN
        return self.sends_g

    @property
    def sends_g(self) -> str:
        """All that is carried home of it, as a field holds it."""
        return "" if self.tick_g is None else plain(self.tick_g)


@dataclass(frozen=True)
class Aisle:
    """The lines of an aisle, and what they cost."""

    name: str
    rows: tuple[Row, ...]
    price: str


@dataclass(frozen=True)
class Basket:
    """How far the shopping is: what lies in the basket, what all of it will cost, and the budget, drawn in per cent of
    the larger of both."""

    ticked: int
    lines: int
    paid: str
    whole: str
    paid_pct: float
    whole_pct: float
    budget: str = ""
    budget_pct: float = 0.0
    is_over: bool = False


@dataclass(frozen=True)
class ShopView:
    """The whole page."""

    aisles: tuple[Aisle, ...]
    there: tuple[Row, ...]
    basket: Basket
    till: str
    a_box: str
    boxes: int
    packs: int
    lines: int
    tape: Tape


def shop_view(week: WeekShopping) -> ShopView:
    """Arrange a week's list."""
    shopping = week.shopping
    shown = _on_the_list(week)
    by_aisle: dict[str, list[ShopLine]] = {}
    for line in shown:
        by_aisle.setdefault(line.food.aisle or OTHER, []).append(line)
    boxes = sum(week.boxes.values())
    eaten = till_of(shopping).eaten
    on_list = {line.food.key for line in shown}
    return ShopView(
        tuple(
            Aisle(name, tuple(_row(line, week) for line in by_aisle[name]), _sum(by_aisle[name]))
            for name in aisles_in_order(by_aisle, week.settings.aisles)
        ),
        tuple(_row(line, week) for line in shopping.lines if line.food.key not in on_list),
        basket_of(week),
        till=_money(shopping.price, is_at_least=bool(shopping.unpriced)),
        a_box=_money(eaten / boxes, is_at_least=bool(shopping.unpriced)) if boxes else "",
        boxes=boxes,
        packs=sum(line.buying.count for line in shopping.to_buy if line.buying is not None),
        lines=len(shown),
        tape=_tape(week),
    )


def _on_the_list(week: WeekShopping) -> list[ShopLine]:
    """What is bought for the week, and what was ticked for it."""
    to_buy = {line.food.key for line in week.shopping.to_buy}
    return [line for line in week.shopping.lines if line.food.key in to_buy or line.food.key in week.bought]


def aisles_in_order(names: Iterable[str], own: Sequence[str]) -> list[str]:
    """Aisles in the order of the household's own shop, those it does not name in the usual one after them."""
    known = {name: n for n, name in enumerate(dict.fromkeys(map(str.lower, (*own, *AISLES))))}
    return sorted(names, key=lambda name: (known.get(name.lower(), len(known)), name))


def basket_of(week: WeekShopping) -> Basket:
    """How far the shopping is."""
    lines = _on_the_list(week)
    paid = whole = 0.0
    for line in lines:
        event = week.bought.get(line.food.key)
        cost = line.price or 0.0
        if event is not None:
            cost = cost if event.price is None else event.price
            paid += cost
        whole += cost
    budget, unpriced = week.settings.week_budget, any(line.price is None for line in lines)
    most = max(whole, budget or 0.0, 0.01)
    return Basket(
        sum(line.food.key in week.bought for line in lines),
        len(lines),
        price(paid),
        _money(whole, is_at_least=unpriced),
        _pct(paid / most),
        _pct(whole / most),
        budget="" if budget is None else price(budget),
        budget_pct=_pct((budget or 0.0) / most),
        is_over=budget is not None and whole > budget,
    )


def _money(value: float, *, is_at_least: bool = False) -> str:
    """A sum; “≥” where something in it has no price, “?” where nothing has."""
    if is_at_least and value <= 0:
        return "?"
    return f"≥ {price(value)}" if is_at_least else price(value)


def _sum(lines: Sequence[ShopLine]) -> str:
    return _money(sum(line.price or 0.0 for line in lines), is_at_least=any(line.price is None for line in lines))


def _grams(grams: float) -> str:
    return say("{grams} g", grams=shown(grams, 0 if grams >= 20 else 1))


def _row(line: ShopLine, week: WeekShopping) -> Row:
    need, has_waste = line.need, line.needed_g - line.need.edible_g > 0.5
    event, still = week.shelf.get(line.food.key), week.still.get(line.food.key, line)
    state, told = said_of(event, 0.0 if event is None else still.buy_g)
    cost = "?" if line.price is None else ("≈ " if line.is_price_estimated else "") + price(line.price)
    return Row(
        line,
        state,
        told,
        _tick_g(line, event, still),
        _label(week, line.food.key),
        needs=_grams(line.needed_g) if line.needed_g > 0 else say("some"),
        edible=say("{edible} trimmed", edible=_grams(need.edible_g)) if has_waste else "",
        house=_grams(line.house_g) if line.house_g > 0 else "–",
        buy=_buy_words(line),
        packs=_packs(line),
        remains=_grams(line.remains.grams) if line.remains is not None else "–",
        where=_where(line.remains) if line.remains is not None else "",
        waits=_waits(line),
        price=cost if line.buy_g > 0 else "–",
        bar=_bar(line),
    )


def _waits(line: ShopLine) -> str:
    """What of its packs waits for another dish, so that nobody uses it up."""
    later = line.need.waiting
    if later is None or line.buying is None or (line.remains is not None and line.remains.place == CUPBOARD):
        return ""
    grams, day = _grams(line.need.bought_g(later.grams)), weekday_whole(later.day)
    return say("{grams} wait for {dish}, {day}", grams=grams, dish=later.dish, day=day)


def _packs(line: ShopLine) -> tuple[str, ...]:
    return () if line.buying is None else tuple(f"{n} × {_grams(pack.grams)}" for pack, n in line.buying.packs)


def _buy_words(line: ShopLine) -> str:
    if packs := _packs(line):
        return " + ".join(packs)
    if line.wants_some:
        return say("some")
    return _grams(line.buy_g) if line.buy_g > 0 else say("nothing")


def _tick_g(line: ShopLine, event: ShelfEvent | None, still: ShopLine) -> float | None:
    """All that is carried home of a food once its row is ticked."""
    if line.wants_some:
        return None
    if event is None or event.kind != BOUGHT or event.grams is None:
        return line.bought_g
    return event.grams + (still.bought_g if still.buy_g > 0 else 0.0)


def said_of(event: ShelfEvent | None, still_g: float) -> tuple[str, str]:
    """What became of a food at the shelf, as a word for the page and as words for the cook."""
    if event is None or event.kind not in (BOUGHT, NOT_THERE):
        return OPEN, ""
    if event.kind == NOT_THERE:
        return NOT_THERE, say("was not there")
    words = say("bought") if event.grams is None else say("{grams} bought", grams=_grams(event.grams))
    if event.price is not None:
        words += f", {price(event.price)}"
    if event.grams is not None and still_g > 0:
        return MORE, say("{bought}; {more} more are needed", bought=words, more=_grams(still_g))
    return BOUGHT, words


MORE = "more"
"""Bought, and since then more is needed."""


def _label(week: WeekShopping, food_key: str) -> str:
    allergens, names = week.labels.get(food_key, (frozenset(), ()))
    if not allergens:
        return ""
    free_of = ", ".join(ALLERGENS[a] for a in sorted(allergens))
    return say("read the label: no {allergens} ({names})", allergens=free_of, names=", ".join(names))


def _where(remains: Remains) -> str:
    place = PLACES[remains.place]
    if remains.until is None:
        return f"{place}, {remains.why}"
    return say("{place}, by {day}", place=place, day=day_month(remains.until))


def _bar(line: ShopLine) -> PackBar:
    """House first, then the packs, of which the need uses the first ones up."""
    whole = max(line.house_g + line.bought_g, line.needed_g, 1.0)
    sizes = [line.bought_g] if line.buying is None and line.buy_g > 0 else []
    if line.buying is not None:
        sizes = [pack.grams for pack, n in line.buying.packs for _ in range(n)]
    at, packs = line.house_g, []
    for size in sizes:
        used = min(max(line.needed_g - at, 0.0), size)
        packs.append((_pct(at / whole), _pct(size / whole), _pct(used / whole)))
        at += size
    told = say(
        "{house} from the house, {bought} in packs, {need} needed",
        house=_grams(line.house_g),
        bought=_grams(line.bought_g),
        need=_grams(line.needed_g),
    )
    return PackBar(_pct(line.house_g / whole), tuple(packs), _pct(line.needed_g / whole), told)


def _pct(share: float) -> float:
    return round(100 * share, 1)


def _tape(week: WeekShopping) -> Tape:
    """What a box of each dish and each day costs, and how the till and what is eaten come together."""
    till, shopping = till_of(week.shopping), week.shopping
    servings: dict[str, float] = {}
    for meal in week.eaten:
        servings[meal.dish] = servings.get(meal.dish, 0.0) + meal.servings
    dishes = tuple(_dish(cost, week.boxes, servings) for cost in cost_by_dish(shopping))
    days = tuple(
        TapeLine(weekday_whole(day.day), "", _money(day.cost, is_at_least=day.is_at_least))
        for day in cost_by_day(shopping, week.eaten, week.picture.dates)
    )
    lines = dishes + days
    sums = (
        TapeLine(say("at the till"), "", price(till.paid)),
        TapeLine(say("not eaten this week: left in packs"), "", f"− {price(till.in_packs)}"),
        TapeLine(say("out of the house"), "", f"+ {price(till.from_house)}"),
        TapeLine(say("eaten"), "", price(till.eaten)),
    )
    whys = []
    if shopping.unpriced:
        names = ", ".join(line.food.name.split(",")[0] for line in shopping.unpriced[:3])
        told = say(
            "{lines} have no price, and nothing like them has: {names} … Sums leave them out and say ≥.",
            lines=many(len(shopping.unpriced), "line"),
            names=names,
        )
        whys.append(Why(told, say("Type prices"), f"/foods/{shopping.unpriced[0].food.key}"))
    if shopping.estimated > 0:
        share = say("{percent} %", percent=shown(100 * shopping.estimated / shopping.price))
        whys.append(
            Why(
                say(
                    "≈ {price} of the till, {share}, is estimated by other foods of the same kind.",
                    price=price(shopping.estimated),
                    share=share,
                )
            )
        )
    return Tape(say("What a box costs"), say("as eaten, by the prices of the packs"), lines, sums, tuple(whys))


def _dish(cost: DishCost, boxes: Mapping[str, int], servings: Mapping[str, float]) -> TapeLine:
    count, whole = boxes.get(cost.dish, 0), servings.get(cost.dish, 0.0)
    note = say("{price} a serving", price=_money(cost.cost / whole, is_at_least=cost.is_at_least)) if whole > 0 else ""
    if cost.estimated > 0:
        estimated = say("≈ {price} of all is estimated", price=price(cost.estimated))
        note = f"{note}; {estimated}" if note else estimated
    each = _money(cost.cost / count if count else cost.cost, is_at_least=cost.is_at_least)
    return TapeLine(cost.dish, many(count, "box") if count else say("every day"), each, note)
