"""The list as plain text and as a table."""

from collections.abc import Iterable

from goodcrate.core.shop.shelf import BOUGHT
from goodcrate.services.shop.listing import WeekShopping
from goodcrate.web.shop.view import Row, ShopView


def as_text(week: WeekShopping, view: ShopView) -> str:
    """The list as plain text, to send to whoever goes: what is not ticked yet."""
    parts = []
    for aisle in view.aisles:
        rows = [row for row in aisle.rows if row.state != BOUGHT]
        if rows:
            parts += [aisle.name.upper(), *(f"- {_in_text(row)}" for row in rows), ""]
    parts += [f"- {text} ({dish})" for text, dish in week.unread]
    return "\n".join(parts)


def _in_text(row: Row) -> str:
    return f"{row.line.food.name}: {row.buy}" + (f" ({row.label})" if row.label else "")


CSV_HEADER = (
    *("aisle", "food", "needed_g", "edible_g", "in_house_g", "buy_g", "packs", "left_g", "price", "estimated"),
    *("dishes", "bought_g"),
)


def as_rows(week: WeekShopping, view: ShopView) -> Iterable[tuple[object, ...]]:
    """The list as the rows of a table, weights in g, prices in the household's money without its sign."""
    for aisle in view.aisles:
        for row in aisle.rows:
            line, event = row.line, week.bought.get(row.line.food.key)
            packs = [] if line.buying is None else [f"{n} x {pack.grams:g}" for pack, n in line.buying.packs]
            yield (
                aisle.name,
                line.food.name,
                f"{line.needed_g:.1f}",
                f"{line.need.edible_g:.1f}",
                f"{line.house_g:.1f}",
                f"{line.buy_g:.1f}",
                " + ".join(packs),
                "" if line.remains is None else f"{line.remains.grams:.1f}",
                "" if line.price is None else f"{line.price:.2f}",
                "yes" if line.is_price_estimated else "",
                ", ".join(line.need.dishes),
                "" if event is None or event.grams is None else f"{event.grams:.1f}",
            )
