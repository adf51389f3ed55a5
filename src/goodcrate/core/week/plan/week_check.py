"""A planned week held against every rule of its problem, from the answer alone."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.ground.amounts import shown
from goodcrate.core.week.storing import FREEZER, FRIDGE
from goodcrate.core.week.week_problem import (
    ALL_PLACES,
    PlanDay,
    PlanDish,
    WeekPlan,
    WeekPlanProblem,
    evenings_of,
    fillings_of,
    made_g,
    standing_in,
    work_of,
)


def check_plan(problem: WeekPlanProblem, plan: WeekPlan) -> list[str]:
    """Each broken rule, from the answer alone; empty when it keeps them all."""
    wrong = []
    slots = {(s.eater_key, s.day, s.slot_key): s for s in problem.slots}
    dishes = {d.key: d for d in problem.dishes}
    sessions = {s.key: s for s in problem.sessions}
    filled = {(m.eater_key, m.day, m.slot_key) for m in plan.meals}
    wrong += [f"{key} is empty" for key, s in slots.items() if key not in filled and s.fixed is None]
    for m in plan.meals:
        where = (m.eater_key, m.day, m.slot_key)
        slot, dish, session = slots[where], dishes[m.dish_key], sessions.get(m.session_key)
        if slot.fixed is None and m.dish_key not in slot.dishes:
            wrong.append(f"{dish.name} may not stand in {where}")
        if slot.fixed is not None and (m.dish_key, m.grams) != slot.fixed:
            wrong.append(f"{where} was fixed")
        if session is None:
            if slot.fixed is None:
                wrong.append(f"no session cooks {where}")
            continue
        if where not in session.serves:
            wrong.append(f"{where} is eaten before its session")
        if m.is_frozen and not dish.freezes:
            wrong.append(f"{dish.name} does not freeze, and waits so for {where}")
        if m.day - session.day > dish.keeps_days and slot.fixed is None and not m.is_frozen:
            wrong.append(f"{dish.name} is too old in {where}")
        if slot.fixed is None and not dish.low_g - 1e-6 <= m.grams <= dish.high_g + 1e-6:
            wrong.append(f"{dish.name} has no portion of {m.grams:g} g")
    wrong += _place_faults(problem, plan)
    wrong += _vessel_faults(problem, plan)
    wrong += _day_faults(problem, plan)
    wrong += _variety_faults(problem, plan, dishes)
    return wrong


def places_taken(problem: WeekPlanProblem, plan: WeekPlan) -> dict[int, dict[str, tuple[int, int]]]:
    """By day, on its evening: boxes of the plan and boxes from before in the freezer, the fridge, and all."""
    slots = {(s.eater_key, s.day, s.slot_key): s for s in problem.slots}
    dry = {d.key for d in problem.dishes if d.keeps_dry}
    taken = {}
    for evening in evenings_of(problem):
        there = [
            (m, slot)
            for m in plan.meals
            if m.session_key in evening.over and evening.waits(slot := slots[m.eater_key, m.day, m.slot_key])
        ]
        in_freezer = sum(m.is_frozen and not evening.is_thawing(slot) for m, slot in there)
        dried = sum(m.dish_key in dry and not m.is_frozen for m, _ in there)
        taken[evening.day] = {
            "freezer": (in_freezer, standing_in(problem, FREEZER, evening)),
            "fridge": (len(there) - in_freezer - dried, standing_in(problem, FRIDGE, evening)),
            "boxes": (len(there), standing_in(problem, ALL_PLACES, evening)),
        }
    return taken


def _place_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Iterator[str]:
    rules = problem.rules
    most = {"freezer": rules.freezer_boxes, "fridge": rules.fridge_boxes, "boxes": rules.box_count}
    for day, taken in places_taken(problem, plan).items():
        for place, (new, before) in taken.items():
            room = most[place]
            if new and room is not None and new + before > room:
                yield f"{new} boxes and {before} from before for {room} places of the {place} on day {day}"


def _vessel_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Sequence[str]:
    dishes = {d.key: d for d in problem.dishes}
    wrong = []
    standing = made_g([m for m in plan.meals if m.is_fixed], dishes)
    for at, grams in made_g(plan.meals, dishes).items():
        dish = dishes[at[1]]
        fillings = fillings_of(grams, dish)
        if fillings > max(problem.rules.fillings, fillings_of(standing.get(at, 0.0), dish)):
            wrong.append(f"{shown(grams)} g of {dish.name} in {fillings} fillings of {shown(dish.most_g or 0)} g")
    work = work_of(plan.meals, dishes)
    if work != (plan.batches, plan.hands_on_min, plan.fillings_again):
        wrong.append(f"it takes {work[0]} batches and {shown(work[1])} min, {work[2]} fillings after the first")
    return wrong


@dataclass(frozen=True, slots=True)
class DayTotal:
    """What an eater's day comes to in a plan, kcal and g, against its band and floor; `is_placed` wholly by hand."""

    band: PlanDay
    kcal: float
    protein_g: float
    is_placed: bool = False

    @property
    def keeps_band(self) -> bool:
        """Inside the energy band, to half a kcal."""
        return self.band.energy_low_kcal - 0.5 <= self.kcal <= self.band.energy_high_kcal + 0.5

    @property
    def keeps_floor(self) -> bool:
        """Not below the protein floor, to half a gram."""
        return self.protein_g >= self.band.protein_floor_g - 0.5


