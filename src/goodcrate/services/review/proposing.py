"""What to change in the next week by a week's review: each proposal with the change it would make."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from uuid import UUID

from goodcrate.core.foods.packs import Pack
from goodcrate.core.ground.document import Document
from goodcrate.core.ground.nutrients import BY_KEY, Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import coins, many, price, shown, weekday_whole
from goodcrate.core.portion.filled_boxes import PLANNED
from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.filling_vessels import filling, litres
from goodcrate.core.recipes.recipe import serving_of
from goodcrate.core.recipes.variants import base_recipe_key, for_eater
from goodcrate.core.recipes.vessels import KINDS as VESSEL_KINDS
from goodcrate.core.review.intakes import HELD_AGAINST, LOW, Standing
from goodcrate.core.review.learned import DishFate
from goodcrate.core.review.proposals import (
    FREEZE,
    MINUTES,
    MOST_DAYS,
    OTHER_SESSION,
    PACK,
    RICHER,
    ROOM,
    SMALLER,
    VESSEL,
    YIELD,
    Candidate,
    PackOffer,
    Proposal,
    in_order,
    larger_pack,
    richest,
    room_for,
    smaller_by,
    to_relieve,
)
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.excluding import disliked_foods, why_not_for
from goodcrate.core.targets.slot import Slot
from goodcrate.core.week.batch_notes import keeps_open
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import FRIDGE
from goodcrate.services.calling import Caller
from goodcrate.services.foods.packs_known import packs_of
from goodcrate.services.recipes.library import RecipePage, list_recipes
from goodcrate.services.review.brought import standings_of
from goodcrate.services.review.learned import Learned, SessionTold
from goodcrate.services.review.week_story import WeekStory
from goodcrate.services.shop.habits import always_kept
from goodcrate.services.shop.listing import around_of, shopping_of
from goodcrate.services.week.weeks import WeekPicture, week_picture

Suiting = tuple[RecipePage, Tally]
"""A recipe that may stand in a slot, and a serving of it."""


@dataclass(frozen=True)
class Offered:
    """A proposal with what it would change (`goodcrate.services.review.taking`)."""

    proposal: Proposal
    change: Document


def next_first_day(story: WeekStory) -> date:
    """The day after a week's last one."""
    return story.table.picture.dates[-1] + timedelta(days=1)


def offered(caller: Caller, story: WeekStory, learned: Learned) -> list[Offered]:
    """What to do otherwise in the next week, the few that matter most first. What is about meals is offered once they
    stand in that week and are not packed."""
    following = week_picture(caller, next_first_day(story))
    found = [*_yields(learned), *_minutes(learned), *_packs(caller, story)]
    if following is not None and following.week.closed_at is None:
        found += _smaller(story, learned, following)
        found += _frozen(story, learned, following)
        found += _richer(caller, story, following)
        found += _sessions(learned.sessions, following)
        found += _vessels(following)
    order = in_order(one.proposal for one in found)
    by_key = {one.proposal.key: one for one in found}
    return [by_key[proposal.key] for proposal in order]


def _open_meals(following: WeekPicture) -> list[Meal]:
    """Meals that are cooked for the week and not packed yet."""
    boxes = following.outcome.boxes
    return following.once(
        "open meals", lambda: [m for m in following.meals if m.from_box is None and boxes[str(m.id)].stage == PLANNED]
    )


def _smaller(story: WeekStory, learned: Learned, following: WeekPicture) -> Iterator[Offered]:
    eaters = {str(e.id): e for e in following.eaters}
    names = {r.key: r.name for r in story.table.picture.recipes.values()}
    for fate in learned.fates:
        by, eater = smaller_by(fate), eaters.get(fate.eater_key)
        dish = base_recipe_key(fate.dish_key)
        meals = [m for m in _open_meals(following) if str(m.eater_id) == fate.eater_key and str(m.recipe_id) == dish]
        if by is None or eater is None or not meals:
            continue
        whole_g = sum(following.outcome.boxes[str(m.id)].tally.grams for m in meals)
        change: Document = {"servings": {str(m.id): m.servings * by for m in meals}}
        title, why = _smaller_words(fate, eater, names[fate.dish_key], whole_g / len(meals), by, _cost(learned, fate))
        left_g = (1 - fate.eaten_share) * fate.grams
        yield Offered(Proposal(f"{SMALLER}:{fate.eater_key}:{dish}", SMALLER, title, why, left_g), change)


