"""What a week to be planned is, and what a planned one says: values without a solver."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from math import ceil

from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.week.storing import FREEZER, FRIDGE, THAWS_FROM
from goodcrate.core.week.week_buying import Till, Weighed

LEAST_COOKING, MOST_VARIETY, LOWEST_COST = "least_cooking", "most_variety", "lowest_cost"
WITHIN_BUDGET = "within_budget"
AIMS: Mapping[str, str] = {
    LEAST_COOKING: Saying("least cooking"),
    MOST_VARIETY: Saying("most variety"),
    LOWEST_COST: Saying("lowest cost"),
    WITHIN_BUDGET: Saying("least cooking within the budget"),
}
"""In the order in which they are planned: each begins from a week before it."""


WHOLE_SHARE = 0.02
"""A piece or pack within 2 % of whole counts as whole, and a pot so little over its room as full."""
MOST_FILLINGS = 9
"""How often a session fills a dish's vessels at most, unless the cook says once."""


@dataclass(frozen=True, slots=True)
class PlanDish:
    """A recipe as the planner sees it: a gram's energy and protein, how large a portion may be, what cooking it takes.

    `keeps_days` counts from its session; a dish that freezes may be eaten later from the freezer. `cost_per_g` None is
    unknown and counts as nothing. `opened` is how many foods it uses up that are open in the house.
    `most_g` is the most of it that its vessels hold at once, None when nothing limits that; `unit_g` what one whole
    egg, tin or pack of it makes, None when it can be cooked to the gram. `waits_in` is where a box of the house stands.
    What `keeps_dry` stands in the cupboard and takes no place in the fridge. `keeps_usually` are its days by the usual
    guidance, where the week is planned by the cautious one. `weighs` is what a gram of it takes of each food.
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
    others_per_g: Mapping[str, float] = field(default_factory=dict)
    opened: int = 0
    most_g: float | None = None
    unit_g: float | None = None
    is_favourite: bool = False
    waits_in: str = ""
    keeps_dry: bool = False
    keeps_usually: int | None = None
    weighs: tuple[Weighed, ...] = ()

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

    `fixed` is a dish that stays (placed or pinned by the cook) with its grams, `fixed_session` what cooks it where that
    is known; `dishes` are then those that could stand there. `wanted_kcal` is the slot's share of its day. Where no
    dish may stand, `lacks` are tags with which `would_do` recipes could.
    """

    eater_key: str
    day: int
    slot_key: str
    dishes: tuple[str, ...]
    fixed: tuple[str, float] | None = None
    label: str = ""
    fixed_session: str = ""
    wanted_kcal: float | None = None
    lacks: tuple[str, ...] = ()
    would_do: int = 0

    @property
    def words(self) -> str:
        """How it is named to a cook."""
        return self.label or say("{slot_key} of {eater_key}", slot_key=self.slot_key, eater_key=self.eater_key)


@dataclass(frozen=True, slots=True)
class PlanDay:
    """An eater's day: its kind (days of one kind share portion sizes), band and floor, and what is eaten besides.

    With `block_sums` each box gives one of these energies (whole blocks), in kcal.
    """

    eater_key: str
    day: int
    kind: str
    energy_low_kcal: float
    energy_high_kcal: float
    protein_floor_g: float
    extra_kcal: float = 0.0
    extra_protein_g: float = 0.0
    bands: tuple["PlanBand", ...] = ()
    block_sums: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class PlanBand:
    """From `low` to `high` of another nutrient a day (None is open), `extra` of it eaten besides; all in its unit."""

    key: str
    low: float | None
    high: float | None
    extra: float = 0.0


