"""What the list of a week costs in whole packs, as linear rules of its model: exact in everything but portions' 5 g."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any, Protocol

from goodcrate.core.foods.packs import LEAST_COST
from goodcrate.core.ground.amounts import LARGEST_POT_G
from goodcrate.core.week.week_buying import PlanFood, Till
from goodcrate.core.week.week_problem import PlanDish, WeekPlanProblem


class Weighing(Protocol):
    """What of a model is asked here."""

    m: Any
    problem: WeekPlanProblem
    dish: dict[str, PlanDish]

    def units_for_meals(self, which: Callable[[PlanDish], bool]) -> Iterator[tuple[tuple[int, str, int], Any, float]]:
        """By slot, dish and session, how many units of a portion are cooked there, and the g of one."""
        ...


MG = 1000
"""Food is counted in mg."""
MILLI = 1000
"""Money is counted in thousandths of the household's unit."""
PER_G = 1_000_000
_PERCENT, _TENTHS = 100, 10
MOST_DAYS = 100
"""Before any day of a plan."""
MOST_OF_A_FOOD_G = 6000.0
"""So much of one food that is sold in several sizes is bought at most in a week that is planned."""
MOST_MG = round(LARGEST_POT_G) * MG
MOST_MONEY = 10**9


def till_in(model: Weighing, till: Till) -> Any:
    """What the week's list costs, in thousandths, as an expression over the model's variables."""
    weighed = _weighed(model)
    return sum(_cost(model, till, food, weighed.get(food.key, [])) for food in till.foods)


def _weighed(model: Weighing) -> Mapping[str, list[tuple[int, Any]]]:
    """By food what the week's new meals weigh of it on a day, in mg, each sum rounded up to a gram: figures whose every
    multiple is told apart make the search slow."""
    found: dict[tuple[str, int], list[Any]] = {}
    for (n, key, s), count, unit_g in model.units_for_meals(lambda d: bool(d.weighs)):
        dish, slot = model.dish[key], model.problem.slots[n]
        for w in dish.weighs:
            day = model.problem.sessions[s].day if w.days_before is None else slot.day - w.days_before
            found.setdefault((w.food_key, day), []).append(round(MG * w.per_g * unit_g) * count)
    whole: dict[str, list[tuple[int, Any]]] = {}
    for (food_key, day), mg in found.items():
        grams = model.m.new_int_var(0, round(LARGEST_POT_G), "")
        model.m.add(MG * grams >= sum(mg))
        model.m.add(MG * grams <= sum(mg) + MG - 1)
        whole.setdefault(food_key, []).append((day, MG * grams))
    return whole


def _cost(model: Weighing, till: Till, food: PlanFood, weighed: list[tuple[int, Any]]) -> Any:
    """What a food costs: what nothing weighs anew is a figure."""
    if not weighed:
        return round(MILLI * food.price_of(food.to_buy_g(food.needs, till.spare_pct), till.aim))
    uses = [*weighed, *((day, round(MG * grams)) for day, grams in food.needs.items())]
    missing, floor, buy = (model.m.new_int_var(0, MOST_MG, "") for _ in range(3))
    model.m.add_max_equality(missing, [0, *_short(food, uses)])
    model.m.add_max_equality(floor, [0, *_below_floor(food, uses, missing)])
    wanted = missing * round(_PERCENT + till.spare_pct) + _PERCENT * floor
    model.m.add(_PERCENT * buy >= wanted)
    model.m.add(_PERCENT * buy <= wanted + _PERCENT - 1)
    return _price(model, till, food, buy)


def _short(food: PlanFood, uses: Sequence[tuple[int, Any]]) -> Iterable[Any]:
    """By how much the house covers too little: for each last day what is used after it less what keeps longer, and for
    all of it. The largest of them is missing (Hall's condition)."""
    for after in sorted({-MOST_DAYS, *(until for _, until in food.stock if until is not None)}):
        keeps = [grams for grams, until in food.stock if until is None or until > after]
        yield sum(grams for day, grams in uses if day > after) - round(MG * sum(keeps))


def _below_floor(food: PlanFood, uses: Sequence[tuple[int, Any]], missing: Any) -> Iterable[Any]:
    """By how much what the uses leave in the house is below what is always kept."""
    if food.floor_g:
        first = min(day for day, _ in uses)
        there = sum(grams for grams, until in food.stock if until is None or until >= first)
        yield round(MG * (food.floor_g - there)) + sum(grams for _, grams in uses) - missing


def _price(model: Weighing, till: Till, food: PlanFood, buy: Any) -> Any:
    """What so much of a food costs: loose by the gram, in packs by so many of each that cover it, or by their steps
    where what is left over decides which are bought."""
    m = model.m
    if not food.packs:
        cost = m.new_int_var(0, MOST_MONEY, "")
        m.add(cost * PER_G >= buy * round(food.per_g * PER_G * MILLI / MG))
        return cost
    if till.aim == LEAST_COST or len({pack.grams for pack in food.packs}) == 1:
        counts = {pack: m.new_int_var(0, round(MOST_MG / MG / pack.grams) + 1, "") for pack in food.packs}
        m.add(sum(round(pack.grams * MG) * count for pack, count in counts.items()) >= buy)
        return sum(round((pack.price or 0.0) * MILLI) * count for pack, count in counts.items())
    costs, chosen, before = [], [], -1
    for upto, price in ((0, 0.0), *steps_of(food, till.aim)):
        here = m.new_bool_var("")
        m.add(buy <= upto).only_enforce_if(here)
        m.add(buy > before).only_enforce_if(here)
        chosen.append(here)
        costs.append(round(price * MILLI) * here)
        before = upto
    m.add_exactly_one(chosen)
    return sum(costs)


def steps_of(food: PlanFood, aim: str) -> Iterable[tuple[int, float]]:
    """Up to how much (mg) the same packs are bought, and what those cost, from little to much, as far as a week goes.

    Packs add up to totals; between one and the next nothing else covers the need by less.
    """
    totals, most = {0}, round(MOST_OF_A_FOOD_G * _TENTHS)
    for size in sorted({round(pack.grams * _TENTHS) for pack in food.packs}, reverse=True):
        totals |= {t + size * n for t in totals for n in range(1, (most - t) // size + 2)}
    for total in sorted(totals - {0}):
        yield total * MG // _TENTHS, food.price_of(total / _TENTHS, aim)
