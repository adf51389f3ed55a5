"""The shopping list of a large week, and the choice of packs for many foods: core's own time."""

import random
import time
from collections.abc import Sequence
from datetime import date
from statistics import median
from uuid import uuid4

from bench.server_times import Visit
from goodcrate.core.foods.packs import AIMS, Pack, whole_packs
from goodcrate.core.recipes.mixtures import keep_group_of
from goodcrate.core.shop.needs import Need, Use
from goodcrate.core.shop.shopping_list import ShopRules, Stock, shopping_list
from goodcrate.core.week.placings import week_dates
from goodcrate.formats.reference import keep_groups, reference_foods

SIZES = ((500,), (250, 500), (450,), (400, 500, 1000), (235,), (390, 400), (200, 250, 500, 1000), (37.3, 41.9, 250.1))
"""Packs of common sizes, and one food whose sizes share nothing."""


def _packs(dice: random.Random) -> list[Pack]:
    return [Pack(f"{grams}", grams, round(dice.uniform(0.5, 5), 2)) for grams in dice.choice(SIZES)]


def _took_ms(began: float) -> float:
    return (time.perf_counter() - began) * 1000


def measure_shopping(sunday: date) -> None:
    """Print both; the least of five rounds, since other work of the machine only adds."""
    dice = random.Random(1)
    wanted = [(dice.uniform(50, 3000), _packs(dice)) for _ in range(120)]
    for aim, words in AIMS.items():
        rounds = []
        for _ in range(5):
            began = time.perf_counter()
            for need_g, packs in wanted:
                whole_packs(need_g, packs, aim)
            rounds.append(_took_ms(began))
        print(f"  packs of 120 foods, {words:<43} {min(rounds):6.1f} ms   wanted: under 20 ms")
    needs = _large_week(dice, week_dates(sunday, 7))
    rules = ShopRules(
        {need.food.key: _packs(dice) for need in needs},
        {n.food.key: g for n in needs if (g := keep_groups().get(keep_group_of(n.food, cooked=False)))},
    )
    stock = [Stock(need.food.key, 80.0) for need in needs[::3]]
    rounds = []
    for _ in range(5):
        began = time.perf_counter()
        shopping_list(needs, stock, rules)
        rounds.append(_took_ms(began))
    uses = sum(len(need.uses) for need in needs)
    print(f"  list of {len(needs)} foods with {uses:,} uses: {min(rounds):.1f} ms   wanted: under 50 ms")


def _large_week(dice: random.Random, days: Sequence[date]) -> Sequence[Need]:
    """4 eaters of 28 meals with ten ingredients each, of 120 foods."""
    foods = [f for f in reference_foods().values() if f.group not in ("spice", "supplement")][:120]
    uses: dict[str, list[Use]] = {food.key: [] for food in foods}
    for meal in range(4 * 28):
        for food in dice.sample(foods, 10):
            uses[food.key].append(Use(f"dish {meal % 20}", dice.uniform(10, 200), dice.choice(days)))
    return [Need(food, tuple(sorted(uses[food.key], key=lambda u: u.day))) for food in foods if uses[food.key]]


def measure_at_the_shelf(visit: Visit, sunday: date) -> None:
    """Print the server's time of the demo's list, worked out anew, and of a tick, and what a tick takes on loopback."""
    listed, ticked, loopback = [], [], []
    for n in range(12):
        fields = [("csrf", visit.csrf), ("event", str(uuid4())), ("food", "cabbage_raw"), ("grams", str(900 + n))]
        began = time.perf_counter()
        visit.client.post(
            f"/shop/{sunday}/ticks", data=dict(fields), headers={"accept": "application/json"}
        ).raise_for_status()
        loopback.append(_took_ms(began))
        ticked.append(visit.server_ms[-1])
        visit.get(f"/shop/{sunday}")
        listed.append(visit.server_ms[-1])
    print(f"  the demo's list after a tick, server      median {median(listed):6.1f} ms   wanted: under 50 ms")
    print(f"  a tick, server                            median {median(ticked):6.1f} ms")
    print(f"  a tick on loopback                        median {median(loopback):6.1f} ms   wanted: under 100 ms")
