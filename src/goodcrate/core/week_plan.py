"""Plan: empty slots are filled from the library so that every day keeps to its band, with the least cooking.

The order of the wishes: days in their bands and above their floors (hard here), then fewer batches, then fewer hands-on
minutes, then what the cook asked for (variety, cost). OR-Tools CP-SAT, taken apart: the *master* chooses which dish
stands where and which session cooks it, without any sizes, so its optimum bounds every week. The *sub* sizes exactly
these batches: each slot of a kind of day gets an energy, every dish in it is portioned to that energy, and protein must
add up. When it cannot, the master must cook at least one batch outside them, and so on. A *quick* week of the handiest
dishes comes first. One worker, a fixed seed and deterministic limits: the same problem gives the same week.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from goodcrate.core.errors import InvalidInput, InvalidInputs

LEAST_COOKING, MOST_VARIETY, LOWEST_COST = "least_cooking", "most_variety", "lowest_cost"
AIMS: Mapping[str, str] = {
    LEAST_COOKING: "least cooking",
    MOST_VARIETY: "most variety",
    LOWEST_COST: "lowest cost",
}
BATCH_WORTH_MIN = 1000
"""One batch less counts more than any sum of minutes: lexicographic within one objective."""
ROUNDING_KCAL = 25
"""Taken off each side of a band while portions are exact: rounding to 5 g moves a day by less."""


@dataclass(frozen=True, slots=True)
class PlanDish:
    """A recipe as the planner sees it: a gram's energy and protein, how large a portion may be, what cooking it takes.

    `keeps_days` counts from its session; a dish that freezes may be eaten later from the freezer. `cost_per_g` None is
    unknown and counts as nothing.
    """

    key: str
    name: str
    kcal_per_g: float
    protein_per_g: float
    low_g: float
    high_g: float
    batches: int
    hands_on_min: float
    keeps_days: int
    freezes: bool
    cost_per_g: float | None = None
    family: str = ""
    own_serving_g: float | None = None

    @property
    def serving_g(self) -> float:
        """The recipe's own serving; the middle of its sizes when that is not said."""
        return self.own_serving_g or (self.low_g + self.high_g) / 2

    @property
    def counts_as(self) -> str:
        """What it is one of when dishes are told apart: a meal that stands already counts as its recipe."""
        return self.family or self.key


@dataclass(frozen=True, slots=True)
class PlanSlot:
    """A slot of an eater on one day, as the dishes see it: which may stand there, and when it is eaten.

    `fixed` is a dish that stays (placed or pinned by the cook) with its grams.
    """

    eater_key: str
    day: int
    slot_key: str
    dishes: tuple[str, ...]
    fixed: tuple[str, float] | None = None
    label: str = ""

    @property
    def words(self) -> str:
        """How it is named to a cook."""
        return self.label or f"{self.slot_key} of {self.eater_key}"


@dataclass(frozen=True, slots=True)
class PlanDay:
    """An eater's day: its kind (days of one kind share portion sizes), band and floor, and what is eaten besides."""

    eater_key: str
    day: int
    kind: str
    energy_low_kcal: float
    energy_high_kcal: float
    protein_floor_g: float
    extra_kcal: float = 0.0
    extra_protein_g: float = 0.0


@dataclass(frozen=True, slots=True)
class PlanSession:
    """A prep session: the day it is on (before the first day is negative) and the slots it is early enough for.

    A slot is (eater, day, slot key).
    """

    key: str
    day: int
    serves: frozenset[tuple[str, int, str]]


@dataclass(frozen=True, slots=True)
class PlanRules:
    """At most `different` dishes per eater and slot, `repeats` of one dish per eater, so many boxes in the freezer."""

    different: int = 3
    repeats: int = 7
    freezer_boxes: int = 6
    aim: str = LEAST_COOKING
    limit_seconds: float = 20.0
    seed: int = 1


@dataclass(frozen=True, slots=True)
class WeekPlanProblem:
    """Everything the planner needs to know."""

    slots: tuple[PlanSlot, ...]
    days: tuple[PlanDay, ...]
    dishes: tuple[PlanDish, ...]
    sessions: tuple[PlanSession, ...]
    rules: PlanRules = PlanRules()


