"""A planned week held against every rule of its problem, from the answer alone: nothing of how it was found is used."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import ceil

from goodcrate.core.ground.writing import round_half_up, short, shown
from goodcrate.core.week.week_problem import (
    WHOLE_SHARE,
    WITHIN_BUDGET,
    PlanBand,
    PlanDay,
    PlanDish,
    PlanMean,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
    till_of,
)

THAWS_DAYS = 1
"""A frozen box is taken into the fridge on the evening so many days before it is eaten."""
A_CENT = 0.01


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
        step_g = problem.rules.step_g
        is_on_step = m.grams == dish.low_g or abs(m.grams / step_g - round(m.grams / step_g)) < 1e-6
        if slot.fixed is None and not (is_on_step and dish.low_g - 1e-6 <= m.grams <= dish.high_g + 1e-6):
            wrong.append(f"{dish.name} has no portion of {short(m.grams)} g")
    wrong += _place_faults(problem, plan)
    wrong += _container_faults(problem, plan)
    wrong += _vessel_faults(problem, plan)
    wrong += _portion_faults(problem, plan)
    wrong += _day_faults(problem, plan)
    wrong += _mean_faults(problem, plan)
    wrong += _variety_faults(problem, plan, dishes)
    wrong += _till_faults(problem, plan)
    return wrong


def _till_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Iterator[str]:
    price, till = till_of(problem, plan.meals), problem.till
    if price is None or till is None:
        return
    if plan.till is None or abs(price - plan.till) > A_CENT / 2:
        yield f"its list costs {price:.2f}"
    if problem.rules.aim == WITHIN_BUDGET and till.budget is not None and price > till.budget + A_CENT / 2:
        yield f"its list costs {price:.2f}, for a budget of {till.budget:.2f}"


def places_taken(problem: WeekPlanProblem, plan: WeekPlan) -> dict[int, dict[str, tuple[int, int]]]:
    """By day, on its evening: boxes of the plan and boxes from before in the freezer, the fridge, and all.

    Each box is followed from the day it comes into the house to the last evening before it is eaten; a frozen one lies
    in the fridge from the evening before.
    """
    slots = {(s.eater_key, s.day, s.slot_key): s for s in problem.slots}
    sessions, dishes = {s.key: s for s in problem.sessions}, {d.key: d for d in problem.dishes}
    first, last = min((s.day for s in problem.sessions), default=0), max((s.day for s in problem.slots), default=0)
    new = {day: {"freezer": 0, "fridge": 0, "boxes": 0} for day in range(first, last + 1)}
    rules = problem.rules
    taken = {"freezer": rules.freezer_taken, "fridge": rules.fridge_taken}
    old = {day: {**taken, "boxes": sum(taken.values())} for day in new}

    def waits(counts: dict[int, dict[str, int]], slot: PlanSlot, since: int, place: str) -> None:
        where = (slot.eater_key, slot.day, slot.slot_key)
        follows_cooking = any(s.day == slot.day and where in s.serves for s in problem.sessions)
        for day in range(since, slot.day + follows_cooking):
            counts[day]["boxes"] += 1
            if place:
                counts[day]["fridge" if place == "freezer" and day + THAWS_DAYS >= slot.day else place] += 1

    for m in plan.meals:
        if m.session_key in sessions:
            place = "freezer" if m.is_frozen else "" if dishes[m.dish_key].keeps_dry else "fridge"
            waits(new, slots[m.eater_key, m.day, m.slot_key], sessions[m.session_key].day, place)
    for slot in problem.slots:
        dish = dishes.get(slot.fixed[0]) if slot.fixed is not None else None
        if dish is not None and dish.waits_in in ("freezer", "fridge"):
            waits(old, slot, first, dish.waits_in)
    return {day: {place: (new[day][place], old[day][place]) for place in new[day]} for day in new}


def _place_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Iterator[str]:
    rules = problem.rules
    most = {"freezer": rules.freezer_boxes, "fridge": rules.fridge_boxes, "boxes": rules.box_count}
    for day, taken in places_taken(problem, plan).items():
        for place, (new, before) in taken.items():
            room = most[place]
            if new and room is not None and new + before > room:
                yield f"{new} boxes and {before} from before for {room} places of the {place} on day {day}"


def _container_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Iterator[str]:
    """Evenings with more large portions in the house than boxes that hold them, unless all of them stood before."""
    slots = {(s.eater_key, s.day, s.slot_key): s for s in problem.slots}
    sessions = {s.key: s for s in problem.sessions}
    for over_g, most in problem.rules.containers:
        there, new_on = dict[int, int](), set[int]()
        for m in plan.meals:
            where = (m.eater_key, m.day, m.slot_key)
            if m.session_key not in sessions or m.grams <= over_g:
                continue
            follows_cooking = any(s.day == m.day and where in s.serves for s in problem.sessions)
            for day in range(sessions[m.session_key].day, slots[where].day + follows_cooking):
                there[day] = there.get(day, 0) + 1
                if not m.is_fixed:
                    new_on.add(day)
        for day, count in there.items():
            if count > most and day in new_on and any(s.day == day for s in sessions.values()):
                yield f"{count} portions of more than {over_g:.0f} g for {most} boxes that hold them on day {day}"


def _vessel_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Sequence[str]:
    """Pots that are filled too often, and batches, minutes or fillings that do not add up."""
    dishes = {d.key: d for d in problem.dishes}
    made: dict[tuple[str, str], list[tuple[float, bool]]] = {}
    for m in plan.meals:
        of = dishes[m.dish_key].family or m.dish_key
        if m.session_key:
            made.setdefault((m.session_key, of), []).append((m.grams, m.is_fixed))
    wrong, batches, minutes, again = [], 0, 0.0, 0
    for (_, key), boxes in made.items():
        if key not in dishes:
            continue
        dish = dishes[key]
        times = _times(sum(grams for grams, _ in boxes), dish.most_g)
        if times > max(problem.rules.fillings, _times(sum(g for g, was_there in boxes if was_there), dish.most_g)):
            grams = sum(grams for grams, _ in boxes)
            wrong.append(f"{shown(grams)} g of {dish.name} in {times} fillings of {shown(dish.most_g or 0)} g")
        batches, minutes, again = batches + dish.batches, minutes + dish.hands_on_min * times, again + times - 1
    for session, key in {(m.session_key, m.dish_key) for m in plan.meals if m.session_key} - made.keys():
        batches, minutes = batches + dishes[key].batches, minutes + dishes[key].hands_on_min
        made[session, key] = []
    if (batches, again) != (plan.batches, plan.fillings_again) or abs(minutes - plan.hands_on_min) > 1e-6:
        wrong.append(f"it takes {batches} batches and {shown(minutes)} min, {again} fillings after the first")
    return wrong


def _times(grams: float, most_g: float | None) -> int:
    """How often a vessel is filled for so much: a little over its measure still goes in."""
    return 1 if not most_g or grams <= 0 else max(1, ceil(grams / most_g - WHOLE_SHARE))


@dataclass(frozen=True, slots=True)
class DayTotal:
    """What an eater's day comes to in a plan, kcal and g, against its band and floor; `is_placed` wholly by hand."""

    band: PlanDay
    kcal: float
    protein_g: float
    is_placed: bool = False

    @property
    def keeps_band(self) -> bool:
        """Inside the energy band, in whole kcal as they are shown."""
        return _is_shown_within(self.kcal, self.band)

    @property
    def keeps_floor(self) -> bool:
        """Not below the protein floor, in whole grams as they are shown."""
        return round_half_up(self.protein_g) >= self.band.protein_floor_g


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


