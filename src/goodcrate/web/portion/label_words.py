"""What stands on the label of a box: every figure, day and word as it is printed."""

from collections.abc import Sequence
from datetime import date
from uuid import UUID

from goodcrate.core.foods.food import ALLERGEN_WORDS
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import WORDS, say
from goodcrate.core.ground.writing import clock, day_month, many, weekday
from goodcrate.core.portion.filled_boxes import PLANNED
from goodcrate.core.portion.week_outcome import PlacedBox
from goodcrate.core.recipes.component import allergens_of
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.variants import base_recipe_key
from goodcrate.core.store.box_code import box_code
from goodcrate.core.store.for_the_meal import added_on_the_day, heating_words
from goodcrate.core.targets.eater import Eater
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import CUPBOARD, FREEZER, Stay, keeps_until
from goodcrate.formats.label_pdf import BoxLabel, Part
from goodcrate.formats.reference import keep_groups
from goodcrate.services.store.boxes import own_box_id
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.drawing import energy_bar
from goodcrate.web.figures import grams, number, whole


def labels_of(
    picture: WeekPicture, meals: Sequence[Meal], base_url: str, *, is_blank: bool = False
) -> tuple[BoxLabel, ...]:
    """The labels of some meals' own boxes, in the order given; before cooking as planned, then as weighed."""
    return tuple(_label(picture, meal, base_url.rstrip("/"), is_blank) for meal in meals)


def _label(picture: WeekPicture, meal: Meal, base_url: str, is_blank: bool) -> BoxLabel:
    box = picture.outcome.boxes[str(meal.id)]
    eater = next(e for e in picture.eaters if e.id == meal.eater_id)
    slot = next(s for s in eater.slots if s.id == meal.slot_id)
    recipe = picture.recipes[box.placing.recipe_key]
    stay = picture.stays.get(str(meal.id))
    allergens = recipe.allergens | _topped_up_with(picture, box)
    box_id = own_box_id(meal.id)
    return BoxLabel(
        box_code(box_id),
        f"{base_url}/box/{box_id}",
        eater.first_name,
        day=_dated(meal.day),
        slot=f"{slot.name} {clock(slot.at)}",
        dish=_dish(picture, meal, eater),
        parts=tuple(Part(part.name, f"{grams(part.grams)} g") for part in box.parts if len(box.parts) > 1),
        made="" if stay is None else say("made {day}", day=_dated(stay.cooked_on)),
        eat_by="" if stay is None else _dated(last_day(stay)),
        rule="" if stay is None else _rule(picture, stay),
        figures=_figures(box.tally),
        shares=tuple((share.texture, share.width_pct / 100) for share in energy_bar(box.tally)),
        allergens=tuple(sorted(ALLERGEN_WORDS[a] for a in allergens)),
        not_for=_not_for(picture, eater, allergens),
        frozen="" if stay is None else _frozen(stay),
        heat=say("Eat cold.") if slot.must_be_cold else heating_words(recipe, keep_groups()),
        on_the_day=_on_the_day(recipe, box.placing.servings),
        is_planned=box.stage == PLANNED,
        is_blank=is_blank,
    )


def _dish(picture: WeekPicture, meal: Meal, eater: Eater) -> str:
    """The dish by name; one made otherwise for its eater says so."""
    name = picture.recipes[str(meal.recipe_id)].name
    key = picture.outcome.boxes[str(meal.id)].placing.recipe_key
    if base_recipe_key(key) != key:
        name = say("{name}, {who}’s version", name=name, who=eater.first_name)
    marks = dict.fromkeys(
        mark
        for batch in picture.outcome.batches
        if any(p.placing_key == str(meal.id) for p in batch.outcome.portions)
        and (mark := batch.record.marks.get(str(eater.id)))
    )
    return say("{name} (known by: {marks})", name=name, marks=", ".join(marks)) if marks else name


def _topped_up_with(picture: WeekPicture, box: PlacedBox) -> frozenset[str]:
    """The allergens of what other dishes gave to a box."""
    keys = {part.component_key for part in box.parts}
    parts = (c for recipe in picture.recipes.values() for c in recipe.components if c.key in keys)
    return allergens_of(line for part in parts for line in part.lines)


def _not_for(picture: WeekPicture, owner: Eater, allergens: frozenset[str]) -> str:
    """Who else in the house must not have this box, and why: a box taken by mistake."""
    told = []
    for eater in picture.eaters:
        hurts = sorted(ALLERGEN_WORDS[a] for a in allergens & eater.exclusions.allergens)
        if eater.id != owner.id and hurts:
            told.append(f"{eater.first_name} ({', '.join(hurts)})")
    return say("Not for {who}.", who=", ".join(told)) if told else ""


def _dated(day: date) -> str:
    month = WORDS.get().months[day.month - 1]
    return f"{weekday(day)} {day_month(day).replace(month, month[:3])}"


def last_day(stay: Stay) -> date:
    """The last day by guidance: of a frozen box its months, else its days in the fridge; what keeps dry, its meal."""
    if stay.place == CUPBOARD:
        return stay.eaten_on
    return keeps_until(stay.keeping.group, stay.cooked_on, stay.keeping.fridge_days, is_frozen=stay.place == FREEZER)


def _rule(picture: WeekPicture, stay: Stay) -> str:
    rule = picture.capacity.keep_rule
    told = {"what": stay.keeping.decided_by.split(",")[0].lower(), "rule": say(rule)}
    if stay.place == CUPBOARD:
        return say("Keeps dry in the cupboard.")
    if stay.place == FREEZER:
        months = stay.keeping.group.freezer_months or 0
        return say("{months} in the freezer: guidance for {what}.", months=many(months, "month"), **told)
    return say("{days} in the fridge: the {rule} rule for {what}.", days=many(stay.keeping.fridge_days, "day"), **told)


def _frozen(stay: Stay) -> str:
    if stay.thaw_on is None:
        return ""
    told = {"on": _dated(stay.cooked_on), "thaw": _dated(stay.thaw_on)}
    return say("Frozen {on}. Thaw in the fridge from {thaw}; eat within a day.", **told)


def _figures(tally: Tally) -> tuple[tuple[str, str], ...]:
    energy, protein = tally.amount("energy_kcal"), tally.amount("protein_g")
    doubt = f" ± {whole(energy.standard_error)}" if energy.standard_error >= 0.5 else ""
    at_least = "≥ " if energy.is_at_least else ""
    return (
        (f"{at_least.replace('≥', say('at least'))}{whole(energy.value)}", f"kcal{doubt}"),
        (f"{number(protein.value, 0)} g", say("protein")),
        (f"{grams(tally.grams)} g", say("in the box")),
    )


def _on_the_day(recipe: Recipe, servings: float) -> str:
    adds = [todo.words for todo in added_on_the_day(recipe, servings)]
    return say("Then add {what}.", what=", ".join(adds)) if adds else ""


def meals_to_label(picture: WeekPicture, session_key: str, chosen: set[UUID]) -> list[Meal]:
    """The meals whose boxes a session packs, by eater and day; of them the chosen ones, when some are."""
    times = {slot.id: slot.at for e in picture.eaters for slot in e.slots}
    order = {e.id: n for n, e in enumerate(picture.eaters)}
    mine = [m for m in picture.meals if picture.outcome.boxes[str(m.id)].placing.session_key == session_key]
    mine = [m for m in mine if not chosen or m.id in chosen]
    return sorted(mine, key=lambda m: (order[m.eater_id], m.day, times[m.slot_id]))
