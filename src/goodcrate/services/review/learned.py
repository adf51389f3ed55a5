"""What a week taught, from its pots, boxes, sessions and plates: each with what it could change."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from goodcrate.core.portion.filled_boxes import WEIGHED
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.cooked_weight import TYPED, expected_cooked_weight
from goodcrate.core.recipes.yields import LearnedYield
from goodcrate.core.review.learned import (
    Accuracy,
    BoxFate,
    DishFate,
    FilledBox,
    SessionTime,
    accuracy_of,
    dish_fates,
    even_shares,
)
from goodcrate.core.review.proposals import better_yield
from goodcrate.core.shop.costs import cost_by_day, cost_by_dish, till_of
from goodcrate.core.store.at_table import LEFT, TO_COME
from goodcrate.core.store.box import GIVEN_AWAY, THROWN_AWAY, why_of
from goodcrate.db.running import CookRunRow
from goodcrate.services.calling import Caller
from goodcrate.services.cook.running import Running, running_of
from goodcrate.services.cook.step_times import Offer, offers
from goodcrate.services.review.week_story import WeekStory
from goodcrate.services.shop.listing import shopping_of


@dataclass(frozen=True)
class YieldTold:
    """A component's yield (cooked g per g weighed in): what its recipe expects, what this week's pot had, and what the
    last pots taught. `cooked_g` is what its recipe should say by that, None where it is near enough or says nothing:
    then what was taught is expected by itself."""

    recipe_key: str
    component_key: str
    name: str
    expects: float
    this_pot: float
    learned: LearnedYield
    cooked_g: float | None


@dataclass(frozen=True)
class SessionTold:
    """A session that was cooked by its sheet: when it began by plan, how long it was to be, and how long it took."""

    key: str
    starts_at: datetime
    room_min: int
    time: SessionTime


@dataclass(frozen=True)
class CostTold:
    """What the week's food cost in the household's money: as eaten, at the till, of one box and one day, against the
    budget (None: none is said), and of what was thrown away. `is_at_least` where prices are missing; `days` are the
    week's."""

    eaten: float
    till: float
    a_box: float | None
    a_day: float
    budget: float | None
    thrown: float
    is_at_least: bool
    days: int = 7


@dataclass(frozen=True)
class Learned:
    """All of it. `rests` are what of pots was tasted, thrown away or kept, in g, by dish and what became of it; `left`
    the boxes nobody has eaten, by dish, with how many."""

    yields: tuple[YieldTold, ...]
    accuracy: tuple[Accuracy, ...]
    sessions: tuple[SessionTold, ...]
    minutes: tuple[Offer, ...]
    fates: tuple[DishFate, ...]
    thrown: tuple[BoxFate, ...]
    rests: tuple[tuple[str, str, float], ...]
    left: tuple[tuple[str, int], ...]
    cost: CostTold | None


def learned_of(caller: Caller, story: WeekStory) -> Learned:
    """What a week taught, as it stands; kept as long as the story is, which any change ends."""
    return story.once("learned", lambda: _learned(caller, story))


def _learned(caller: Caller, story: WeekStory) -> Learned:
    boxes = list(_boxes(story))
    with caller.transaction() as session:
        runs = session.scalars(
            select(CookRunRow).where(CookRunRow.week_id == story.table.picture.week.id).order_by(CookRunRow.begun_at)
        ).all()
        sessions = tuple(_session(story, running_of(session, row)) for row in runs)
    keys = {str(m.recipe_id) for m in story.table.picture.meals}
    return Learned(
        tuple(_yields(story)),
        tuple(accuracy_of(_filled(story))),
        tuple(s for s in sessions if s is not None),
        tuple(offers(caller, keys)),
        tuple(dish_fates(boxes)),
        tuple(box for box in boxes if box.thrown_g > 0),
        rests=tuple(_rests(story)),
        left=tuple(_left(story)),
        cost=_cost(caller, story, boxes),
    )


def component_of(story: WeekStory, worked: WorkedBatch) -> Component | None:
    """A batch's component as its recipe has it in this week."""
    recipe = story.table.picture.recipes.get(worked.plan.recipe_key)
    parts = () if recipe is None else recipe.components
    return next((c for c in parts if c.key == worked.plan.component_key), None)


def _name(story: WeekStory, worked: WorkedBatch) -> str:
    recipe = story.table.picture.recipes[worked.plan.recipe_key]
    component = component_of(story, worked)
    return recipe.name if component is None or len(recipe.components) < 2 else component.name


