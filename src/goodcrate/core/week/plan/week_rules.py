"""The rules of a week as a CP-SAT model, whatever its portions: what stands where, and which session cooks it."""

from collections.abc import Callable, Iterable, Iterator
from math import ceil
from typing import Any, ClassVar

from goodcrate.core.week.storing import FREEZER, FRIDGE
from goodcrate.core.week.week_problem import (
    ALL_PLACES,
    LEAST_COOKING,
    LOWEST_COST,
    MOST_VARIETY,
    Evening,
    PlanDish,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
    evenings_of,
    standing_in,
)

OFF_WORTH, LEFT_WORTH, FAVOURITE_WORTH, COST_WORTH = 10, 100, 1000, 1000
"""What a kcal off a portion's usual size, a kcal left over, a favourite's meal and a unit of money weigh when a week of
settled batches is polished: our own weights, in the order of the wishes."""
MOST_SLACK = 4000
OPENED_SCALE = 100
"""So many opened foods used up would be worth one minute: they only decide among weeks that take as much work."""
MINUTE = 100
"""Hands-on minutes are counted in hundredths."""
BATCH_WORTH = 1000 * MINUTE
"""A batch counts as a thousand minutes: more than any week's minutes differ, so batches come first."""
BY_CORES, BY_HITTING_SETS = "optimize_with_core", "optimize_with_max_hs"
"""The solver's ways to prove what must be cooked at least."""
Progress = Callable[[WeekPlan], bool]
"""Called with the best week so far; answers whether to go on."""


def hundredths(minutes: float) -> int:
    """Hands-on minutes as the model counts them, rounded down: a bound is never above what a week really takes."""
    return int(minutes * MINUTE + 1e-6)


def work_worth(dish: PlanDish) -> int:
    """What cooking a dish once counts as: batches first, then minutes."""
    return BATCH_WORTH * dish.batches + hundredths(dish.hands_on_min)