@dataclass(frozen=True, slots=True)
class PlannedMeal:
    """A dish in a slot: grams, the session that cooks it, and whether it waits in the freezer."""

    eater_key: str
    day: int
    slot_key: str
    dish_key: str
    grams: float
    session_key: str
    is_frozen: bool
    is_fixed: bool


@dataclass(frozen=True, slots=True)
class WeekPlan:
    """A planned week with what it takes; `bound` is the least batches and minutes any week within the rules can have.

    Proven best is among weeks in which all dishes of a slot give the same energy on days of one kind.
    """

    meals: tuple[PlannedMeal, ...]
    batches: int
    hands_on_min: float
    bound_batches: int
    bound_min: float
    is_proven_best: bool
    deterministic_time: float = field(compare=False)

    @property
    def dishes(self) -> int:
        """How many different dishes stand in it."""
        return len({meal.dish_key for meal in self.meals})


@dataclass(frozen=True, slots=True)
class Conflict:
    """A rule that stands in the way, in words, and the change that would free it."""

    rule: str
    words: str
    change: str


@dataclass(frozen=True, slots=True)
class PlanResult:
    """A plan, or the conflicts that keep one away; `ran_out` when the time was not enough to tell."""

    plan: WeekPlan | None
    conflicts: tuple[Conflict, ...] = ()
    ran_out: bool = False


def check_plan_problem(problem: WeekPlanProblem) -> None:
    """Refuse what cannot be planned.

    Raises:
        InvalidInputs: naming every part that cannot be.
    """
    faults: list[InvalidInput] = []
    if not problem.slots:
        faults.append(InvalidInput("slots", "There is no slot to fill.", "Give an eater a slot."))
    if not problem.dishes:
        faults.append(InvalidInput("dishes", "There is no recipe to fill slots with.", "Make one first."))
    if problem.rules.aim not in AIMS:
        faults.append(InvalidInput("aim", f"“{problem.rules.aim}” is no aim.", f"One of {', '.join(AIMS)}."))
    if not 0.1 <= problem.rules.limit_seconds <= 60:
        faults.append(InvalidInput("limit_seconds", "Up to a minute.", "0.1 to 60 s."))
    for n, d in enumerate(problem.days):
        if not 0 < d.energy_low_kcal <= d.energy_high_kcal <= 12_000 or not 0 <= d.protein_floor_g <= 500:
            faults.append(InvalidInput(f"days.{n}", "The band goes from less to more.", "Up to 12,000 kcal, 500 g."))
    for n, dish in enumerate(problem.dishes):
        if not 0 < dish.kcal_per_g <= 9.1 or not 0 < dish.low_g <= dish.high_g <= 5000:
            faults.append(InvalidInput(f"dishes.{n}", f"{dish.name} cannot be portioned.", "Energy and sizes above 0."))
    keys = {dish.key for dish in problem.dishes}
    for n, slot in enumerate(problem.slots):
        if not set(slot.dishes) <= keys or (slot.fixed is not None and slot.fixed[0] not in keys):
            faults.append(InvalidInput(f"slots.{n}", "It names a dish that is not there."))
        if slot.day > 13:
            faults.append(InvalidInput(f"slots.{n}", "A plan covers at most 14 days.", "Plan a shorter week."))
    if faults:
        raise InvalidInputs(faults)


Progress = Callable[[WeekPlan], bool]
"""Called with the best week so far; answers whether to go on."""