def _frozen(story: WeekStory, learned: Learned, following: WeekPicture) -> Iterator[Offered]:
    """Of dishes whose boxes grew too old as many of the next week's last ones in the freezer, where that suits them."""
    names, eaters = (
        {r.key: r.name for r in story.table.picture.recipes.values()},
        {str(e.id): e for e in following.eaters},
    )
    for fate in learned.fates:
        dish = base_recipe_key(fate.dish_key)
        meals = [
            m
            for m in _open_meals(following)
            if (str(m.eater_id), str(m.recipe_id)) == (fate.eater_key, dish) and _may_be_frozen(following, m)
        ]
        last = sorted(meals, key=lambda m: m.day)[-fate.aged :] if fate.aged else []
        if last and fate.eater_key in eaters:
            told = {
                "who": eaters[fate.eater_key].first_name,
                "dish": names[fate.dish_key],
                "boxes": many(len(last), "box", "boxes"),
                "aged": many(fate.aged, "box", "boxes"),
                "day": weekday_whole(last[-1].day),
            }
            title = say("{who}: freeze the last {boxes} of {dish}", **told)
            if len(last) == 1:
                title = say("{who}: freeze the last box of {dish}", **told)
            why = say("{aged} grew too old. {day}’s waits in the freezer then, and thaws in the fridge.", **told)
            change: Document = {"frozen": [str(m.id) for m in last]}
            yield Offered(Proposal(f"{FREEZE}:{fate.eater_key}:{dish}", FREEZE, title, why), change)


def _may_be_frozen(following: WeekPicture, meal: Meal) -> bool:
    """Whether a meal's box waits in the fridge for a day or more, and its dish may be frozen."""
    stay = following.stays.get(str(meal.id))
    return stay is not None and stay.place == FRIDGE and stay.days > 1 and stay.keeping.freezes


def _smaller_words(
    fate: DishFate, eater: Eater, dish: str, box_g: float, by: float, cost: float | None
) -> tuple[str, str]:
    told = {
        "who": eater.first_name,
        "dish": dish,
        "old": shown(box_g),
        "new": shown(box_g * by),
        "boxes": many(fate.boxes, "box", "boxes"),
        "eaten": shown(100 * fate.eaten_share),
        "thrown": shown(fate.thrown_g),
        "finished": fate.finished,
    }
    title = say("{who}: {dish} of {new} g, not {old}", **told)
    why = say("{eaten} % of {boxes} was eaten.", **told)
    if fate.thrown_g >= 1:
        why = say("{eaten} % of {boxes} was eaten; {thrown} g were thrown away.", **told)
    if cost:
        why = say("{why} Saves about {cost} a week.", why=why, cost=price(cost))
    return title, why


def _cost(learned: Learned, fate: DishFate) -> float | None:
    """What was thrown away of a dish, as a share of all that was: its cost, where prices are known."""
    whole = sum(box.thrown_g for box in learned.thrown)
    return learned.cost.thrown * fate.thrown_g / whole if learned.cost is not None and whole > 0 else None


def _richer(caller: Caller, story: WeekStory, following: WeekPicture) -> Iterator[Offered]:
    pages: list[RecipePage] | None = None
    for eater in following.eaters:
        days = [d for d in story.days if d.eater.id == eater.id and d.is_over]
        low = [s for s in standings_of(days, eater) if s.says == LOW and s.asked.wanted is not None] if days else []
        if not low:
            continue
        pages = list_recipes(caller) if pages is None else pages
        low.sort(key=lambda s: (s.nutrient != "fibre_g", s.known / s.asked.wanted.value if s.asked.wanted else 1.0))
        there = {str(m.recipe_id) for m in following.meals}
        suiting = {slot.id: list(_suiting(eater, slot, pages)) for slot in eater.slots}
        ways = (_richer_slot(eater, standing, following, suiting, there) for standing in low)
        best = (one for one in ways if one is not None)
        one = next(best, None)
        if one is not None:
            yield one