def as_work(worth: float) -> tuple[int, float]:
    """Batches and minutes of what they count as."""
    return int(worth // BATCH_WORTH), worth % BATCH_WORTH / MINUTE


class WeekRules:
    """The week as a CP-SAT model without its portions: its variables, its rules and what is sought."""

    sized: ClassVar[bool] = False

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
        from ortools.sat.python import cp_model

        self.problem, self.relax = problem, relax
        self.m: Any = cp_model.CpModel()
        self.dish = {d.key: d for d in problem.dishes}
        self.place: dict[tuple[int, str, int], Any] = {}
        self.cook: dict[tuple[int, str], Any] = {}
        self.stands: dict[int, dict[str, Any]] = {}
        self.frozen: dict[tuple[int, str, int], Any] = {}
        self.again: list[tuple[Any, str]] = []
        self.solver: Any = None
        self.is_stopped = False
        uses = problem.rules.aim == LEAST_COOKING and any(d.opened for d in problem.dishes)
        self.scale = OPENED_SCALE if uses else 1
        self.measured = measured
        self.slack: Any = self.m.new_int_var(0, MOST_SLACK, "") if relax else 0
        self.broken: dict[str, Any] = {rule: self.m.new_bool_var("") for rule in soft}
        self._meals(only, kitchen)
        self._variety()
        self._portioned()
        self._objective()

    def _portioned(self) -> None:
        """Room for a model with portions to add its rules."""

    def _meals(self, only: frozenset[tuple[int, str]] | None, kitchen: frozenset[str] | None) -> None:
        """one_dish_in_each_slot, cooked_before_it_is_eaten, not_kept_too_long_unless_frozen."""
        for n, slot in enumerate(self.problem.slots):
            options = []
            stays = self._stays(slot)
            by_dish: dict[str, list[Any]] = {}
            dishes = (stays[0],) if stays else slot.dishes
            for key in dishes:
                if kitchen is not None and not stays and key not in kitchen:
                    continue
                for s, too_old in self._sessions_for(slot, self.dish[key], stays is not None):
                    if only is not None and (s, key) not in only:
                        continue
                    x = self.m.new_bool_var("")
                    if too_old and not self.dish[key].freezes:
                        self.m.add_implication(x, self.broken["keeping"])
                    self.place[n, key, s] = x
                    options.append(x)
                    by_dish.setdefault(key, []).append(x)
                    if (s, key) not in self.cook:
                        self.cook[s, key] = self.m.new_bool_var("")
                    self.m.add_implication(x, self.cook[s, key])
                    if stays:
                        self._cooked_anyway(x, s, self.dish[key].family)
                    self._freezing(n, key, s, x, too_old and self.dish[key].freezes)
            if stays and not options:
                continue  # it stands already, cooked elsewhere
            self.m.add_exactly_one(options) if options else self.m.add_bool_or([])
            self.stands[n] = {key: self._any(xs) for key, xs in by_dish.items()}
        rules = self.problem.rules
        for evening in evenings_of(self.problem):
            if evening.has_session:  # these are fullest then; in the fridge, boxes thaw on any evening
                self._places("freezer", rules.freezer_boxes, FREEZER, evening)
                self._places("boxes", rules.box_count, ALL_PLACES, evening)
            self._places("fridge", rules.fridge_boxes, FRIDGE, evening)

    def _room(self, rule: str) -> Any:
        """By how much a rule gives way: the measured one by the slack, one let go without end, a soft one if broken."""
        if rule in self.relax:
            return self.slack if rule == self.measured else MOST_SLACK
        return MOST_SLACK * self.broken[rule] if rule in self.broken else 0

    def _any(self, xs: list[Any]) -> Any:
        """One of these, which exclude each other, as one variable."""
        if len(xs) == 1:
            return xs[0]
        one = self.m.new_bool_var("")
        self.m.add(sum(xs) == one)
        return one

    def _cooked_anyway(self, x: Any, s: int, recipe: str) -> None:
        """what_stands_is_cooked_anyway: more of it costs no further batch."""
        if recipe in self.dish:
            if (s, recipe) not in self.cook:
                self.cook[s, recipe] = self.m.new_bool_var("")
            self.m.add_implication(x, self.cook[s, recipe])

    def _stays(self, slot: PlanSlot) -> tuple[str, float] | None:
        """what_is_placed_stays: the dish that stands in a slot, unless that is let go to see who is in the way."""
        return None if "pins" in self.relax and slot.dishes else slot.fixed

    def _freezing(self, n: int, key: str, s: int, x: Any, must: bool) -> None:
        """frozen_when_it_would_be_too_old, or_when_the_fridge_is_full."""
        if must and "keeping" not in self.broken:
            self.frozen[n, key, s] = x
        elif must or (self.problem.rules.fridge_boxes is not None and self.dish[key].freezes):
            frozen = self.frozen[n, key, s] = self.m.new_bool_var("")
            self.m.add_implication(frozen, x)
            if must:
                self.m.add_bool_or([x.negated(), frozen, self.broken["keeping"]])

    def _places(self, rule: str, most: int | None, place: str, evening: Evening) -> None:
        """so_many_places_there_are, on an evening, for all that is not eaten yet."""
        if most is None:
            return
        new = []
        for at, x in self.place.items():
            n, key, s = at
            slot = self.problem.slots[n]
            if self.problem.sessions[s].key not in evening.over or not evening.waits(slot):
                continue
            frozen = 0 if evening.is_thawing(slot) else self.frozen.get(at, 0)
            if place == FREEZER:
                new.append(frozen)
            elif place != FRIDGE:
                new.append(x)
            elif not self.dish[key].keeps_dry:
                new.append(x - frozen)
        before = standing_in(self.problem, place, evening)
        self.m.add(sum(new) + before <= max(most, before) + self._room(rule))

    @staticmethod
    def _where(slot: PlanSlot) -> tuple[str, int, str]:
        return slot.eater_key, slot.day, slot.slot_key

    def _sessions_for(self, slot: PlanSlot, dish: PlanDish, stays: bool) -> Iterator[tuple[int, bool]]:
        """The sessions early enough for a slot, and whether the dish would then be too old unless it is frozen."""
        where = (slot.eater_key, slot.day, slot.slot_key)
        for n, session in enumerate(self.problem.sessions):
            if where not in session.serves or (stays and slot.fixed_session not in ("", session.key)):
                continue
            if slot.day - session.day <= dish.keeps_days or stays or "keeping" in self.relax:
                yield n, False
            elif dish.freezes or "keeping" in self.broken:
                yield n, True

    def _variety(self) -> None:
        """at_most_so_many_different_dishes_in_a_slot, no_dish_more_often_than_allowed."""
        used: dict[tuple[str, str, str], list[Any]] = {}
        eaten: dict[tuple[str, str], list[Any]] = {}
        for n, slot in enumerate(self.problem.slots):
            for key, stands in self.stands.get(n, {}).items():
                family = self.dish[key].counts_as
                used.setdefault((slot.eater_key, slot.slot_key, family), []).append(stands)
                eaten.setdefault((slot.eater_key, family), []).append(stands)
        by_slot: dict[tuple[str, str], list[Any]] = {}
        for (eater, slot_key, _), xs in used.items():
            flag = self.m.new_bool_var("")
            for x in xs:
                self.m.add_implication(x, flag)
            by_slot.setdefault((eater, slot_key), []).append(flag)
        rules = self.problem.rules
        times: dict[tuple[str, str], int] = {}
        for n in self.stands:
            at = self.problem.slots[n]
            times[at.eater_key, at.slot_key] = times.get((at.eater_key, at.slot_key), 0) + 1
        for at_table, flags in by_slot.items():
            self.m.add(sum(flags) <= rules.different + self._room("different"))
            if "repeats" not in self.relax and "repeats" not in self.broken:  # follows from the others, told at once
                self.m.add(sum(flags) >= ceil(times[at_table] / max(rules.repeats, 1)))
        for xs in eaten.values():
            self.m.add(sum(xs) <= rules.repeats + self._room("repeats"))
        self._enough_is_cooked()

    def _enough_is_cooked(self) -> None:
        """so_many_dishes_are_cooked_as_the_meals_of_one_eater_ask_for, which follows from the others, told at once."""
        if "repeats" in self.relax or "repeats" in self.broken:
            return
        alike: dict[tuple[str, frozenset[str]], int] = {}
        for n, by_dish in self.stands.items():
            slot = self.problem.slots[n]
            if not self._stays(slot):
                of = (slot.eater_key, frozenset(by_dish))
                alike[of] = alike.get(of, 0) + 1
        for (_, dishes), meals in alike.items():
            cooked = [c for (_, key), c in self.cook.items() if key in dishes]
            self.m.add(sum(cooked) >= ceil(meals / max(self.problem.rules.repeats, 1)))

    def _objective(self) -> None:
        cost = []
        for (_, key), cooked in self.cook.items():
            dish = self.dish[key]
            cost.append(cooked * (self.scale * work_worth(dish) - (dish.opened if self.scale > 1 else 0)))
        cost += [more * self.scale * hundredths(self.dish[key].hands_on_min) for more, key in self.again]
        aim = self.problem.rules.aim
        if aim == MOST_VARIETY:
            cost += [-flag * (BATCH_WORTH * 3) for flag in self._dishes_cooked()]
        elif aim == LOWEST_COST and self.problem.till is None:
            for (_, key, _), x in self.place.items():
                dish = self.dish[key]
                middle_g = (dish.low_g + dish.high_g) / 2
                cost.append(x * round((dish.cost_per_g or 0.0) * middle_g * 2000 * MINUTE))
        self._cost = sum(cost)
        self.m.minimize(self._cost)

    def _dishes_cooked(self) -> Iterator[Any]:
        """One flag per dish, true only when it is cooked."""
        for key in sorted({key for _, key in self.cook}):
            flag = self.m.new_bool_var("")
            self.m.add(sum(c for (_, k), c in self.cook.items() if k == key) >= flag)
            yield flag
