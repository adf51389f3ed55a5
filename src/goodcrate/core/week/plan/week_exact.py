"""The weeks a proof is about (`week_sizes`), as a CP-SAT model without margins.

Nutrients are whole numbers of a millionth; where their rounding could cut a week off, the model lets it in,
and who asks holds what it finds against the figures themselves (`near_misses`), to be cut off one by one.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import ceil, floor
from typing import Any

from goodcrate.core.week.plan.week_cuts import add_conditions
from goodcrate.core.week.plan.week_model import WeekModel
from goodcrate.core.week.plan.week_rules import (
    BATCH_WORTH,
    COST_WORTH,
    FAVOURITE_WORTH,
    LEFT_WORTH,
    MINUTE,
    MOST_SLACK,
    OFF_WORTH,
)
from goodcrate.core.week.plan.week_sizes import Portions, Row, holds, portions_of, rows_of
from goodcrate.core.week.plan.week_till import MILLI, till_in
from goodcrate.core.week.week_problem import (
    WHOLE_SHARE,
    PlanDish,
    PlannedMeal,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
    evenings_of,
    left_over_g,
    till_of,
    work_of,
)

SCALE = 1_000_000
"""A kcal, or a gram or mg of anything else, in the model’s whole numbers."""
MOST_UNITS = 10**9


class ExactModel(WeekModel):
    """The model of the weeks a proof is about."""

    sized = True

    def __init__(
        self,
        problem: WeekPlanProblem,
        *,
        only: frozenset[tuple[int, str]] | None = None,
        kitchen: frozenset[str] | None = None,
        relax: frozenset[str] = frozenset(),
        measured: str = "",
        soft: Iterable[str] = (),
    ) -> None:
        self.portions: dict[tuple[int, str], Portions] = {}
        self.counts: dict[int, dict[str, Any]] = {}
        self.rows: list[Row] = []
        self.sizes: list[tuple[Any, str, tuple[int, ...]]] = []
        self.at = {(s.eater_key, s.day, s.slot_key): n for n, s in enumerate(problem.slots)}
        super().__init__(problem, only=only, kitchen=kitchen, relax=relax, measured=measured, soft=soft)

    def _portioned(self) -> None:
        self._sizes()
        add_conditions(self)
        self._fillings()
        self._containers()

    def _sizes(self) -> None:
        """one_portion_of_a_dish_for_an_eater_on_days_of_a_kind, each_day_and_mean_in_its_bands, in whole units."""
        of_a_kind: dict[tuple[str, str, str], list[int]] = {}
        days = {(d.eater_key, d.day): d for d in self.problem.days}
        for n, slot in enumerate(self.problem.slots):
            if self._stays(slot):
                continue
            day = days[slot.eater_key, slot.day]
            for key, stands in self.stands.get(n, {}).items():
                portions = portions_of(self.dish[key], day, self.problem.rules.step_g)
                if portions is None:
                    self.m.add(stands == 0)
                    continue
                count = self.m.new_int_var(0, portions.most, "")
                self.m.add(count <= portions.most * stands)
                self.m.add(count >= portions.least * stands)
                self.portions[n, key] = portions
                self.counts.setdefault(n, {})[key] = count
                of_a_kind.setdefault((slot.eater_key, day.kind, key), []).append(n)
        for (_, _, key), slots in of_a_kind.items():
            for alike in [slots] if self.problem.rules.alike else [[n] for n in slots]:
                self._one_portion(key, alike)
        freed = self.problem
        if "pins" in self.relax:
            opened = tuple(
                PlanSlot(s.eater_key, s.day, s.slot_key, s.dishes, label=s.label) if s.fixed and s.dishes else s
                for s in freed.slots
            )
            freed = WeekPlanProblem(opened, freed.days, freed.dishes, freed.sessions, freed.rules, means=freed.means)
        self.rows = rows_of(freed)
        for row in self.rows:
            self._row(row)

    def _one_portion(self, key: str, slots: Sequence[int]) -> None:
        portions = self.portions[slots[0], key]
        is_whole = len(portions.counts) == portions.most - portions.least + 1
        if len(slots) == 1 and is_whole:
            return
        from ortools.sat.python import cp_model

        size = self.m.new_int_var_from_domain(cp_model.Domain.from_values(portions.counts), "")
        self.sizes.append((size, key, tuple(slots)))
        for n in slots:
            count, stands = self.counts[n][key], self.stands[n][key]
            self.m.add(count <= size)
            self.m.add(count >= size - portions.most * (1 - stands))

    def _row(self, row: Row) -> None:
        """A sum between its ends, with as much room as the rounding of its terms can need."""
        terms, room = [], 0.0
        for n in row.of:
            most = 0
            for key, count in self.counts.get(n, {}).items():
                portions = self.portions[n, key]
                terms.append(round(holds(self.dish[key], row.key) * portions.unit_g * SCALE) * count)
                most = max(most, portions.most)
            room += most / 2
        more = row.days * SCALE * self._room(row.rule)
        if row.low is not None:
            self.m.add(sum(terms) + more >= floor(SCALE * (row.low - row.fixed) - room))
        if row.high is not None:
            self.m.add(sum(terms) - more <= ceil(SCALE * (row.high - row.fixed) + room))

    def near_misses(self) -> list[Row]:
        """The sums that the last answer keeps only by the rounding of their terms."""
        if self.relax or self.broken:
            return []
        wrong = []
        for row in self.rows:
            total = row.fixed
            for n in row.of:
                for key, count in self.counts.get(n, {}).items():
                    grams = self.solver.value(count) * self.portions[n, key].unit_g
                    total += holds(self.dish[key], row.key) * grams
            if (row.low is not None and total < row.low - 1e-9) or (row.high is not None and total >= row.high - 1e-9):
                wrong.append(row)
        return wrong

    def cut_off(self, row: Row) -> None:
        """not_these_portions_together: what stands in a sum's slots, as large as it is."""
        there = [
            (count, self.solver.value(count))
            for n in row.of
            for count in self.counts.get(n, {}).values()
            if self.solver.value(count)
        ]
        self.m.add_forbidden_assignments([count for count, _ in there], [tuple(value for _, value in there)])

    def find(self, seconds: float, **how: Any) -> tuple[str, float]:
        """Like `solve`, until what is found keeps every sum by the figures themselves."""
        spent = 0.0
        for _ in range(MOST_CUTS):
            status, more = self.solve(max(seconds - spent, 0.01), **how)
            spent += more
            wrong = self.near_misses() if status == "found" else []
            if not wrong:
                return status, spent
            for row in wrong:
                self.cut_off(row)
            if spent >= seconds:
                break
        return "unknown", spent

    def units_for_meals(self, which: Any) -> Iterator[tuple[tuple[int, str, int], Any, float]]:
        """By slot, dish and session, how many units of a portion are cooked there, 0 where none is; and g of one."""
        for (n, key, s), x in self.place.items():
            if self._stays(self.problem.slots[n]) or not which(self.dish[key]) or key not in self.counts.get(n, {}):
                continue
            count, portions = self.counts[n][key], self.portions[n, key]
            if sum((n, key, other) in self.place for other in range(len(self.problem.sessions))) > 1:
                here = self.m.new_int_var(0, portions.most, "")
                self.m.add(here >= count - portions.most * (1 - x))
                self.m.add(here <= count)
                self.m.add(here <= portions.most * x)
                count = here
            yield (n, key, s), count, portions.unit_g

    def _mg_cooked(self, which: Any) -> dict[tuple[str, int], "_Made"]:
        """By dish and session: the mg of its portions cooked there, where they stand, and what stands already, in g."""
        made: dict[tuple[str, int], _Made] = {}
        for (n, key, s), x in self.place.items():
            stays = self._stays(self.problem.slots[n])
            if stays:
                recipe = self.dish[key].family
                if recipe in self.dish and which(self.dish[recipe]):
                    made.setdefault((recipe, s), _Made([], [])).standing.append((stays[1], x))
                continue
            if not which(self.dish[key]) or key not in self.counts.get(n, {}):
                continue
            made.setdefault((key, s), _Made([], [])).mg.append(self._mg_at(n, key, x))
        return made

    def _mg_at(self, n: int, key: str, x: Any) -> Any:
        """The mg that a session cooks of a dish for a slot: at least so much, and 0 where it may be."""
        count, portions = self.counts[n][key], self.portions[n, key]
        if sum((n, key, other) in self.place for other in range(len(self.problem.sessions))) > 1:
            here = self.m.new_int_var(0, portions.most, "")
            self.m.add(here >= count - portions.most * (1 - x))
            count = here
        return round(portions.unit_g * MG) * count

    def _fillings(self) -> None:
        """no_filling_larger_than_its_pots, to the gram."""
        most_g = {key: d.most_g for key, d in self.dish.items() if d.most_g is not None}
        for (key, _), made in self._mg_cooked(lambda d: d.most_g is not None).items():
            pot, stands_g = most_g[key], sum(grams for grams, _ in made.standing)
            largest = sum(
                self.portions[n, key].most * self.portions[n, key].unit_g for n, k in self.portions if k == key
            )
            times = max(1, ceil((largest + stands_g) / pot - WHOLE_SHARE))
            allowed = max(min(times, self.problem.rules.fillings), ceil(stands_g / pot - WHOLE_SHARE))
            again = [self.m.new_bool_var("") for _ in range(allowed - 1)]
            for one, next_one in pairwise(again):
                self.m.add_implication(next_one, one)
            self.again += [(more, key) for more in again]
            in_all = round(pot * MG) * (1 + sum(again)) + floor(WHOLE_SHARE * pot * MG + 1) + MG * self._room("vessels")
            self.m.add(sum(made.mg) + sum(round(grams * MG) * x for grams, x in made.standing) <= in_all)

    def _containers(self) -> None:
        """no_more_large_portions_at_a_time_than_large_containers; where more stand already, not one more."""
        evenings = [evening for evening in evenings_of(self.problem) if evening.has_session]
        for over_g, most in self.problem.rules.containers:
            large = {at: self._is_over(*at, over_g=over_g) for at in self.place}
            for evening in evenings:
                there = {
                    at: is_large
                    for at, is_large in large.items()
                    if self.problem.sessions[at[2]].key in evening.over and evening.waits(self.problem.slots[at[0]])
                }
                new = [x for at, x in there.items() if self._stays(self.problem.slots[at[0]]) is None]
                none_new = self.m.new_bool_var("") if len(new) < len(there) else 0
                self.m.add(sum(there.values()) <= most + self._room("containers") + len(there) * none_new)
                self.m.add(sum(new) <= len(new) * (1 - none_new))

    def _is_over(self, n: int, key: str, s: int, *, over_g: float) -> Any:
        """Whether a dish that a session cooks for a slot is a portion of more than so many g."""
        x, stays = self.place[n, key, s], self._stays(self.problem.slots[n])
        if stays:
            return x if stays[1] > over_g else 0
        portions = self.portions.get((n, key))
        if portions is None or portions.most * portions.unit_g <= over_g + 1e-9:
            return 0
        if portions.least * portions.unit_g > over_g + 1e-9:
            return x
        upto = floor((over_g + 1e-9) / portions.unit_g)
        large = self.m.new_bool_var("")
        self.m.add(self.counts[n][key] <= upto + (portions.most - upto) * large)
        if sum((n, key, other) in self.place for other in range(len(self.problem.sessions))) == 1:
            return large
        here = self.m.new_bool_var("")
        self.m.add(here >= large + x - 1)
        return here

    def _grams(self, value: Any, slot: PlanSlot, dish: PlanDish) -> float:
        n = self.at[slot.eater_key, slot.day, slot.slot_key]
        return float(value(self.counts[n][dish.key]) * self.portions[n, dish.key].unit_g)

    def polish(self) -> None:
        """nothing_left_over, then cost, then favourites, then portions_near_the_slots_share or the recipe's serving."""
        worth: list[Any] = []
        for (n, key), portions in self.portions.items():
            slot, dish, count = self.problem.slots[n], self.dish[key], self.counts[n][key]
            stands = self.stands[n][key]
            milli = round(MG * dish.kcal_per_g * portions.unit_g)
            wanted = round(MG * (slot.wanted_kcal or dish.serving_g * dish.kcal_per_g))
            off = self.m.new_int_var(0, MOST_UNITS, "")
            self.m.add(off >= milli * count - wanted * stands)
            self.m.add(off >= wanted * stands - milli * count)
            worth.append(OFF_WORTH * off)
            worth.append(round(COST_WORTH * MG * (dish.cost_per_g or 0.0) * portions.unit_g) * count)
            if dish.is_favourite:
                worth.append(-FAVOURITE_WORTH * MG * stands)
        for (key, _), made in self._mg_cooked(lambda d: d.unit_g is not None).items():
            dish = self.dish[key]
            unit_mg = max(round((dish.unit_g or 0.0) * MG), 1)
            units = self.m.new_int_var(0, 2000, "")
            left = units * unit_mg - sum(made.mg) - sum(round(grams * MG) * x for grams, x in made.standing)
            self.m.add(left >= 0)
            worth.append(round(LEFT_WORTH * dish.kcal_per_g) * left)
        self.m.minimize(sum(worth))

    def cheapest(self) -> None:
        """lowest_price_of_the_list, then less work: a cent counts as a batch."""
        if self.problem.till is not None:
            self.m.minimize(TILL_WORTH * till_in(self, self.problem.till) + self._cost)

    def list_costs_at_most(self, most: float) -> None:
        """the_list_costs_at_most_so_much, in the household's money."""
        if self.problem.till is not None:
            self.m.add(till_in(self, self.problem.till) <= round(most * MILLI))

    def answer(self, bound_batches: int, bound_min: float, spent: float, *, proven: bool) -> WeekPlan:
        """The week of the last solution."""
        return self.week_of(self.solver.value, bound_batches, bound_min, spent, proven=proven)

    def week_of(
        self, value: Callable[[Any], int], bound_batches: int, bound_min: float, spent: float, *, proven: bool
    ) -> WeekPlan:
        """The week of a solution."""
        meals = []
        for (n, key, s), x in self.place.items():
            if not value(x):
                continue
            slot, dish = self.problem.slots[n], self.dish[key]
            session = self.problem.sessions[s]
            grams = slot.fixed[1] if slot.fixed else self._grams(value, slot, dish)
            freezing = self.frozen.get((n, key, s))
            frozen = slot.fixed is None and freezing is not None and bool(value(freezing))
            meals.append(
                PlannedMeal(
                    slot.eater_key,
                    slot.day,
                    slot.slot_key,
                    key,
                    grams,
                    session.key,
                    is_frozen=frozen,
                    is_fixed=slot.fixed is not None,
                )
            )
        for n, slot in enumerate(self.problem.slots):
            if slot.fixed is not None and n not in self.stands and not ("pins" in self.relax and slot.dishes):
                key, grams = slot.fixed  # it stands, and no session here cooks it
                meals.append(
                    PlannedMeal(slot.eater_key, slot.day, slot.slot_key, key, grams, "", is_frozen=False, is_fixed=True)
                )
        return week_with(self.problem, meals, (bound_batches, bound_min), spent, proven=proven)

    def start_from(self, plan: WeekPlan) -> None:
        """A complete hint: the meals of a week that keeps the rules already (or all but those that give way)."""
        meals = {(m.eater_key, m.day, m.slot_key): m for m in plan.meals}
        if self.measured:
            self.m.add_hint(self.slack, MOST_SLACK)
        sessions = [s.key for s in self.problem.sessions]
        cooked: set[tuple[int, str]] = set()
        for (n, key, s), x in self.place.items():
            meal = meals.get(self._where(self.problem.slots[n]))
            here = meal is not None and (meal.dish_key, meal.session_key) == (key, sessions[s])
            self.m.add_hint(x, here)
            if (n, key, s) in self.frozen and self.frozen[n, key, s].index != x.index:
                self.m.add_hint(self.frozen[n, key, s], here and meal is not None and meal.is_frozen)
            if here:
                cooked.add((s, key))
        for n, mine in self.counts.items():
            meal = meals.get(self._where(self.problem.slots[n]))
            for key, count in mine.items():
                stands = meal is not None and meal.dish_key == key
                self.m.add_hint(count, round(meal.grams / self.portions[n, key].unit_g) if meal and stands else 0)
        for size, key, slots in self.sizes:
            there = [meals.get(self._where(self.problem.slots[n])) for n in slots]
            grams = next((m.grams for m in there if m is not None and m.dish_key == key), 0.0)
            portions = self.portions[slots[0], key]
            self.m.add_hint(size, round(grams / portions.unit_g) or portions.least)
        placed = {x.index for x in self.place.values()}
        for n, mine in self.stands.items():
            meal = meals.get(self._where(self.problem.slots[n]))
            for key, flag in mine.items():
                if flag.index not in placed:
                    self.m.add_hint(flag, meal is not None and meal.dish_key == key)
        for place, c in self.cook.items():
            self.m.add_hint(c, place in cooked)