@dataclass(frozen=True, slots=True)
class MeanTotal:
    """What the mean of an eater's days comes to in a plan, kcal and g a day, against its bands and floor."""

    mean: PlanMean
    kcal: float
    protein_g: float
    others: Mapping[str, float]

    @property
    def keeps_band(self) -> bool:
        """Inside the energy band, in whole kcal as they are shown."""
        return _is_shown_within(self.kcal, self.mean)

    @property
    def keeps_floor(self) -> bool:
        """Not below the protein floor, in whole grams as they are shown."""
        return round_half_up(self.protein_g) >= self.mean.protein_floor_g


def mean_totals(problem: WeekPlanProblem, plan: WeekPlan) -> list[MeanTotal]:
    """The means of the problem, of every eater for whom something was planned."""
    days, found = day_totals(problem, plan), []
    for mean in problem.means:
        mine = [t for t in days if t.band.eater_key == mean.eater_key]
        if all(t.is_placed for t in mine):
            continue
        others = {b.key: sum(_holds(problem, plan, t.band, b.key) for t in mine) / len(mine) for b in mean.bands}
        kcal, protein_g = (sum(getattr(t, of) for t in mine) / len(mine) for of in ("kcal", "protein_g"))
        found.append(MeanTotal(mean, kcal, protein_g, others))
    return found


