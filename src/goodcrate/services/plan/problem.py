"""A week as the planner's problem: what is placed, who eats what when, and what the library has for it."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.recipes.instead import with_instead
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.recipes.vessels import Vessel, container_steps
from goodcrate.core.store.boxes_in_house import uses_up
from goodcrate.core.targets.cautions import CONFIRM_BELOW_KCAL
from goodcrate.core.targets.day_target import DayTarget, MeanTarget, NutrientBand, banded_amount, banded_per_g
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.excluding import disliked_foods, why_not_for
from goodcrate.core.targets.slot import Slot
from goodcrate.core.week.dish import dish_of, is_part
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import CAUTIOUS, FREEZER, FRIDGE, USUAL
from goodcrate.core.week.week_problem import (
    MOST_FILLINGS,
    PlanBand,
    PlanDay,
    PlanDish,
    PlanMean,
    PlanRules,
    PlanSession,
    PlanSlot,
    WeekPlanProblem,
)
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.reference import keep_groups
from goodcrate.services.plan.buying import till_for, with_weights
from goodcrate.services.recipes.library import PLAIN, recipe_values
from goodcrate.services.shop.habits import MOST_BUDGET
from goodcrate.services.store.house import House, house_in
from goodcrate.services.week.eat_first import Offered, offered
from goodcrate.services.week.instead import instead_of
from goodcrate.services.week.versions import pinned_versions
from goodcrate.services.week.weeks import WeekPicture

GAPS, UNPINNED = "gaps", "unpinned"
"""What a plan may fill: only what is empty, or every slot but the pinned ones (and what is being cooked)."""
FAVOURITE = "favourite"
"""The tag of recipes that are eaten gladly: preferred where all else is equal."""


@dataclass(frozen=True)
class Wishes:
    """What the cook lets the planner do."""

    keep: str = USUAL
    different: int = 2
    repeats: int = 7
    freezer_boxes: int = 6
    fridge_boxes: int | None = None
    scope: str = GAPS
    lower_floors_g: int = 0
    widen_bands_kcal: int = 0
    eat_house: bool = True
    in_turns: int = 1
    in_two: int = 1
    step_g: int = 5
    alike: int = 1
    plain: int = 0
    leave_bands: int = 0
    free_meal: str = ""
    box_count: int | None = None
    budget: float | None = None

    def checked(self) -> "Wishes":
        """These wishes, or why they cannot be.

        Raises:
            InvalidInput: for a number out of range.
        """
        if self.keep not in (CAUTIOUS, USUAL):
            raise InvalidInput("keep", say("“{keep}” is no keeping rule.", keep=self.keep), say("Cautious or usual."))
        if self.scope not in (GAPS, UNPINNED):
            raise InvalidInput(
                "scope",
                say("“{scope}” is nothing to plan.", scope=self.scope),
                say("The gaps, or all that is not pinned."),
            )
        if self.fridge_boxes is not None and not 1 <= self.fridge_boxes <= 200:
            raise InvalidInput(
                "fridge_boxes",
                say("{fridge_boxes} is not possible.", fridge_boxes=self.fridge_boxes),
                say("1 to 200, or leave it empty."),
            )
        if self.box_count is not None and not 1 <= self.box_count <= 200:
            raise InvalidInput(
                "box_count",
                say("{box_count} is not possible.", box_count=self.box_count),
                say("1 to 200, or leave it empty."),
            )
        if self.budget is not None and not 0 <= self.budget <= MOST_BUDGET:
            raise InvalidInput(
                "budget",
                say("{budget} is no budget for a week.", budget=shown(self.budget, 2)),
                say("From 0 to {most}.", most=shown(MOST_BUDGET)),
            )
        if self.step_g not in (1, 5):
            raise InvalidInput("step_g", say("{value} is not possible.", value=self.step_g), say("5 g or 1 g."))
        if self.free_meal and id_of(self.free_meal) is None:
            raise InvalidInput("free_meal", say("“{free_meal}” is no meal.", free_meal=self.free_meal))
        most = {
            "different": 14,
            "repeats": 56,
            "freezer_boxes": 200,
            "lower_floors_g": 100,
            "widen_bands_kcal": 600,
            "in_turns": 1,
            "in_two": 1,
            "alike": 1,
            "plain": 1,
            "leave_bands": 1,
        }
        for name, high in most.items():
            value = getattr(self, name)
            if not (1 if name in ("different", "repeats") else 0) <= value <= high:
                raise InvalidInput(name, say("{value} is not possible.", value=value), say("Up to {high}.", high=high))
        return self


def problem_of(session: HouseholdSession, picture: WeekPicture, wishes: Wishes) -> WeekPlanProblem:
    """A week as the planner's problem: what is placed stays, gaps are filled from the library."""
    library = _Library(
        _recipes(session, picture, plain=bool(wishes.plain)), wishes, picture.polyol_share, picture.vessels
    )
    slots, days = [], []
    serves: dict[str, set[tuple[str, int, str]]] = {s.key: set() for s in picture.sessions}
    opened = {p.id for p in giving_way(picture, wishes)}
    placed = {(p.eater_id, p.slot_id, p.day): p for p in picture.meals if p.id not in opened}
    for eater in picture.eaters:
        for n, day in enumerate(picture.dates):
            day_type = eater.day_type_on(day.weekday())
            target = eater.target_on(day.weekday())
            if day_type is None or target is None or day_type.energy_kcal < CONFIRM_BELOW_KCAL:
                continue
            days.append(_day(eater, n, day_type.name, _by_wishes(target, wishes), picture.polyol_share))
            for slot in eater.slots:
                is_closed = eater.is_archived or slot.is_archived
                if is_closed and (eater.id, slot.id, day) not in placed:
                    continue
                where = (str(eater.id), n, str(slot.id))
                for s in picture.sessions:
                    if s.serves(day, slot.at):
                        serves[s.key].add(where)
                there = placed.get((eater.id, slot.id, day))
                slots.append(_slot(picture, eater, slot, n, there, library))
    sessions = tuple(
        PlanSession(s.key, (s.starts_at.date() - picture.week.first_day).days, frozenset(serves[s.key]))
        for s in picture.sessions
    )
    house = house_in(session)
    put = Offered(tuple(slots), tuple(days), ())
    if wishes.eat_house:
        put = offered(session, picture.week.first_day, slots, days, picture.polyol_share)
    rules = PlanRules(
        wishes.different,
        wishes.repeats,
        wishes.freezer_boxes,
        wishes.fridge_boxes,
        wishes.box_count,
        MOST_FILLINGS if wishes.in_turns else 1,
        freezer_taken=_uneaten(house, put, FREEZER),
        fridge_taken=_uneaten(house, put, FRIDGE),
        containers=() if wishes.in_two else container_steps(picture.vessels),
        step_g=wishes.step_g,
        alike=bool(wishes.alike),
    )
    till, weighs = till_for(session, picture, library.made, {str(row_id) for row_id in opened}, wishes.budget)
    dishes = list(with_weights(library.dishes.values(), weighs, till))
    if wishes.eat_house:
        opened_foods = house.to_use_up
        dishes = [
            replace(d, opened=len(uses_up(library.made[d.key], opened_foods))) if d.key in library.made else d
            for d in dishes
        ]
    means = tuple(mean for eater in picture.eaters if (mean := _mean(picture, eater, put.days, wishes)) is not None)
    return WeekPlanProblem(put.slots, put.days, (*dishes, *put.dishes), sessions, rules, till=till, means=means)