@dataclass(frozen=True, slots=True)
class PlanMean:
    """What an eater's days come to on their mean: energy band (kcal a day), protein floor (g a day) and other bands
    (each in its unit a day). A band's `extra` is not said here: its days say it, and each of them has that band."""

    eater_key: str
    energy_low_kcal: float
    energy_high_kcal: float
    protein_floor_g: float
    bands: tuple["PlanBand", ...] = ()


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
    """At most `different` dishes per eater and slot, `repeats` of one dish per eater; places in freezer and fridge.

    `fridge_boxes` and `box_count` (boxes there are, full ones too) None does not count them. Of the places,
    `freezer_taken` and `fridge_taken` are held all week by boxes that no meal eats. `fillings` is how often a session
    may fill a dish's vessels; each filling after the first takes its hands-on minutes again. Of `containers` each says
    that so many portions of more than so many g can be in the house at a time; none: it does not matter. Portions are
    in steps of `step_g`; they are `alike` when an eater's of one dish is the same on all days of a kind.
    """

    different: int = 3
    repeats: int = 7
    freezer_boxes: int = 6
    fridge_boxes: int | None = None
    box_count: int | None = None
    fillings: int = MOST_FILLINGS
    freezer_taken: int = 0
    fridge_taken: int = 0
    aim: str = LEAST_COOKING
    limit_seconds: float = 20.0
    seed: int = 1
    containers: tuple[tuple[float, int], ...] = ()
    step_g: float = 5.0
    alike: bool = True


@dataclass(frozen=True, slots=True)
class WeekPlanProblem:
    """Everything the planner needs to know. Without a `till` food costs by the gram (`PlanDish.cost_per_g`); without a
    mean an eater's days are judged each by itself only."""

    slots: tuple[PlanSlot, ...]
    days: tuple[PlanDay, ...]
    dishes: tuple[PlanDish, ...]
    sessions: tuple[PlanSession, ...]
    rules: PlanRules = PlanRules()
    till: Till | None = None
    means: tuple[PlanMean, ...] = ()


ALL_PLACES = Saying("fridge and freezer")


@dataclass(frozen=True, slots=True)
class Evening:
    """The evening of a day, after its sessions: which sessions are over, and which slots of that day still follow."""

    day: int
    over: frozenset[str]
    follow: frozenset[tuple[str, int, str]]
    has_session: bool

    def waits(self, slot: PlanSlot) -> bool:
        """Whether a slot's meal is still to be eaten."""
        return slot.day > self.day or (slot.eater_key, slot.day, slot.slot_key) in self.follow

    def is_thawing(self, slot: PlanSlot) -> bool:
        """Whether a frozen box for a slot is in the fridge by now."""
        return slot.day - self.day <= THAWS_FROM.days


def evenings_of(problem: WeekPlanProblem) -> list[Evening]:
    """Every evening from the first session on."""
    first = min((s.day for s in problem.sessions), default=0)
    found = []
    for day in range(first, max((slot.day for slot in problem.slots), default=0) + 1):
        today = [s for s in problem.sessions if s.day == day]
        follow = frozenset(at for s in today for at in s.serves if at[1] == day)
        over = frozenset(s.key for s in problem.sessions if s.day <= day)
        found.append(Evening(day, over, follow, bool(today)))
    return found


