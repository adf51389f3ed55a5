"""What the weeks that the planner found would cost at the till, in whole packs, against what a week may cost."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID

from goodcrate.core.ground.document import ReadDocument
from goodcrate.core.recipes.instead import with_instead
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.shop.needs import BatchToBuyFor, needs_of
from goodcrate.core.shop.shopping_list import shopping_list
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller
from goodcrate.services.foods.bought_as import raw_by_cooked
from goodcrate.services.plan.buying import scaled, without_meals
from goodcrate.services.plan.planning import newest_planning
from goodcrate.services.recipes.library import recipe_values
from goodcrate.services.shop.listing import Around, around_of, extras_of, rules_of, with_floors
from goodcrate.services.week.instead import instead_of
from goodcrate.services.week.versions import pinned_versions
from goodcrate.services.week.weeks import WeekPicture, week_picture


@dataclass(frozen=True)
class PlanCost:
    """What a week's list would cost in whole packs, with all that stays in it; `is_at_least` where prices are missing.
    `over` is so much more than a week may cost, None where that is not said, negative below it; `more` so much more
    than the first week that was found."""

    price: float
    is_at_least: bool
    over: float | None
    more: float = 0.0


def plan_costs(caller: Caller, first_day: date) -> Mapping[str, PlanCost]:
    """By their aim what the weeks cost that the newest planning found, against the budget it was given, else against
    what a week may cost; empty without one."""
    picture, job = week_picture(caller, first_day), newest_planning(caller, first_day)
    if picture is None or job is None:
        return {}
    gone = {row_id for row_id, _ in job.job.input["opened"]}
    with caller.transaction() as session:
        around = around_of(session, picture.week.id)
        budget = around.settings.week_budget if job.wishes.budget is None else job.wishes.budget
        found = {plan["aim"]: cost_of(session, picture, plan, gone, around, budget) for plan in job.plans}
    first = next(iter(found.values()), None)
    return {aim: replace(cost, more=cost.price - first.price) if first else cost for aim, cost in found.items()}


def cost_of(
    session: HouseholdSession,
    picture: WeekPicture,
    plan: ReadDocument,
    gone: Collection[str],
    around: Around,
    budget: float | None,
) -> PlanCost:
    """What a week costs as it is kept of a planning, with all that stays in it."""
    needs = needs_of(
        (*without_meals(picture, gone), *_planned(session, picture, plan)), extras_of(picture), raw_by_cooked()
    )
    wanted = with_floors(needs, around)
    shopping = shopping_list(wanted, tuple(around.stock.values()), rules_of(picture, wanted, around))
    over = None if budget is None else round(shopping.price - budget, 2)
    return PlanCost(shopping.price, bool(shopping.unpriced), over)


def _planned(session: HouseholdSession, picture: WeekPicture, plan: ReadDocument) -> Iterable[BatchToBuyFor]:
    """The meals of a plan that are cooked for it, each as a batch of its own: packs are for the whole week anyway."""
    meals = [m for m in plan["meals"] if not m["house"]]
    values = recipe_values(session, {UUID(m["recipe"]) for m in meals}, pinned_versions(picture.week))
    instead = instead_of(session, picture.week.id)
    days = {s.key: s.starts_at.date() for s in picture.sessions}
    for meal in meals:
        value = values.get(UUID(meal["recipe"]))
        if value is None:
            continue
        recipe: Recipe = for_eater(with_instead(value.recipe, instead), meal["eater"])
        day = date.fromisoformat(meal["day"])
        lines = scaled(recipe.lines, meal["servings"] / recipe.servings)
        yield BatchToBuyFor(recipe.name, days.get(meal["session"], day), lines, ((day, meal["grams"]),))