def _uneaten(house: House, put: Offered, place: str) -> int:
    """How many boxes of the house in fridge or freezer no meal of the week eats."""
    eaten = sum(d.waits_in == place for d in put.dishes for slot in put.slots if slot.fixed and slot.fixed[0] == d.key)
    return sum(b.free for b in house.boxes if b.place == place) - eaten


@dataclass(frozen=True)
class _Wanted:
    """What a day or a mean must keep to by these wishes: kcal, g, and each band in its unit."""

    low_kcal: float
    high_kcal: float
    floor_g: float
    bands: tuple[NutrientBand, ...]


def _by_wishes(target: DayTarget | MeanTarget, wishes: Wishes) -> _Wanted:
    return _Wanted(
        target.energy_low_kcal - wishes.widen_bands_kcal,
        target.energy_high_kcal + wishes.widen_bands_kcal,
        max(0.0, target.protein_floor_g - wishes.lower_floors_g),
        () if wishes.leave_bands else target.bands,
    )


def _mean(picture: WeekPicture, eater: Eater, days: Sequence[PlanDay], wishes: Wishes) -> PlanMean | None:
    """What the mean of an eater's planned days must keep to, where it is what counts."""
    weekdays = [picture.dates[d.day].weekday() for d in days if d.eater_key == str(eater.id)]
    target = eater.mean_over(weekdays)
    if target is None:
        return None
    wanted = _by_wishes(target, wishes)
    bands = tuple(PlanBand(b.key, b.low, b.high) for b in wanted.bands)
    return PlanMean(str(eater.id), wanted.low_kcal, wanted.high_kcal, wanted.floor_g, bands)