def standing_in(problem: WeekPlanProblem, place: str, evening: Evening) -> int:
    """How many boxes of the house are in fridge or freezer or both on an evening, thawing ones in the fridge."""
    if place == ALL_PLACES:
        return standing_in(problem, FREEZER, evening) + standing_in(problem, FRIDGE, evening)
    waits_in = {d.key: d.waits_in for d in problem.dishes if d.waits_in}
    there = 0
    for slot in problem.slots:
        kept = waits_in.get(slot.fixed[0], "") if slot.fixed is not None and evening.waits(slot) else ""
        there += (FRIDGE if kept == FREEZER and evening.is_thawing(slot) else kept) == place
    return there + (problem.rules.freezer_taken if place == FREEZER else problem.rules.fridge_taken)


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

    Proven best is among the weeks of `plan.week_sizes`. `left_over_g` is
    what whole eggs, tins and packs make beyond what is eaten; `polish_gap_pct` how far what is left over, cost,
    favourites and portion sizes together are at most from the best there can be with these batches, None when unknown.
    `fillings_again` counts the fillings of pots and trays after a batch's first; their minutes are in `hands_on_min`.
    `till` is what its list costs in whole packs, None where nobody said how food is bought.
    """

    meals: tuple[PlannedMeal, ...]
    batches: int
    hands_on_min: float
    bound_batches: int
    bound_min: float
    is_proven_best: bool
    deterministic_time: float = field(compare=False)
    left_over_g: float = 0.0
    polish_gap_pct: float | None = None
    fillings_again: int = 0
    till: float | None = None

    @property
    def dishes(self) -> int:
        """How many different dishes stand in it."""
        return len({meal.dish_key for meal in self.meals})


def made_g(meals: Iterable[PlannedMeal], dishes: Mapping[str, PlanDish]) -> dict[tuple[str, str], float]:
    """What each session makes of each dish, in g in the boxes, by (session, dish); what stands counts as its recipe."""
    made: dict[tuple[str, str], float] = {}
    for m in meals:
        key = dishes[m.dish_key].family or m.dish_key
        if m.session_key and key in dishes:
            made[m.session_key, key] = made.get((m.session_key, key), 0.0) + m.grams
    return made


def fillings_of(grams: float, dish: PlanDish) -> int:
    """How often its vessels are filled for so much of a dish."""
    return max(1, ceil(grams / dish.most_g - WHOLE_SHARE)) if dish.most_g else 1


def work_of(meals: Sequence[PlannedMeal], dishes: Mapping[str, PlanDish]) -> tuple[int, float, int]:
    """Batches, hands-on minutes, and how many fillings there are after each batch's first, which take them again."""
    here = [m for m in meals if m.session_key]
    cooked = {(m.session_key, key) for m in here for key in (m.dish_key, dishes[m.dish_key].family) if key in dishes}
    again = {key: fillings_of(grams, dishes[key[1]]) - 1 for key, grams in made_g(meals, dishes).items()}
    minutes = sum(dishes[key].hands_on_min * (1 + again.get((s, key), 0)) for s, key in sorted(cooked))
    return sum(dishes[key].batches for _, key in cooked), minutes, sum(again.values())


def left_over_g(meals: Iterable[PlannedMeal], dishes: Mapping[str, PlanDish]) -> float:
    """What whole eggs, tins and packs make beyond what is eaten, in g over all batches."""
    units = [(grams, dishes[key].unit_g) for (_, key), grams in made_g(meals, dishes).items()]
    return sum(max(0.0, ceil(grams / unit - WHOLE_SHARE) * unit - grams) for grams, unit in units if unit)


def till_of(problem: WeekPlanProblem, meals: Iterable[PlannedMeal]) -> float | None:
    """What the list of a week with these meals costs at the till; None where nobody said how food is bought."""
    if problem.till is None:
        return None
    dishes, days = {d.key: d for d in problem.dishes}, {s.key: s.day for s in problem.sessions}
    weighed = [
        (w.food_key, days[m.session_key] if w.days_before is None else m.day - w.days_before, m.grams * w.per_g)
        for m in meals
        if m.session_key and not m.is_fixed
        for w in dishes[m.dish_key].weighs
    ]
    return problem.till.price(weighed)


@dataclass(frozen=True, slots=True)
class Conflict:
    """A rule that stands in the way, in words, and a change with which there is a week.

    `field` and `value` name a small change, where one was found: so many boxes, dishes or repeats, by how much floors
    are lower (g) or bands wider (kcal), or the day of one more session. Those of one `way` belong together, each way
    does alone; `is_tried` when a week was found with it, `is_least` when it is proven that one less frees none. `lacks`
    are tags that recipes lack, with dots between them.
    """

    rule: str
    words: str
    change: str
    field: str = ""
    value: int = 0
    way: int = 0
    is_tried: bool = False
    is_least: bool = False
    lacks: str = ""


@dataclass(frozen=True, slots=True)
class PlanResult:
    """A plan, or the conflicts that keep one away; `ran_out` when the time was not enough to tell."""

    plan: WeekPlan | None
    conflicts: tuple[Conflict, ...] = ()
    ran_out: bool = False