def _richer_slot(
    eater: Eater,
    standing: Standing,
    following: WeekPicture,
    suiting: Mapping[UUID, Sequence[Suiting]],
    there: Collection[str],
) -> Offered | None:
    """The slot of an eater, and the dish for it, that would bring most of what is low."""
    wanted = standing.asked.wanted
    if wanted is None:
        return None
    of_food, found = HELD_AGAINST.get(standing.nutrient, standing.nutrient), []
    for slot in eater.slots:
        for key, meals in _by_dish(eater, slot, following).items():
            here = _candidate(base_recipe_key(key), serving_of(following.recipes[key]).tally, of_food)
            kcal = sum(following.outcome.boxes[str(m.id)].tally.amount("energy_kcal").value for m in meals) / len(meals)
            candidates = (
                _candidate(page.recipe.key, tally, of_food, is_there=page.recipe.key in there)
                for page, tally in suiting[slot.id]
                if not tally.amount(of_food).is_unknown
            )
            best = richest(candidates, here, kcal, 0.1 * wanted.value)
            if best is not None:
                found.append((best[1] * len(meals), best[0], best[1], slot, meals, kcal))
    if not found:
        return None
    _, recipe_key, more, slot, meals, kcal = max(found, key=lambda f: (f[0], f[1]))
    page = next(p for p, _ in suiting[slot.id] if p.recipe.key == recipe_key)
    servings = round(kcal / page.serving.tally.amount("energy_kcal").value, 2)
    told = {
        "who": eater.first_name,
        "dish": page.recipe.name,
        "slot": slot.name,
        "what": BY_KEY[standing.nutrient].label,
        "known": shown(standing.known, BY_KEY[standing.nutrient].decimals),
        "wanted": shown(wanted.value),
        "more": shown(more, BY_KEY[of_food].decimals),
        "unit": BY_KEY[standing.nutrient].unit,
        "days": many(len(meals), "day"),
    }
    title = say("{who}: {dish} for {slot} on {days}", **told)
    why = say("{what}: {known} of {wanted} {unit} a day; this brings {more} {unit} more, with the same energy.", **told)
    change: Document = {"recipe": recipe_key, "servings": servings, "meals": [str(m.id) for m in meals]}
    return Offered(Proposal(f"{RICHER}:{eater.id}:{slot.id}:{recipe_key}", RICHER, title, why), change)


def _by_dish(eater: Eater, slot: Slot, following: WeekPicture) -> Mapping[str, list[Meal]]:
    found: dict[str, list[Meal]] = {}
    for meal in _open_meals(following):
        if (meal.eater_id, meal.slot_id) == (eater.id, slot.id) and not meal.is_pinned:
            key = following.outcome.boxes[str(meal.id)].placing.recipe_key
            found.setdefault(key, []).append(meal)
    return {key: sorted(meals, key=lambda m: m.day)[:MOST_DAYS] for key, meals in found.items()}


def _candidate(key: str, serving: Tally, nutrient: str, *, is_there: bool = False) -> Candidate:
    nutrient_in, kcal, protein_g = (serving.amount(k).value for k in (nutrient, "energy_kcal", "protein_g"))
    return Candidate(key, nutrient_in, kcal, protein_g, is_there=is_there)


def _suiting(eater: Eater, slot: Slot, pages: Sequence[RecipePage]) -> Iterator[Suiting]:
    """The recipes that may stand in an eater's slot, each with a serving as it is made for them."""
    for page in pages:
        if page.broken or not slot.suits(frozenset(page.tags)) or disliked_foods(eater.exclusions, page.recipe):
            continue
        recipe = for_eater(page.recipe, str(eater.id))
        if why_not_for(eater.exclusions, recipe) is None:
            yield page, page.serving.tally if recipe is page.recipe else serving_of(recipe).tally


