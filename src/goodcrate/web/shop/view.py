"""The list as its page shows it: by aisle, each line with its packs drawn to scale, and what a box costs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import day_month, many, price, shown
from goodcrate.core.shop.costs import DishCost, cost_by_dish, till_of
from goodcrate.core.shop.shopping_list import Remains, ShopLine
from goodcrate.services.shop.listing import WeekShopping
from goodcrate.services.store.house import PLACES
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
    """A line of the list in words."""

    line: ShopLine
    needs: str
    edible: str
    house: str
    buy: str
    remains: str
    where: str
    price: str
    bar: PackBar


@dataclass(frozen=True)
class Aisle:
    """The lines of an aisle, and what they cost."""

    name: str
    rows: tuple[Row, ...]
    price: str


@dataclass(frozen=True)
class ShopView:
    """The whole page."""

    aisles: tuple[Aisle, ...]
    there: tuple[Row, ...]
    till: str
    a_box: str
    boxes: int
    packs: int
    lines: int
    tape: Tape


def shop_view(week: WeekShopping) -> ShopView:
    """Arrange a week's list."""
    shopping = week.shopping
    by_aisle: dict[str, list[ShopLine]] = {}
    for line in shopping.to_buy:
        by_aisle.setdefault(line.food.aisle or OTHER, []).append(line)
    known = {name: n for n, name in enumerate(AISLES)}
    in_order = sorted(by_aisle, key=lambda name: (known.get(name, len(known)), name))
    boxes = sum(week.boxes.values())
    eaten = till_of(shopping).eaten
    return ShopView(
        tuple(Aisle(name, tuple(map(_row, by_aisle[name])), _sum(by_aisle[name])) for name in in_order),
        tuple(_row(line) for line in shopping.lines if line.buy_g <= 0),
        till=_money(shopping.price, is_at_least=bool(shopping.unpriced)),
        a_box=_money(eaten / boxes, is_at_least=bool(shopping.unpriced)) if boxes else "",
        boxes=boxes,
        packs=sum(line.buying.count for line in shopping.to_buy if line.buying is not None),
        lines=len(shopping.to_buy),
        tape=_tape(week),
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


def _row(line: ShopLine) -> Row:
    need, has_waste = line.need, line.needed_g - line.need.edible_g > 0.5
    packs = [] if line.buying is None else [f"{n} × {_grams(pack.grams)}" for pack, n in line.buying.packs]
    buy = " + ".join(packs) or (_grams(line.buy_g) if line.buy_g > 0 else say("nothing"))
    cost = "?" if line.price is None else ("≈ " if line.is_price_estimated else "") + price(line.price)
    return Row(
        line,
        needs=_grams(line.needed_g),
        edible=say("{edible} trimmed", edible=_grams(need.edible_g)) if has_waste else "",
        house=_grams(line.house_g) if line.house_g > 0 else "–",
        buy=buy,
        remains=_grams(line.remains.grams) if line.remains is not None else "–",
        where=_where(line.remains) if line.remains is not None else "",
        price=cost if line.buy_g > 0 else "–",
        bar=_bar(line),
    )


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
    """What a box of each dish costs, and how the till and what is eaten come together."""
    till, shopping = till_of(week.shopping), week.shopping
    lines = tuple(_dish(cost, week.boxes) for cost in cost_by_dish(shopping))
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


def _dish(cost: DishCost, boxes: Mapping[str, int]) -> TapeLine:
    count = boxes.get(cost.dish, 0)
    note = say("≈ {price} of all is estimated", price=price(cost.estimated)) if cost.estimated > 0 else ""
    each = _money(cost.cost / count if count else cost.cost, is_at_least=cost.is_at_least)
    return TapeLine(cost.dish, many(count, "box") if count else say("every day"), each, note)


def as_text(view: ShopView) -> str:
    """The list as plain text, to send to whoever goes."""
    parts = []
    for aisle in view.aisles:
        parts.append(aisle.name.upper())
        parts += [f"- {row.line.food.name}: {row.buy}" for row in aisle.rows]
        parts.append("")
    return "\n".join(parts)