def plan_week(problem: WeekPlanProblem, on_better: Progress | None = None, base: WeekPlan | None = None) -> PlanResult:
    """Fill the empty slots; answers conflicts when no week keeps the rules.

    For variety or cost it starts from `base`, the week with the least cooking, which is planned first when not given.

    Raises:
        InvalidInputs: naming every part of the problem that cannot be.
    """
    check_plan_problem(problem)
    blocked = tuple(_empty_slots(problem))
    if blocked:
        return PlanResult(None, blocked)
    if problem.rules.aim != LEAST_COOKING:
        return _by_aim(problem, on_better, base)
    best = _quick(problem, on_better)
    left = problem.rules.limit_seconds
    cuts: list[frozenset[tuple[int, str]]] = []
    bound = (0, 0.0)
    while left > 0:
        master = _Model(problem, sized=False, kitchen=_handiest(problem))
        for cut in cuts:
            master.cook_something_outside(cut)
        status, spent = master.solve(min(left, problem.rules.limit_seconds * 0.5))
        left -= spent
        if status == "infeasible":
            return PlanResult(best) if best is not None else PlanResult(None, _conflicts(problem, sized=bool(cuts)))
        if status == "unknown":
            break
        bound = max(bound, master.bound())
        chosen = frozenset(master.batches_cooked())
        sub = _Model(problem, sized=True, only=chosen)
        sub.prefer_own_servings()
        status, spent = sub.solve(min(max(left, 0.1), SIZING_SECONDS), on_better, bound)
        left -= spent
        if status == "found":
            week = sub.answer(*bound, problem.rules.limit_seconds - left, proven=master.is_optimal)
            if best is None or (week.batches, week.hands_on_min) <= (best.batches, best.hands_on_min):
                return PlanResult(week)
        cuts.append(chosen)
    if best is None:
        return _whole(problem, on_better)
    return PlanResult(replace(best, bound_batches=bound[0], bound_min=bound[1]))


def _quick(problem: WeekPlanProblem, on_better: Progress | None) -> WeekPlan | None:
    """The first week in which every day is in its band, from the handiest dishes."""
    for most in (8, 16):
        model = _Model(problem, sized=True, kitchen=_handiest(problem, most))
        model.m.clear_objective()
        status, spent = model.solve(1.5)
        if status == "found":
            week = model.answer(0, 0.0, spent, proven=False)
            if on_better is not None:
                on_better(week)
            return week
    return None


def _by_aim(problem: WeekPlanProblem, on_better: Progress | None, base: WeekPlan | None) -> PlanResult:
    """Variety or cost: polished from the least cooking on, never proven."""
    if base is None:
        found = plan_week(replace(problem, rules=replace(problem.rules, aim=LEAST_COOKING)), on_better)
        if found.plan is None:
            return found
        base = found.plan
    model = _Model(problem, sized=True, kitchen=_handiest(problem, 24) | {m.dish_key for m in base.meals})
    model.start_from(base)
    model.at_most_batches(base.batches * MOST_BATCHES[problem.rules.aim])
    status, spent = model.solve(problem.rules.limit_seconds * POLISH_SHARE, on_better, polish=True)
    if status != "found":
        return PlanResult(base)
    return PlanResult(model.answer(base.bound_batches, base.bound_min, spent, proven=False))


MOST_BATCHES: Mapping[str, float] = {MOST_VARIETY: 2.0, LOWEST_COST: 1.3}
"""How many times the least batches a week of another aim may cook."""
POLISH_SHARE = 0.15
"""How much of its time the planner gives to variety, and to cost."""


def _whole(problem: WeekPlanProblem, on_better: Progress | None) -> PlanResult:
    """All of it as one model: when the parts found nothing in their time."""
    model = _Model(problem, sized=True)
    status, spent = model.solve(problem.rules.limit_seconds, on_better)
    if status == "found":
        return PlanResult(model.answer(0, 0.0, spent, proven=False))
    if status == "infeasible":
        return PlanResult(None, _conflicts(problem, sized=True))
    return PlanResult(None, (), ran_out=True)


SIZING_SECONDS = 1.5
"""How long portions are pulled towards the recipes' own servings, once a set of batches is chosen."""
ENOUGH_BETTER = 6
"""A dish that so many others beat in every respect is not needed for the least cooking: they fill a week alone."""