def _day(eater: Eater, n: int, kind: str, wanted: _Wanted, polyol_share: float) -> PlanDay:
    extras = eater.extras_tally
    bands = tuple(PlanBand(b.key, b.low, b.high, banded_amount(extras, b.key, polyol_share)) for b in wanted.bands)
    return PlanDay(
        str(eater.id),
        n,
        kind,
        wanted.low_kcal,
        wanted.high_kcal,
        wanted.floor_g,
        extra_kcal=extras.amount("energy_kcal").value,
        extra_protein_g=extras.amount("protein_g").value,
        bands=bands,
        block_sums=eater.blocks.sums() if eater.blocks else (),
    )


def openable(picture: WeekPicture) -> list[Meal]:
    """The meals a plan may replace: not pinned, and in no batch that somebody has begun."""
    return [p for p in _not_begun(picture) if not p.is_pinned]


def giving_way(picture: WeekPicture, wishes: Wishes) -> list[Meal]:
    """The meals a plan by these wishes replaces: all that may be, if so wished, and the one that was named."""
    loose = openable(picture) if wishes.scope == UNPINNED else []
    return [*loose, *(p for p in _not_begun(picture) if str(p.id) == wishes.free_meal and p not in loose)]


def _not_begun(picture: WeekPicture) -> list[Meal]:
    begun = {p.placing_key for w in picture.outcome.batches if w.is_started for p in w.plan.portions}
    return [p for p in picture.meals if str(p.id) not in begun]


def _recipes(
    session: HouseholdSession, picture: WeekPicture, *, plain: bool = False
) -> list[tuple[Recipe, frozenset[str]]]:
    """The library's recipes with their tags, but those that are only parts of others; with `plain` foods that were
    eaten as they are too, as snacks."""
    columns = (RecipeRow.id, RecipeRow.tags, RecipeRow.is_archived, RecipeRow.origin)
    heads = session.execute(select(*columns).order_by(RecipeRow.name)).all()
    plain_ones = {h.id for h in heads if h.origin == PLAIN}
    heads = [h for h in heads if (plain if h.id in plain_ones else not h.is_archived)]
    values = recipe_values(session, {h.id for h in heads}, pinned_versions(picture.week))
    instead, kept = instead_of(session, picture.week.id), [h for h in heads if not values[h.id].recipe.pending]
    used = frozenset(c.used_from for h in kept for c in values[h.id].recipe.components if c.used_from)
    found = []
    for h in kept:
        recipe, tags = with_instead(values[h.id].recipe, instead), frozenset(h.tags)
        if not is_part(recipe, tags, used):
            found.append((recipe, tags | PLAIN_SUITS if h.id in plain_ones else tags))
    return found


