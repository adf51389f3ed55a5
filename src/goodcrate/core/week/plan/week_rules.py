"""The rules of a week as a CP-SAT model: what stands where, which session cooks it, what energy each slot gives."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from math import ceil, floor
from typing import Any

from goodcrate.core.week.plan.week_cuts import conditions, mg_per_kcal
from goodcrate.core.week.storing import FREEZER, FRIDGE
from goodcrate.core.week.week_problem import (
    ALL_PLACES,
    FULL_SHARE,
    LEAST_COOKING,
    LOWEST_COST,
    MOST_VARIETY,
    Evening,
    PlanBand,
    PlanDay,
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
STEP_KCAL, MOST_KCAL = 10, 6000
"""A box's energy goes in steps of 10 kcal (of 1 where a band is narrow), as its portion does in steps of 5 g."""
OPENED_SCALE = 100
"""So many opened foods used up would be worth one minute: they only decide among weeks that take as much work."""
BATCH_WORTH_MIN = 1000
"""One batch less counts more than any sum of minutes: lexicographic within one objective."""
ROUNDING_KCAL = 25
"""Taken off each side of a band while portions are exact: rounding to 5 g moves a day by less."""
BY_CORES, BY_HITTING_SETS = "optimize_with_core", "optimize_with_max_hs"
"""The solver's ways to prove what must be cooked at least."""
Progress = Callable[[WeekPlan], bool]
"""Called with the best week so far; answers whether to go on."""