def _handiest(problem: WeekPlanProblem, most: int | None = None) -> frozenset[str]:
    """The dishes worth a look: those not beaten in every respect by `ENOUGH_BETTER` others, or the `most` per slot."""
    suits: dict[str, set[tuple[str, int, str]]] = {d.key: set() for d in problem.dishes}
    for slot in problem.slots:
        for key in slot.dishes:
            suits[key].add((slot.eater_key, slot.day, slot.slot_key))
    fixed = {slot.fixed[0] for slot in problem.slots if slot.fixed is not None}
    if most is not None:
        order = sorted(problem.dishes, key=lambda d: (d.batches, d.hands_on_min, d.key))
        chosen = set(fixed)
        for allowed in {frozenset(s.dishes) for s in problem.slots}:
            chosen |= set([d.key for d in order if d.key in allowed][:most])
        return frozenset(chosen)
    kept = set(fixed)
    for d in problem.dishes:
        better = sum(
            1
            for o in problem.dishes
            if o is not d
            and (o.batches, o.hands_on_min, o.key) < (d.batches, d.hands_on_min, d.key)
            and o.batches <= d.batches
            and o.hands_on_min <= d.hands_on_min
            and o.keeps_days >= d.keeps_days
            and o.freezes >= d.freezes
            and suits[o.key] >= suits[d.key]
        )
        if better < ENOUGH_BETTER:
            kept.add(d.key)
    return frozenset(kept)


def _empty_slots(problem: WeekPlanProblem) -> Iterator[Conflict]:
    seen: set[object] = set()
    served = {key for s in problem.sessions for key in s.serves}
    for slot in problem.slots:
        here = (slot.eater_key, slot.slot_key)
        if slot.fixed is None and not slot.dishes and here not in seen:
            seen.add(here)
            words = f"No recipe may stand in {slot.words}."
            yield Conflict("dishes", words, "Let fewer conditions hold there, or add a recipe that keeps them.")
        if slot.fixed is None and (slot.eater_key, slot.day, slot.slot_key) not in served and "session" not in seen:
            seen.add("session")
            words = f"No prep session is over before {slot.words} on day {slot.day + 1}."
            yield Conflict("sessions", words, "Add an earlier session, or leave that slot out.")


