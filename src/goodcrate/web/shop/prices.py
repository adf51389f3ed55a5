"""What a food cost, drawn small: its price per 100 g on each day one was noted."""

from collections.abc import Sequence
from dataclasses import dataclass

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import day_month, price
from goodcrate.services.foods.packs_known import PackSeen

WIDTH, HEIGHT, EDGE = 220.0, 44.0, 6.0


@dataclass(frozen=True)
class PriceChart:
    """Points from left (first) to right (last) in a field of `WIDTH` × `HEIGHT`, and what they say."""

    points: tuple[tuple[float, float], ...]
    told: str
    low: str
    high: str

    @property
    def line(self) -> str:
        """The points as an SVG line."""
        return " ".join(f"{x:.1f},{y:.1f}" for x, y in self.points)


def price_chart(packs: Sequence[PackSeen]) -> PriceChart | None:
    """What 100 g cost over time; None before there are two prices to compare."""
    seen = [(p.day, p.price * 100 / p.grams) for p in packs if p.price is not None]
    if len(seen) < 2:
        return None
    first, days = seen[0][0], max((seen[-1][0] - seen[0][0]).days, 1)
    low, high = min(cost for _, cost in seen), max(cost for _, cost in seen)
    spread = max(high - low, 1e-9)
    points = tuple(
        (
            EDGE + (WIDTH - 2 * EDGE) * (day - first).days / days,
            HEIGHT - EDGE - (HEIGHT - 2 * EDGE) * ((cost - low) / spread if high > low else 0.5),
        )
        for day, cost in seen
    )
    told = say(
        "100 g: {was} on {first}, {now} on {last}",
        was=price(seen[0][1]),
        first=day_month(first),
        now=price(seen[-1][1]),
        last=day_month(seen[-1][0]),
    )
    return PriceChart(points, told, price(low), price(high))