class WeekRules:
    """The week as a CP-SAT model, with or without portion sizes: its variables, its rules and what is sought."""

    def __init__(
        self,
        problem: WeekPlanProblem,
        *,
        sized: bool,
        only: frozenset[tuple[int, str]] | None = None,
        kitchen: frozenset[str] | None = None,
        relax: frozenset[str] = frozenset(),
        measured: str = "",
        soft: Iterable[str] = (),
    ) -> None:
        from ortools.sat.python import cp_model

        self.problem, self.sized, self.relax = problem, sized, relax
        self.m: Any = cp_model.CpModel()
        self.dish = {d.key: d for d in problem.dishes}
        self.place: dict[tuple[int, str, int], Any] = {}
        self.cook: dict[tuple[int, str], Any] = {}
        self.shares: dict[int, dict[str, Any]] = {}
        self.stands: dict[int, dict[str, Any]] = {}
        self.frozen: dict[tuple[int, str, int], Any] = {}
        self.again: list[tuple[Any, str]] = []
        self.solver: Any = None
        uses = problem.rules.aim == LEAST_COOKING and any(d.opened for d in problem.dishes)
        self.scale = OPENED_SCALE if uses else 1
        self.measured = measured
        self.slack: Any = self.m.new_int_var(0, MOST_SLACK, "") if relax else 0
        self.broken: dict[str, Any] = {rule: self.m.new_bool_var("") for rule in soft}
        self._meals(only, kitchen)
        self._variety()
        if sized:
            self._sizes()
            self._fillings()
            self._containers()
        self._objective()

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

    def _fillings(self) -> None:
        """no_filling_larger_than_its_pots: more of a dish fills them again, as often as the rules allow."""
        for (key, _), batch in self._batches(lambda d: d.most_g is not None).items():
            dish = self.dish[key]
            room = max(int((dish.most_g or 0.0) * dish.kcal_per_g * FULL_SHARE), 1)
            high, low = round(dish.high_g * dish.kcal_per_g), round(dish.low_g * dish.kcal_per_g) + 1
            stands_kcal = sum(kcal for kcal, _ in batch.standing)
            most = min(-(-(len(batch.shares) * high + stands_kcal) // room), self.problem.rules.fillings)
            again = [self.m.new_bool_var("") for _ in range(max(most, -(-stands_kcal // room)) - 1)]
            for one, next_one in pairwise(again):
                self.m.add_implication(next_one, one)
            self.again += [(more, key) for more in again]
            stands = sum(kcal * x for kcal, x in batch.standing)
            in_all = room * (1 + sum(again)) + 10 * self._room("vessels")
            self.m.add(sum(batch.shares) + stands <= in_all)
            self.m.add(low * sum(batch.places) + stands <= in_all)

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
        """Whether a dish that a session cooks for a slot is a portion of more than so many g, in its steps of 5 g."""
        x, dish, stays = self.place[n, key, s], self.dish[key], self._stays(self.problem.slots[n])
        low_g, high_g = (stays[1], stays[1]) if stays else (dish.low_g, dish.high_g)
        if high_g <= over_g:
            return 0
        if low_g > over_g:
            return x
        most_kcal = ceil((floor(over_g / 5) * 5 + 2.5) * dish.kcal_per_g) - 1
        large = self.m.new_bool_var("")
        share = self.shares[n][key]
        self.m.add(share <= most_kcal + max(round(dish.high_g * dish.kcal_per_g) - most_kcal, 0) * large)
        if sum((n, key, other) in self.place for other in range(len(self.problem.sessions))) == 1:
            return large
        here = self.m.new_bool_var("")
        self.m.add(here >= large + x - 1)
        return here

    def _batches(self, which: Callable[[PlanDish], bool]) -> "dict[tuple[str, int], _Batch]":
        """By dish and session: the energies of its portions (each 0 unless cooked there), and what stands of it."""
        batches: dict[tuple[str, int], _Batch] = {}
        for (n, key, s), x in self.place.items():
            stays = self._stays(self.problem.slots[n])
            recipe = self.dish[key].family if stays else key
            if stays and recipe in self.dish and which(self.dish[recipe]):
                batch = batches.setdefault((recipe, s), _Batch([], [], []))
                batch.standing.append((round(stays[1] * self.dish[recipe].kcal_per_g), x))
        for (_, key, s), (share, x) in self.shares_cooked(which).items():
            batch = batches.setdefault((key, s), _Batch([], [], []))
            batch.shares.append(share)
            batch.places.append(x)
        return batches

    def shares_cooked(
        self, which: Callable[[PlanDish], bool], *, exactly: bool = False
    ) -> Mapping[tuple[int, str, int], tuple[Any, Any]]:
        """By slot, dish and session: the energy of a planned portion, and whether it is cooked there; else the energy
        is at least 0, `exactly` 0 where that was asked for."""
        found: dict[tuple[int, str, int], tuple[Any, Any]] = {}
        for (n, key, s), x in self.place.items():
            if self._stays(self.problem.slots[n]) or not which(self.dish[key]):
                continue
            share = self.shares[n][key]
            if sum((n, key, other) in self.place for other in range(len(self.problem.sessions))) > 1:
                high = max(round(self.dish[key].high_g * self.dish[key].kcal_per_g), 0)
                here = self.m.new_int_var(0, high, "")
                self.m.add(here >= share - high * (1 - x))
                if exactly:
                    self.m.add(here <= share)
                    self.m.add(here <= high * x)
                share = here
            found[n, key, s] = share, x
        return found

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
        for flags in by_slot.values():
            self.m.add(sum(flags) <= self.problem.rules.different + self._room("different"))
        for xs in eaten.values():
            self.m.add(sum(xs) <= self.problem.rules.repeats + self._room("repeats"))

    def _sizes(self) -> None:
        """each_day_in_its_band, above_its_floor: by an energy per slot and kind of day for every dish in it.

        Each dish's share of its slot's energy is a variable of its own, 0 unless it stands there: the linear relaxation
        is then tight, and protein is a plain sum.
        """
        self.energy: dict[tuple[str, str, str], Any] = {}
        sums: dict[str, _Sums] = {}
        here: dict[tuple[str, int], list[int]] = {}
        for n, slot in enumerate(self.problem.slots):
            here.setdefault((slot.eater_key, slot.day), []).append(n)
        for d in self.problem.days:
            kcal_parts: list[Any] = []
            protein_parts: list[Any] = []
            fixed_kcal, fixed_protein = d.extra_kcal, d.extra_protein_g
            mine = here.get((d.eater_key, d.day), ())
            stands: list[tuple[str, Any]] = []
            for n in mine:
                slot = self.problem.slots[n]
                if stays := self._stays(slot):
                    dish = self.dish[stays[0]]
                    fixed_kcal += stays[1] * dish.kcal_per_g
                    fixed_protein += stays[1] * dish.protein_per_g
                    continue
                kcal_parts.append(self._slot_energy(d, slot))
                protein_parts += self._portions(n, kcal_parts[-1])
                stands += self.stands.get(n, {}).items()
            margin = min(ROUNDING_KCAL, (d.energy_high_kcal - d.energy_low_kcal) / 4)
            if kcal_parts and "energy" in self.relax:
                low, high = round(d.energy_low_kcal - fixed_kcal), round(d.energy_high_kcal - fixed_kcal)
                # a wider band is rounded in all of it
                self.m.add(sum(kcal_parts) + self._room("energy") >= low + ROUNDING_KCAL)
                self.m.add(sum(kcal_parts) - self._room("energy") <= high - ROUNDING_KCAL)
            elif kcal_parts:
                low, high = (
                    round(d.energy_low_kcal + margin - fixed_kcal),
                    round(d.energy_high_kcal - margin - fixed_kcal),
                )
                self.m.add(sum(kcal_parts) + self._room("energy") >= low)
                self.m.add(sum(kcal_parts) - self._room("energy") <= high)
            floor_mg = round(1000 * (d.protein_floor_g - fixed_protein) + 1500)
            if kcal_parts:
                self.m.add(sum(protein_parts) + 1000 * self._room("protein") >= floor_mg)
            if kcal_parts and not self.relax & {"energy", "protein"}:
                for asked in conditions(d, (self.dish[key] for key, _ in stands), low, high, floor_mg):
                    worth = [asked.worth[key] * stood for key, stood in stands if key in asked.worth]
                    kept = [self.broken[rule].negated() for rule in ("energy", "protein") if rule in self.broken]
                    self.m.add(sum(worth) >= asked.least).only_enforce_if(kept)
            if kcal_parts:
                for band in d.bands:
                    self._band(band, mine)
            mean = sums.setdefault(d.eater_key, _Sums())
            mean.add(d, mine, kcal_parts, protein_parts)
            mean.fixed_kcal, mean.fixed_protein_g = mean.fixed_kcal + fixed_kcal, mean.fixed_protein_g + fixed_protein
        self._means(sums)

    def _means(self, sums: Mapping[str, "_Sums"]) -> None:
        """the_mean_of_the_days_in_its_bands, as the sum over them; with the days' room for rounding on each."""
        for mean in self.problem.means:
            there = sums.get(mean.eater_key)
            if there is None or not there.kcal:
                continue  # nothing of it is planned
            n = there.days
            margin = n * min(ROUNDING_KCAL, (mean.energy_high_kcal - mean.energy_low_kcal) / 4)
            low, high = n * mean.energy_low_kcal - there.fixed_kcal, n * mean.energy_high_kcal - there.fixed_kcal
            self.m.add(sum(there.kcal) + n * self._room("energy") >= round(low + margin))
            self.m.add(sum(there.kcal) - n * self._room("energy") <= round(high - margin))
            floor_mg = round(1000 * (n * mean.protein_floor_g - there.fixed_protein_g) + 1500)
            self.m.add(sum(there.protein) + 1000 * n * self._room("protein") >= floor_mg)
            for band in mean.bands:
                extra = there.extra.get(band.key, 0.0)
                low_end, high_end = (None if end is None else n * end for end in (band.low, band.high))
                self._band(PlanBand(band.key, low_end, high_end, extra), there.slots, n)

    def _band(self, band: PlanBand, slots: Sequence[int], days: int = 1) -> None:
        """each_other_band_is_kept, with 2 % of room for rounding; of so many days together."""
        fixed, parts = band.extra, []
        for n in slots:
            if stays := self._stays(self.problem.slots[n]):
                fixed += stays[1] * self.dish[stays[0]].others_per_g.get(band.key, 0.0)
                continue
            for key, share in self.shares[n].items():
                dish = self.dish[key]
                parts.append(round(1000 * dish.others_per_g.get(band.key, 0.0) / dish.kcal_per_g) * share)
        if band.low is not None:
            self.m.add(sum(parts) + 1000 * days * self._room("bands") >= round(1000 * (band.low * 1.02 - fixed)))
        if band.high is not None:
            self.m.add(sum(parts) - 1000 * days * self._room("bands") <= round(1000 * (band.high * 0.98 - fixed)))

    def _slot_energy(self, d: PlanDay, slot: PlanSlot) -> Any:
        key = (d.eater_key, d.kind, slot.slot_key)
        if key not in self.energy:
            self.energy[key] = self.m.new_int_var_from_domain(energies_of(d), "")
        return self.energy[key]

    def _portions(self, n: int, energy: Any) -> list[Any]:
        """what_stands_gives_its_slot_energy, within the dish's sizes; answers the protein of each portion in mg."""
        shares, protein = [], []
        for key, stands in self.stands.get(n, {}).items():
            dish = self.dish[key]
            low, high = round(dish.low_g * dish.kcal_per_g) + 1, round(dish.high_g * dish.kcal_per_g) - 1
            share = self.m.new_int_var(0, max(high, 0), "")
            self.m.add(share <= high * stands)
            self.m.add(share >= low * stands)
            shares.append(share)
            self.shares.setdefault(n, {})[key] = share
            protein.append(mg_per_kcal(dish) * share)
        self.m.add(sum(shares) == energy)
        return protein

    def _objective(self) -> None:
        cost = []
        for (_, key), cooked in self.cook.items():
            dish = self.dish[key]
            work = BATCH_WORTH_MIN * dish.batches + round(dish.hands_on_min)
            cost.append(cooked * (self.scale * work - (dish.opened if self.scale > 1 else 0)))
        cost += [more * self.scale * round(self.dish[key].hands_on_min) for more, key in self.again]
        aim = self.problem.rules.aim
        if aim == MOST_VARIETY:
            cost += [-flag * (BATCH_WORTH_MIN * 3) for flag in self._dishes_cooked()]
        elif aim == LOWEST_COST and self.problem.till is None:
            for (_, key, _), x in self.place.items():
                dish = self.dish[key]
                middle_g = (dish.low_g + dish.high_g) / 2
                cost.append(x * round((dish.cost_per_g or 0.0) * middle_g * 2000))
        self._cost = sum(cost)
        self.m.minimize(self._cost)

    def _dishes_cooked(self) -> Iterator[Any]:
        """One flag per dish, true only when it is cooked."""
        for key in sorted({key for _, key in self.cook}):
            flag = self.m.new_bool_var("")
            self.m.add(sum(c for (_, k), c in self.cook.items() if k == key) >= flag)
            yield flag


@dataclass
class _Sums:
    """What an eater's days hold together: the energies and proteins (mg) to be chosen, and what is there (kcal, g)."""

    days: int = 0
    kcal: list[Any] = field(default_factory=list)
    protein: list[Any] = field(default_factory=list)
    slots: list[int] = field(default_factory=list)
    extra: dict[str, float] = field(default_factory=dict)
    fixed_kcal: float = 0.0
    fixed_protein_g: float = 0.0

    def add(self, d: PlanDay, slots: Sequence[int], kcal: Sequence[Any], protein: Sequence[Any]) -> None:
        """One more day of it."""
        self.days += 1
        self.slots += slots
        self.kcal += kcal
        self.protein += protein
        for band in d.bands:
            self.extra[band.key] = self.extra.get(band.key, 0.0) + band.extra


@dataclass
class _Batch:
    """The energies of a dish's portions in one session, where they stand, and the kcal of what stands there already."""

    shares: list[Any]
    places: list[Any]
    standing: list[tuple[int, Any]]


def energies_of(d: PlanDay) -> Any:
    """boxes_of_whole_blocks, for whoever eats in them; else in steps about as large as 5 g of a box."""
    from ortools.sat.python import cp_model

    step = STEP_KCAL if d.energy_high_kcal - d.energy_low_kcal >= 6 * STEP_KCAL else 1
    return cp_model.Domain.from_values(d.block_sums or range(0, MOST_KCAL + 1, step))