def _yields(story: WeekStory) -> Iterable[YieldTold]:
    for worked in story.table.picture.outcome.batches:
        component, state = component_of(story, worked), worked.outcome.state
        weighed_in = sum(line.weighed_in_g for line in state.lines)
        if component is None or component.learned is None or state.pot_g is None or weighed_in <= 0:
            continue
        expected = expected_cooked_weight(component)
        if expected.ingredient_g <= 0:
            continue
        expects, learned = expected.grams / expected.ingredient_g, component.learned
        takes = expected.basis == TYPED and better_yield(expects, learned.factor)
        yield YieldTold(
            worked.plan.recipe_key,
            worked.plan.component_key,
            _name(story, worked),
            expects,
            state.pot_g / weighed_in,
            learned,
            cooked_g=round(expected.ingredient_g * learned.factor, 0) if takes else None,
        )


def _filled(story: WeekStory) -> Iterable[FilledBox]:
    for worked in story.table.picture.outcome.batches:
        weighed = [p for p in worked.outcome.portions if p.stage == WEIGHED]
        yield from even_shares([(p.how, p.target_g, p.grams) for p in weighed])


def _session(story: WeekStory, run: Running) -> SessionTold | None:
    done = [s.done_at for s in run.states.values() if s.done_at is not None]
    planned = next((s for s in story.table.picture.sessions if s.key == run.session_key), None)
    if planned is None or not done or not run.is_over:
        return None
    time = SessionTime(run.sheet.minutes, max(done))
    return SessionTold(planned.key, planned.starts_at, planned.length_min, time)


def _boxes(story: WeekStory) -> Iterable[BoxFate]:
    """What became of each meal's box, of those of which something was said."""
    for day in story.days:
        for meal in day.meals:
            plate = story.table.plates[meal.meal_key]
            if plate.box is None or plate.fate in (TO_COME, LEFT, GIVEN_AWAY) or meal.on_plate.grams <= 0:
                continue  # what was given away says nothing of how it was liked
            thrown = plate.box.packed_g - meal.eaten.grams if plate.fate == THROWN_AWAY else 0.0
            why = why_of(plate.box)
            recipe = story.table.recipe(plate).key
            grams = meal.with_weighed.grams
            yield BoxFate(recipe, str(day.eater.id), grams, meal.eaten.grams, max(0.0, thrown), why)


def _rests(story: WeekStory) -> Iterable[tuple[str, str, float]]:
    for worked in story.table.picture.outcome.batches:
        for kind, grams in worked.outcome.rest_g.items():
            if grams > 0:
                yield _name(story, worked), kind, grams


def _left(story: WeekStory) -> Iterable[tuple[str, int]]:
    """Boxes that were left for another day, by dish."""
    found: dict[str, int] = {}
    for day in story.days:
        for meal in day.meals:
            if story.table.plates[meal.meal_key].fate == LEFT:
                name = story.table.recipe(story.table.plates[meal.meal_key]).name
                found[name] = found.get(name, 0) + 1
    return found.items()


def _cost(caller: Caller, story: WeekStory, boxes: Sequence[BoxFate]) -> CostTold | None:
    week = shopping_of(caller, story.table.picture.week.first_day)
    if week is None or not week.shopping.lines:
        return None
    till, dishes = till_of(week.shopping), {d.dish: d for d in cost_by_dish(week.shopping)}
    days = cost_by_day(week.shopping, week.eaten, story.table.picture.dates)
    count = sum(week.boxes.values())
    whole_g: dict[str, float] = {}
    for box in boxes:
        whole_g[box.dish_key] = whole_g.get(box.dish_key, 0.0) + box.grams
    names = {r.key: r.name for r in story.table.picture.recipes.values()}
    thrown = 0.0
    for box in boxes:
        dish = dishes.get(names.get(box.dish_key, ""))
        if dish is not None and box.thrown_g > 0:
            thrown += dish.cost * box.thrown_g / whole_g[box.dish_key]
    of_dishes = sum(d.cost for d in dishes.values())
    return CostTold(
        till.eaten,
        till.paid,
        of_dishes / count if count else None,
        sum(d.cost for d in days) / len(days),
        week.settings.week_budget,
        thrown=thrown,
        is_at_least=bool(week.shopping.unpriced),
        days=len(days),
    )