class _Model:
    """The week as a CP-SAT model, with or without portion sizes."""

    def __init__(
        self, problem: WeekPlanProblem, *, sized: bool, only: frozenset[tuple[int, str]] | None = None,
        kitchen: frozenset[str] | None = None, relax: frozenset[str] = frozenset(),
    ) -> None:  # fmt: skip
        from ortools.sat.python import cp_model

        self.problem, self.sized, self.relax = problem, sized, relax
        self.m: Any = cp_model.CpModel()
        self.dish = {d.key: d for d in problem.dishes}
        self.place: dict[tuple[int, str, int], Any] = {}
        self.cook: dict[tuple[int, str], Any] = {}
        self.frozen: list[Any] = []
        self.solver: Any = None
        self._meals(only, kitchen)
        self._variety()
        if sized:
            self._sizes()
        self._objective()

    def _meals(self, only: frozenset[tuple[int, str]] | None, kitchen: frozenset[str] | None) -> None:
        """one_dish_in_each_slot, cooked_before_it_is_eaten, not_kept_too_long_unless_frozen."""
        for n, slot in enumerate(self.problem.slots):
            options = []
            dishes = (slot.fixed[0],) if slot.fixed else slot.dishes
            for key in dishes:
                if kitchen is not None and slot.fixed is None and key not in kitchen:
                    continue
                for s, freeze in self._sessions_for(slot, self.dish[key]):
                    if only is not None and (s, key) not in only:
                        continue
                    x = self.m.new_bool_var("")
                    self.place[n, key, s] = x
                    options.append(x)
                    if (s, key) not in self.cook:
                        self.cook[s, key] = self.m.new_bool_var("")
                    self.m.add_implication(x, self.cook[s, key])
                    if freeze:
                        self.frozen.append(x)
            if slot.fixed is not None and not options:
                continue  # it stands already, cooked elsewhere
            self.m.add_exactly_one(options) if options else self.m.add_bool_or([])
        if self.frozen and "freezer" not in self.relax:
            self.m.add(sum(self.frozen) <= self.problem.rules.freezer_boxes)

    def _sessions_for(self, slot: PlanSlot, dish: PlanDish) -> Iterator[tuple[int, bool]]:
        where = (slot.eater_key, slot.day, slot.slot_key)
        usable = [n for n, s in enumerate(self.problem.sessions) if where in s.serves]
        for n in usable:
            age = slot.day - self.problem.sessions[n].day
            if age <= dish.keeps_days or slot.fixed is not None or "keeping" in self.relax:
                yield n, False
            elif dish.freezes:
                yield n, True

    def _variety(self) -> None:
        """at_most_so_many_different_dishes_in_a_slot, no_dish_more_often_than_allowed."""
        used: dict[tuple[str, str, str], list[Any]] = {}
        eaten: dict[tuple[str, str], list[Any]] = {}
        for (n, key, _), x in self.place.items():
            slot = self.problem.slots[n]
            family = self.dish[key].counts_as
            used.setdefault((slot.eater_key, slot.slot_key, family), []).append(x)
            eaten.setdefault((slot.eater_key, family), []).append(x)
        by_slot: dict[tuple[str, str], list[Any]] = {}
        for (eater, slot_key, _), xs in used.items():
            flag = self.m.new_bool_var("")
            for x in xs:
                self.m.add_implication(x, flag)
            by_slot.setdefault((eater, slot_key), []).append(flag)
        if "variety" in self.relax:
            return
        for flags in by_slot.values():
            self.m.add(sum(flags) <= self.problem.rules.different)
        for xs in eaten.values():
            self.m.add(sum(xs) <= self.problem.rules.repeats)

    def _sizes(self) -> None:
        """each_day_in_its_band, above_its_floor: by an energy per slot and kind of day for every dish in it."""
        slots = self.problem.slots
        self.energy: dict[tuple[str, str, str], Any] = {}
        for d in self.problem.days:
            mine = [n for n, s in enumerate(slots) if (s.eater_key, s.day) == (d.eater_key, d.day)]
            kcal_parts: list[Any] = []
            protein_parts: list[Any] = []
            fixed_kcal, fixed_protein = d.extra_kcal, d.extra_protein_g
            for n in mine:
                slot = slots[n]
                if slot.fixed is not None:
                    dish = self.dish[slot.fixed[0]]
                    fixed_kcal += slot.fixed[1] * dish.kcal_per_g
                    fixed_protein += slot.fixed[1] * dish.protein_per_g
                    continue
                energy = self._slot_energy(d, slot)
                kcal_parts.append(energy)
                protein_parts.append(self._protein(n, energy))
            margin = min(ROUNDING_KCAL, (d.energy_high_kcal - d.energy_low_kcal) / 4)
            if kcal_parts and "energy" not in self.relax:
                self.m.add(sum(kcal_parts) >= round(d.energy_low_kcal + margin - fixed_kcal))
                self.m.add(sum(kcal_parts) <= round(d.energy_high_kcal - margin - fixed_kcal))
            if kcal_parts and "protein" not in self.relax:
                self.m.add(sum(protein_parts) >= round(1000 * (d.protein_floor_g - fixed_protein) + 1500))

    def _slot_energy(self, d: PlanDay, slot: PlanSlot) -> Any:
        key = (d.eater_key, d.kind, slot.slot_key)
        if key not in self.energy:
            self.energy[key] = self.m.new_int_var(0, 6000, "")
        energy = self.energy[key]
        n = self.problem.slots.index(slot)
        for (m, dish_key, _), x in self.place.items():
            if m == n:
                dish = self.dish[dish_key]
                self.m.add(energy >= round(dish.low_g * dish.kcal_per_g) + 1).only_enforce_if(x)
                self.m.add(energy <= round(dish.high_g * dish.kcal_per_g) - 1).only_enforce_if(x)
        return energy

    def _protein(self, n: int, energy: Any) -> Any:
        """Protein of a slot's portion in mg: the dish's share of it times the slot's energy."""
        protein = self.m.new_int_var(0, 600_000, "")
        for (m, dish_key, _), x in self.place.items():
            if m == n:
                dish = self.dish[dish_key]
                per_kcal = int(1000 * dish.protein_per_g / dish.kcal_per_g)
                self.m.add(protein <= per_kcal * energy).only_enforce_if(x)
        return protein

    def _objective(self) -> None:
        cost = []
        for (_, key), cooked in self.cook.items():
            dish = self.dish[key]
            cost.append(cooked * (BATCH_WORTH_MIN * dish.batches + round(dish.hands_on_min)))
        aim = self.problem.rules.aim
        if aim == MOST_VARIETY:
            flags = []
            for key in {key for _, key in self.cook}:
                flag = self.m.new_bool_var("")
                self.m.add(sum(c for (_, k), c in self.cook.items() if k == key) >= flag)
                flags.append(flag)
            cost += [-flag * (BATCH_WORTH_MIN * 3) for flag in flags]
        elif aim == LOWEST_COST:
            for (_, key, _), x in self.place.items():
                dish = self.dish[key]
                middle_g = (dish.low_g + dish.high_g) / 2
                cost.append(x * round((dish.cost_per_g or 0.0) * middle_g * 2000))
        self._cost = sum(cost)
        self.m.minimize(self._cost)

    def prefer_own_servings(self) -> None:
        """portions_near_the_recipes_own_serving: instead of the cost, which the batches settle already."""
        apart = []
        for (n, key, _), x in self.place.items():
            slot, dish = self.problem.slots[n], self.dish[key]
            energy = self._energy_at(slot)
            if slot.fixed is not None or energy is None:
                continue
            serving_kcal = round(dish.serving_g * dish.kcal_per_g)
            off = self.m.new_int_var(0, 6000, "")
            self.m.add(off >= energy - serving_kcal).only_enforce_if(x)
            self.m.add(off >= serving_kcal - energy).only_enforce_if(x)
            apart.append(off)
        self.m.minimize(sum(apart))

    def _energy_at(self, slot: PlanSlot) -> Any:
        kind = next((d.kind for d in self.problem.days if (d.eater_key, d.day) == (slot.eater_key, slot.day)), "")
        return self.energy.get((slot.eater_key, kind, slot.slot_key))

    def at_most_batches(self, most: float) -> None:
        """no_more_batches_than."""
        self.m.add(sum(c * self.dish[key].batches for (_, key), c in self.cook.items()) <= int(most))

    def start_from(self, plan: WeekPlan) -> None:
        """A complete hint: the meals of a week that keeps the rules already."""
        meals = {(m.eater_key, m.day, m.slot_key): m for m in plan.meals}
        sessions = [s.key for s in self.problem.sessions]
        cooked, hinted = set(), set[int]()
        for (n, key, s), x in self.place.items():
            slot = self.problem.slots[n]
            meal = meals.get((slot.eater_key, slot.day, slot.slot_key))
            here = meal is not None and (meal.dish_key, meal.session_key) == (key, sessions[s])
            self.m.add_hint(x, here)
            if here and meal is not None and slot.fixed is None:
                cooked.add((s, key))
                energy = self._energy_at(slot)
                if energy is not None and energy.index not in hinted:
                    hinted.add(energy.index)
                    self.m.add_hint(energy, round(meal.grams * self.dish[key].kcal_per_g))
        for place, c in self.cook.items():
            self.m.add_hint(c, place in cooked)

    def solve(
        self, seconds: float, on_better: Progress | None = None, bound: tuple[int, float] = (0, 0.0), *,
        polish: bool = False,
    ) -> tuple[str, float]:  # fmt: skip
        """`found`, `infeasible` or `unknown`, with the deterministic time spent."""
        from ortools.sat.python import cp_model

        self.solver = cp_model.CpSolver()
        p = self.solver.parameters
        p.num_workers, p.random_seed = 1, self.problem.rules.seed
        p.max_deterministic_time, p.max_time_in_seconds = seconds, seconds * 3
        if not self.sized:
            p.linearization_level, p.optimize_with_core = 0, True
        if polish:  # several searches take turns in one thread: still the same every time
            p.num_workers, p.interleave_search = 6, True
        watcher = _watch(self, on_better, bound) if on_better is not None and self.sized else None
        status = self.solver.solve(self.m, watcher) if watcher is not None else self.solver.solve(self.m)
        self.is_optimal = status == cp_model.OPTIMAL
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return "found", float(self.solver.response_proto.deterministic_time)
        spent = float(self.solver.response_proto.deterministic_time)
        return ("infeasible" if status == cp_model.INFEASIBLE else "unknown"), spent

    def bound(self) -> tuple[int, float]:
        """The least batches, and minutes with those, that any week can have."""
        if self.problem.rules.aim != LEAST_COOKING:
            return 0, 0.0
        least = max(0.0, float(self.solver.best_objective_bound))
        return int(least // BATCH_WORTH_MIN), round(least % BATCH_WORTH_MIN)

    def batches_cooked(self) -> set[tuple[int, str]]:
        """What is cooked, by place of the session and dish."""
        return {key for key, c in self.cook.items() if self.solver.value(c)}

    def cook_something_outside(self, cut: frozenset[tuple[int, str]]) -> None:
        """some_batch_outside_these: they cannot be sized to the days."""
        self.m.add(sum(c for key, c in self.cook.items() if key not in cut) >= 1)

    def answer(self, bound_batches: int, bound_min: float, spent: float, *, proven: bool) -> WeekPlan:
        """The week of the last solution."""
        return self.week_of(self.solver.value, bound_batches, bound_min, spent, proven=proven)

    def week_of(
        self, value: Callable[[Any], int], bound_batches: int, bound_min: float, spent: float, *, proven: bool
    ) -> WeekPlan:
        """The week of a solution, portions in 5 g steps."""
        meals = []
        kinds = {(d.eater_key, d.day): d.kind for d in self.problem.days}
        for (n, key, s), x in self.place.items():
            if not value(x):
                continue
            slot, dish = self.problem.slots[n], self.dish[key]
            session = self.problem.sessions[s]
            grams = slot.fixed[1] if slot.fixed else self._grams(value, kinds, slot, dish)
            frozen = slot.fixed is None and slot.day - session.day > dish.keeps_days
            meals.append(PlannedMeal(slot.eater_key, slot.day, slot.slot_key, key, grams, session.key, frozen,
                                     slot.fixed is not None))  # fmt: skip
        cooked = {(m.session_key, m.dish_key) for m in meals}
        batches = sum(self.dish[key].batches for _, key in cooked)
        minutes = sum(self.dish[key].hands_on_min for _, key in cooked)
        meals.sort(key=lambda m: (m.eater_key, m.day, m.slot_key))
        return WeekPlan(tuple(meals), batches, minutes, bound_batches, bound_min, proven, spent)

    def _grams(
        self, value: Callable[[Any], int], kinds: Mapping[tuple[str, int], str], slot: PlanSlot, dish: PlanDish
    ) -> float:
        kind = kinds.get((slot.eater_key, slot.day))
        energy = self.energy.get((slot.eater_key, str(kind), slot.slot_key)) if self.sized else None
        if energy is None:
            return round((dish.low_g + dish.high_g) / 10) * 5.0
        grams = round(value(energy) / dish.kcal_per_g / 5) * 5.0
        return min(max(grams, dish.low_g), dish.high_g)


def _watch(model: _Model, on_better: Progress, bound: tuple[int, float]) -> Any:
    from ortools.sat.python import cp_model

    class Watcher(cp_model.CpSolverSolutionCallback):  # type: ignore[misc]
        def on_solution_callback(self) -> None:
            week = model.week_of(self.value, *bound, 0.0, proven=False)
            if not on_better(week):
                self.stop_search()

    return Watcher()


_RULES: Mapping[str, tuple[str, str]] = {
    "freezer": ("The freezer is full before every meal that must wait in it is there.", "Allow more boxes in it."),
    "variety": ("So few different dishes, or so many repeats, leave no choice.", "Allow one more dish in a slot."),
    "keeping": ("A meal would be eaten after its days in the fridge.", "Add a session, or plan to the usual days."),
    "protein": ("The protein floor cannot be reached with these dishes.", "Lower the floor, or add richer dishes."),
    "energy": ("The energy band cannot be reached with these portions.", "Widen the band, or allow larger portions."),
}


def _conflicts(problem: WeekPlanProblem, *, sized: bool) -> tuple[Conflict, ...]:
    """The smallest set of rules that, let go, frees a week: tried one by one, then in pairs."""
    names = [r for r in _RULES if sized or r not in ("protein", "energy")]
    singles = [frozenset({r}) for r in names]
    pairs = [frozenset({a, b}) for i, a in enumerate(names) for b in names[i + 1 :]]
    for relax in [*singles, *pairs]:
        model = _Model(problem, sized=sized, relax=relax)
        model.m.clear_objective()
        status, _ = model.solve(1.0)
        if status == "found":
            return tuple(Conflict(r, *_RULES[r]) for r in sorted(relax))
    return (Conflict("all", "Several rules stand in each other’s way.", "Plan fewer days, or let rules go."),)


def check_plan(problem: WeekPlanProblem, plan: WeekPlan) -> list[str]:
    """Each broken rule, from the answer alone; empty when it keeps them all."""
    wrong = []
    slots = {(s.eater_key, s.day, s.slot_key): s for s in problem.slots}
    dishes = {d.key: d for d in problem.dishes}
    sessions = {s.key: s for s in problem.sessions}
    filled = {(m.eater_key, m.day, m.slot_key) for m in plan.meals}
    wrong += [f"{key} is empty" for key, s in slots.items() if key not in filled and s.fixed is None]
    frozen = 0
    for m in plan.meals:
        slot, dish, session = slots[m.eater_key, m.day, m.slot_key], dishes[m.dish_key], sessions[m.session_key]
        where = (m.eater_key, m.day, m.slot_key)
        if slot.fixed is None and m.dish_key not in slot.dishes:
            wrong.append(f"{dish.name} may not stand in {where}")
        if slot.fixed is not None and (m.dish_key, m.grams) != slot.fixed:
            wrong.append(f"{where} was fixed")
        if where not in session.serves:
            wrong.append(f"{where} is eaten before its session")
        if m.day - session.day > dish.keeps_days and slot.fixed is None:
            frozen += 1
            if not dish.freezes:
                wrong.append(f"{dish.name} is too old in {where}")
        if slot.fixed is None and not dish.low_g - 1e-6 <= m.grams <= dish.high_g + 1e-6:
            wrong.append(f"{dish.name} has no portion of {m.grams:g} g")
    if frozen > problem.rules.freezer_boxes:
        wrong.append(f"{frozen} boxes for {problem.rules.freezer_boxes} places in the freezer")
    wrong += _day_faults(problem, plan, dishes)
    return wrong


def _day_faults(problem: WeekPlanProblem, plan: WeekPlan, dishes: Mapping[str, PlanDish]) -> Sequence[str]:
    wrong = []
    for d in problem.days:
        eaten = [m for m in plan.meals if (m.eater_key, m.day) == (d.eater_key, d.day)]
        kcal = d.extra_kcal + sum(m.grams * dishes[m.dish_key].kcal_per_g for m in eaten)
        protein = d.extra_protein_g + sum(m.grams * dishes[m.dish_key].protein_per_g for m in eaten)
        if not d.energy_low_kcal - 0.5 <= kcal <= d.energy_high_kcal + 0.5:
            wrong.append(f"day {d.day} of {d.eater_key} has {kcal:.0f} kcal")
        if protein < d.protein_floor_g - 0.5:
            wrong.append(f"day {d.day} of {d.eater_key} has {protein:.0f} g of protein")
    for (eater, slot), used in _used(plan, dishes).items():
        if len(used) > problem.rules.different:
            wrong.append(f"{len(used)} different dishes in {slot} of {eater}")
    return wrong


def _used(plan: WeekPlan, dishes: Mapping[str, PlanDish]) -> dict[tuple[str, str], set[str]]:
    used: dict[tuple[str, str], set[str]] = {}
    for m in plan.meals:
        used.setdefault((m.eater_key, m.slot_key), set()).add(dishes[m.dish_key].counts_as)
    return used