def day_totals(problem: WeekPlanProblem, plan: WeekPlan) -> list[DayTotal]:
    """Every day of the problem with what is eaten on it, extras included."""
    dishes = {d.key: d for d in problem.dishes}
    totals = []
    open_days = {(s.eater_key, s.day) for s in problem.slots if s.fixed is None}
    for d in problem.days:
        eaten = [m for m in plan.meals if (m.eater_key, m.day) == (d.eater_key, d.day)]
        kcal = d.extra_kcal + sum(m.grams * dishes[m.dish_key].kcal_per_g for m in eaten)
        protein_g = d.extra_protein_g + sum(m.grams * dishes[m.dish_key].protein_per_g for m in eaten)
        totals.append(DayTotal(d, kcal, protein_g, bool(eaten) and (d.eater_key, d.day) not in open_days))
    return totals


def _day_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Sequence[str]:
    wrong: list[str] = []
    for total in day_totals(problem, plan):
        d = total.band
        if total.is_placed:
            continue  # nothing of it was planned: it is what the cook made it
        if not total.keeps_band:
            wrong.append(f"day {d.day} of {d.eater_key} has {shown(total.kcal)} kcal")
        wrong += _band_faults(problem, plan, d)
        if not total.keeps_floor:
            wrong.append(f"day {d.day} of {d.eater_key} has {shown(total.protein_g)} g of protein")
    return wrong


def _band_faults(problem: WeekPlanProblem, plan: WeekPlan, d: PlanDay) -> Sequence[str]:
    dishes = {dish.key: dish for dish in problem.dishes}
    eaten = [m for m in plan.meals if (m.eater_key, m.day) == (d.eater_key, d.day)]
    wrong = []
    for band in d.bands:
        there = band.extra + sum(m.grams * dishes[m.dish_key].others_per_g.get(band.key, 0.0) for m in eaten)
        if (band.low is not None and there < band.low - 0.5) or (band.high is not None and there > band.high + 0.5):
            wrong.append(f"day {d.day} of {d.eater_key} has {shown(there)} of {band.key}")
    for m in eaten if d.block_sums else ():
        kcal, step = m.grams * dishes[m.dish_key].kcal_per_g, 2.5 * dishes[m.dish_key].kcal_per_g + 1
        if not m.is_fixed and min(abs(kcal - block) for block in d.block_sums) > step:
            wrong.append(f"{shown(kcal)} kcal on day {d.day} of {d.eater_key} are no whole blocks")
    return wrong


def _variety_faults(problem: WeekPlanProblem, plan: WeekPlan, dishes: Mapping[str, PlanDish]) -> Sequence[str]:
    used: dict[tuple[str, str], set[str]] = {}
    eaten: dict[tuple[str, str], int] = {}
    for m in plan.meals:
        if not m.session_key:
            continue  # nobody chose it here: what is in the house is eaten
        family = dishes[m.dish_key].counts_as
        used.setdefault((m.eater_key, m.slot_key), set()).add(family)
        eaten[m.eater_key, family] = eaten.get((m.eater_key, family), 0) + 1
    wrong = [f"{len(u)} different dishes in {slot} of {eater}" for (eater, slot), u in used.items()
             if len(u) > problem.rules.different]  # fmt: skip
    return wrong + [f"{eater} gets {family} {n} times" for (eater, family), n in eaten.items()
                    if n > problem.rules.repeats]  # fmt: skip