def _yields(learned: Learned) -> Iterator[Offered]:
    for one in learned.yields:
        if one.cooked_g is None:
            continue
        told = {
            "name": one.name,
            "new": shown(one.learned.factor, 2),
            "old": shown(one.expects, 2),
            "pots": many(one.learned.pots, "weighing"),
            "low": shown(one.learned.low, 2),
            "high": shown(one.learned.high, 2),
        }
        title = say("{name}: expect a yield of {new}, not {old}", **told)
        why = say("Learned from {pots}.", **told)
        if one.learned.pots > 1:
            why = say("Learned from {pots}, {low} to {high}.", **told)
        change: Document = {
            "recipe": base_recipe_key(one.recipe_key),
            "component": one.component_key,
            "cooked_g": one.cooked_g,
        }
        off = abs(one.learned.factor / one.expects - 1)
        yield Offered(Proposal(f"{YIELD}:{one.component_key}", YIELD, title, why, off), change)


def _minutes(learned: Learned) -> Iterator[Offered]:
    for one in learned.minutes:
        told = {
            "recipe": one.recipe_name,
            "step": one.words[:60],
            "minutes": one.minutes,
            "times": ", ".join(shown(t) for t in one.times),
        }
        title = say("{recipe}: {minutes} min for “{step}”", **told)
        why = say("The last times it took {times} min.", **told)
        change: Document = {"recipe": str(one.recipe_id), "step": one.step_key, "minutes": one.minutes}
        yield Offered(Proposal(f"{MINUTES}:{one.recipe_id}:{one.step_key}", MINUTES, title, why), change)


def _sessions(told: Sequence[SessionTold], following: WeekPicture) -> Iterator[Offered]:
    """Another length for a session like one that took longer, and a dish for a later one that has room."""
    ahead = sorted(following.sessions, key=lambda s: s.starts_at)
    pairs = [
        (one, match)
        for one in sorted(told, key=lambda s: s.starts_at)
        if (match := next((s for s in ahead if s.starts_at.weekday() == one.starts_at.weekday()), None)) is not None
    ]
    for one, match in pairs:
        length = room_for([one.time.took_min], match.length_min)
        if length is not None:
            words = {"day": weekday_whole(match.starts_at.date()), "new": length, "old": match.length_min}
            title = say("{day}: plan {new} min of cooking, not {old}", **words)
            took = {"took": one.time.took_min, "planned": one.time.planned_min}
            why = say("It took {took} min; its sheet had said {planned}.", **took)
            change: Document = {"session": match.key, "length_min": length}
            yield Offered(Proposal(f"{ROOM}:{match.key}", ROOM, title, why), change)
    between = to_relieve([one.time.took_min - one.room_min for one, _ in pairs])
    if between is not None:
        (ran_over, first), (_, second) = (pairs[n] for n in between)
        yield from _to_other(following, (first.key, second.key), ran_over.time.took_min - ran_over.room_min)


def _to_other(following: WeekPicture, keys: tuple[str, str], over_min: int) -> Iterator[Offered]:
    """The largest dish of one session whose meals all are after the other."""
    first, second = (next(s for s in following.sessions if s.key == key) for key in keys)
    slots = {slot.id: slot for e in following.eaters for slot in e.slots}
    grams: dict[str, float] = {}
    dishes: dict[str, list[Meal]] = {}
    for meal in _open_meals(following):
        box = following.outcome.boxes[str(meal.id)]
        if box.placing.session_key == first.key:
            dishes.setdefault(base_recipe_key(box.placing.recipe_key), []).append(meal)
            grams[str(meal.recipe_id)] = grams.get(str(meal.recipe_id), 0.0) + box.tally.grams
    later = [key for key, meals in dishes.items() if all(second.serves(m.day, slots[m.slot_id].at) for m in meals)]
    if not later or len(dishes) < 2:
        return
    key = max(later, key=lambda k: (grams[k], k))
    told = {
        "dish": following.recipes[key].name,
        "second": weekday_whole(second.starts_at.date()),
        "first": weekday_whole(first.starts_at.date()),
        "over": over_min,
    }
    title = say("Cook {dish} on {second}, not on {first}", **told)
    why = say("{first} ran over by {over} min, {second} had as much to spare; all of it is eaten later.", **told)
    change: Document = {"cooked_in": {str(m.id): second.key for m in dishes[key]}}
    yield Offered(Proposal(f"{OTHER_SESSION}:{key}:{second.key}", OTHER_SESSION, title, why), change)