def bound_beside(bound: tuple[int, float], batches: int, minutes: float) -> tuple[int, float]:
    """A bound beside a week of so many batches and minutes: where minutes outweigh a batch (a thousand do), it is told
    in that week's batches, and never above what the week takes."""
    if bound[0] <= batches:
        return min(bound, (batches, minutes))
    return min((batches, bound[1] + (bound[0] - batches) * BATCH_WORTH / MINUTE), (batches, minutes))


def week_with(
    problem: WeekPlanProblem,
    meals: Iterable[PlannedMeal],
    bound: tuple[int, float] = (0, 0.0),
    spent: float = 0.0,
    *,
    proven: bool = False,
) -> WeekPlan:
    """Some meals as a week, with what they take, and the bound as far as it goes with so many batches."""
    dishes = {dish.key: dish for dish in problem.dishes}
    there = sorted(meals, key=lambda m: (m.eater_key, m.day, m.slot_key))
    batches, minutes, again = work_of(there, dishes)
    return WeekPlan(
        tuple(there),
        batches,
        minutes,
        *bound_beside(bound, batches, minutes),
        is_proven_best=proven,
        deterministic_time=spent,
        left_over_g=left_over_g(there, dishes),
        fillings_again=again,
        till=till_of(problem, there),
    )


@dataclass
class _Made:
    """The mg of a dish's portions in one session, and what stands there already: g, and whether."""

    mg: list[Any]
    standing: list[tuple[float, Any]]


MG = 1000
TILL_WORTH = 100 * MINUTE
"""What a thousandth of the household's money weighs against work where the lowest price is looked for."""
MOST_CUTS = 30
"""So many near misses are cut off one after the other."""