PLAIN_SUITS = frozenset({"snack", "cold", "travels", PLAIN})
"""A plain food is a snack, eaten as it is, anywhere."""


@dataclass
class _Library:
    """The recipes there are, and the dishes made of them so far."""

    recipes: list[tuple[Recipe, frozenset[str]]]
    wishes: Wishes
    polyol_share: float
    vessels: Sequence[Vessel]
    dishes: dict[str, PlanDish] = field(default_factory=dict)
    made: dict[str, Recipe] = field(default_factory=dict)

    def has(self, recipe: Recipe) -> bool:
        """Whether a recipe makes a dish; one met for the first time is added."""
        if recipe.key not in self.dishes:
            dish = dish_of(recipe, keep_groups(), self.wishes.keep, self.polyol_share, self.vessels)
            if dish is None:
                return False
            self.dishes[recipe.key], self.made[recipe.key] = dish, recipe
        return True

    def lacking(self, eater: Eater, slot: Slot) -> tuple[tuple[str, ...], int]:
        """The fewest tags with which recipes could stand in a slot that none may, and how many could; none where tags
        do not help."""
        lacks: dict[tuple[str, ...], int] = {}
        for recipe, tags in self.recipes:
            needs = slot.lacks(tags)
            if needs and why_not_for(eater.exclusions, for_eater(recipe, str(eater.id))) is None:
                lacks[tuple(sorted(needs))] = lacks.get(tuple(sorted(needs)), 0) + 1
        return min(lacks.items(), key=lambda one: (len(one[0]), -one[1]), default=((), 0))

    def allowed(self, eater: Eater, slot: Slot) -> tuple[str, ...]:
        """The dishes that may stand in an eater's slot."""
        found = []
        for base, tags in self.recipes:
            if not slot.suits(tags) or disliked_foods(eater.exclusions, base):
                continue
            recipe = for_eater(base, str(eater.id))
            if why_not_for(eater.exclusions, recipe) is None and self.has(recipe):
                found.append(recipe.key)
                if PLAIN in tags:  # nobody cooks it
                    self.dishes[recipe.key] = replace(self.dishes[recipe.key], hands_on_min=0.0)
                if FAVOURITE in tags and not self.dishes[recipe.key].is_favourite:
                    self.dishes[recipe.key] = replace(self.dishes[recipe.key], is_favourite=True)
        return tuple(found)


def _slot(picture: WeekPicture, eater: Eater, slot: Slot, n: int, there: Meal | None, library: _Library) -> PlanSlot:
    key = (str(eater.id), n, str(slot.id))
    label = f"{eater.first_name}’s {slot.name}"
    allowed = library.allowed(eater, slot)
    if there is None:
        wanted = eater.wanted_kcal(slot, picture.dates[n].weekday())
        lacks, would_do = ((), 0) if allowed else library.lacking(eater, slot)
        return PlanSlot(*key, allowed, label=label, wanted_kcal=wanted, lacks=lacks, would_do=would_do)
    box = picture.outcome.boxes[str(there.id)]
    recipe = picture.recipes[box.placing.recipe_key]
    grams = max(box.tally.grams, 1.0)
    keeps = library.dishes[recipe.key].keeps_days if library.has(recipe) else 0  # its batch is cooked anyway
    fixed_key = f"{recipe.key}@{there.id}"  # its own figures: what is weighed counts as it is
    library.dishes[fixed_key] = PlanDish(
        fixed_key,
        recipe.name,
        max(box.tally.amount("energy_kcal").value / grams, 1e-6),
        box.tally.amount("protein_g").value / grams,
        grams,
        grams,
        batches=0,
        hands_on_min=0.0,
        keeps_days=keeps,
        freezes=True,
        cost_per_g=None,
        family=recipe.key,
        others_per_g=banded_per_g(box.tally, library.polyol_share),
        waits_in="" if there.from_box is None else picture.stays[str(there.id)].place,
    )
    return PlanSlot(*key, allowed, (fixed_key, box.tally.grams), label, box.placing.session_key or "")