ON_THE_HOB = ("pan", "pot")


def _vessels(following: WeekPicture) -> Iterator[Offered]:
    """Batches that need several fillings where another vessel for the hob takes them at once."""
    for worked in following.outcome.batches:
        recipe = following.recipes[worked.plan.recipe_key]
        component = next(c for c in recipe.components if c.key == worked.plan.component_key)
        if component.vessel not in ON_THE_HOB or worked.is_started:
            continue
        made = component.times(worked.plan.factor)
        grams = expected_cooked_weight(made).grams
        put = filling(made, grams, following.vessels)
        if put is None or len(put.loads_ml) < 2:
            continue
        other = next(kind for kind in ON_THE_HOB if kind != component.vessel)
        fits = [v for v in following.vessels if v.kind == other and v.usable_ml >= put.volume_ml]
        if fits:
            vessel = min(fits, key=lambda v: v.volume_ml)
            told = {
                "name": recipe.name,
                "vessel": vessel.name,
                "kind": VESSEL_KINDS[component.vessel],
                "needed": litres(put.volume_ml),
                "times": len(put.loads_ml),
            }
            title = say("{name}: in the {vessel}, all at once", **told)
            why = say("{needed} are {times} fillings of your largest {kind}.", **told)
            change: Document = {
                "recipe": base_recipe_key(worked.plan.recipe_key),
                "component": component.key,
                "vessel": other,
            }
            yield Offered(Proposal(f"{VESSEL}:{component.key}", VESSEL, title, why), change)


def _packs(caller: Caller, story: WeekStory) -> Iterator[Offered]:
    """Foods that keep and cost less in a larger pack."""
    week = shopping_of(caller, story.table.picture.week.first_day)
    if week is None:
        return
    with caller.transaction() as session:
        noted = around_of(session, story.table.picture.week.id).packs
    kept = {food.key for food, _ in always_kept(caller)}
    for line in week.shopping.lines:
        bought = _bought(line.buying.packs if line.buying else ())
        if bought is None or not keeps_open(line.food.keep_group) or line.food.key in kept:
            continue
        others = [PackOffer(p.grams, p.price) for p in packs_of(line.food, noted) if p.price]
        larger = larger_pack(bought, others, line.needed_g)
        if larger is None:
            continue
        told = {
            "food": line.food.name.split(",")[0].lower(),
            "new": shown(larger.grams),
            "old": shown(bought.grams),
            "cost": coins(100 * larger.per_g),
            "was": coins(100 * bought.per_g),
            "weeks": many(int(larger.grams // line.needed_g), "week"),
        }
        title = say("Buy {food} in the pack of {new} g, not {old}", **told)
        why = say("{cost} for 100 g, not {was}; it keeps, and lasts about {weeks}.", **told)
        change: Document = {"food": line.food.key, "floor_g": round(larger.grams - line.needed_g, 1)}
        yield Offered(Proposal(f"{PACK}:{line.food.key}", PACK, title, why), change)


def _bought(packs: Iterable[tuple[Pack, int]]) -> PackOffer | None:
    """The pack of which most were bought, with a price."""
    priced = [(count, PackOffer(pack.grams, pack.price)) for pack, count in packs if pack.price]
    return max(priced, key=lambda p: (p[0], p[1].grams))[1] if priced else None