def _mean_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Iterator[str]:
    for total in mean_totals(problem, plan):
        if not total.keeps_band:
            yield f"the mean of {total.mean.eater_key} is {shown(total.kcal)} kcal a day"
        if not total.keeps_floor:
            yield f"the mean of {total.mean.eater_key} is {shown(total.protein_g)} g of protein a day"
        for band in total.mean.bands:
            if _is_outside(band, total.others[band.key]):
                yield f"the mean of {total.mean.eater_key} is {shown(total.others[band.key])} of {band.key} a day"


def _holds(problem: WeekPlanProblem, plan: WeekPlan, d: PlanDay, key: str) -> float:
    """What a day holds of a nutrient that has a band, in its unit."""
    dishes = {dish.key: dish for dish in problem.dishes}
    eaten = [m for m in plan.meals if (m.eater_key, m.day) == (d.eater_key, d.day)]
    extra = sum(band.extra for band in d.bands if band.key == key)
    return extra + sum(m.grams * dishes[m.dish_key].others_per_g.get(key, 0.0) for m in eaten)


def _is_outside(band: PlanBand, there: float) -> bool:
    shown_as = round_half_up(there)
    return (band.low is not None and shown_as < band.low) or (band.high is not None and shown_as > band.high)


def _is_shown_within(kcal: float, of: PlanDay | PlanMean) -> bool:
    return round_half_up(of.energy_low_kcal) <= round_half_up(kcal) <= round_half_up(of.energy_high_kcal)


def _portion_faults(problem: WeekPlanProblem, plan: WeekPlan) -> Iterator[str]:
    """Portions of one dish that differ for an eater on days of one kind: boxes are packed by one size."""
    kinds = {(d.eater_key, d.day): d.kind for d in problem.days}
    sizes: dict[tuple[str, str, str], set[float]] = {}
    for m in plan.meals:
        if not m.is_fixed:
            sizes.setdefault((m.eater_key, kinds[m.eater_key, m.day], m.dish_key), set()).add(m.grams)
    for (eater, kind, dish), grams in sizes.items():
        if len(grams) > 1 and problem.rules.alike:
            yield f"{eater} gets {dish} as {short(min(grams))} and {short(max(grams))} g on days of kind “{kind}”"


def _band_faults(problem: WeekPlanProblem, plan: WeekPlan, d: PlanDay) -> Sequence[str]:
    dishes = {dish.key: dish for dish in problem.dishes}
    eaten = [m for m in plan.meals if (m.eater_key, m.day) == (d.eater_key, d.day)]
    wrong = [
        f"day {d.day} of {d.eater_key} has {shown(there)} of {band.key}"
        for band in d.bands
        if _is_outside(band, there := _holds(problem, plan, d, band.key))
    ]
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
    wrong = [
        f"{len(u)} different dishes in {slot} of {eater}"
        for (eater, slot), u in used.items()
        if len(u) > problem.rules.different
    ]
    return wrong + [
        f"{eater} gets {family} {n} times" for (eater, family), n in eaten.items() if n > problem.rules.repeats
    ]
