"""Routes of what can be done with a typed recipe: another size, a fitted serving, a swap. Changes are shown first."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.amounts import LARGEST_LINE_G, read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import round_half_up
from goodcrate.core.recipes import scaling, tune
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.variants import SWAPS_BY, Swap, swap
from goodcrate.services import kitchen
from goodcrate.services.foods import own_foods
from goodcrate.services.targets import household_eaters
from goodcrate.services.week.weeks import new_id
from goodcrate.web.figures import grams, number, plain, whole
from goodcrate.web.pages import fragment
from goodcrate.web.recipes.address import router
from goodcrate.web.recipes.forms import RecipeForm
from goodcrate.web.recipes.live import minutes_words
from goodcrate.web.recipes.reading import benched
from goodcrate.web.security import Posted, Signed, Visitor, text

GRAMS_SHOWN = ("protein_g", "fat_g", "fibre_g")


@dataclass(frozen=True)
class Row:
    """One line of a proposal, before and after in words."""

    name: str
    before: str
    after: str
    note: str
    moved: bool


@dataclass(frozen=True)
class Proposal:
    """What would change, line by line; `changes` are the form's fields with their new values."""

    title: str
    rows: tuple[Row, ...]
    facts: tuple[str, ...]
    warnings: tuple[str, ...]
    changes: str
    button: str


def _typed_recipe(visitor: Visitor, form: Posted, recipe_id: UUID) -> tuple[RecipeForm, Recipe]:
    typed = RecipeForm.of_post(form, str(recipe_id))
    return typed, benched(visitor, typed).recipe


def amount_text(line: IngredientLine) -> str:
    """A changed line's amount as it goes into its field."""
    return line.amount.typed or plain(line.amount.grams)


def _changes_of(before: Recipe, after: Recipe) -> dict[str, str]:
    """The form's fields that turn one recipe into the other: amounts, cooked weights, servings, minutes."""
    changes = {}
    lines = {line.key: line for line in before.lines}
    for line in after.lines:
        old = lines[line.key]
        if line.amount.grams != old.amount.grams:
            changes[f"line-{line.key}-amount"] = amount_text(line)
            changes[f"line-{line.key}-measure"] = line.amount.measure
    cooked = {c.key: c.cooked_g for c in before.own_components}
    for c in after.own_components:
        if c.cooked_g is not None and c.cooked_g != cooked[c.key]:
            changes[f"component-{c.key}-cooked"] = plain(round_half_up(c.cooked_g))
    minutes = {s.key: s.duration_min for s in before.steps}
    for s in after.steps:
        if s.duration_min is not None and s.duration_min != minutes[s.key]:
            changes[f"step-{s.key}-minutes"] = plain(round_half_up(s.duration_min))
    if after.servings != before.servings:
        changes["servings"] = plain(after.servings)
    return changes


def _factor(form: Posted, recipe: Recipe, visitor: Visitor) -> tuple[float, float | None]:
    """The factor asked for, and the servings when they stay as they are."""
    by, line = text(form, "scale-by", "servings"), text(form, "scale-line")
    simple: dict[str, Callable[[], float]] = {
        "packs": lambda: scaling.factor_for_whole_packs(recipe, line),
        "pieces": lambda: scaling.factor_for_whole_eggs(recipe, line),
        "vessel": lambda: scaling.factor_for_vessel(recipe, kitchen.vessels(visitor.caller)),
    }
    if by in simple:
        return simple[by](), None
    to = text(form, "scale-to")
    if by == "portion":
        return scaling.factor_for_portion(recipe, read_grams(to, "scale-to", 3000, allow_zero=False)), recipe.servings
    return scaling.factor_for_servings(
        recipe, read_number(to, "scale-to", say("Give how many servings."), largest=100)
    ), None


@router.post("/{recipe_id}/scale")
def scale(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """The recipe in another size, line by line; nothing changes until it is taken."""
    _, recipe = _typed_recipe(visitor, form, recipe_id)
    try:
        factor, servings = _factor(form, recipe, visitor)
        done = scaling.scaled(
            recipe,
            factor,
            servings=servings,
            vessels=kitchen.vessels(visitor.caller),
            seasoning_under_proportional=not text(form, "scale-full"),
        )
    except InvalidInput as fault:
        return fragment("recipes/_proposal.html", proposal=None, fault=fault.message)
    rows = tuple(
        Row(x.line.food.name, f"{grams(x.before_g)} g", f"{grams(x.after_g)} g", x.note, x.before_g != x.after_g)
        for x in done.lines
    )
    hands, alone = done.hands_on_min, done.unattended_min
    facts = [
        say(
            "{factor} times, makes {servings} servings", factor=number(factor, 2), servings=plain(done.recipe.servings)
        ),
        say(
            "a serving {kcal_per_serving} → {kcal_per_serving2} kcal, {protein_per_serving} → "
            "{protein_per_serving2} g protein",
            kcal_per_serving=whole(done.kcal_per_serving[0]),
            kcal_per_serving2=whole(done.kcal_per_serving[1]),
            protein_per_serving=number(done.protein_per_serving[0]),
            protein_per_serving2=number(done.protein_per_serving[1]),
        ),
    ]
    if recipe.steps:
        facts.append(say("hands-on {hands} → {hands2}", hands=minutes_words(hands[0]), hands2=minutes_words(hands[1])))
        facts.append(
            say("unattended {alone} → {alone2}", alone=minutes_words(alone[0]), alone2=minutes_words(alone[1]))
        )
    facts += [f.sentence for _, f in done.fillings if f.fits]
    warnings = tuple(f.sentence for _, f in done.fillings if not f.fits)
    changes = json.dumps(_changes_of(recipe, done.recipe))
    proposal = Proposal(say("In the new size"), rows, tuple(facts), warnings, changes, say("Make it this size"))
    return fragment("recipes/_proposal.html", proposal=proposal, fault="")


def _aims(form: Posted) -> tuple[tune.Aim, ...]:
    aims = []
    for name, nutrient in (
        ("fit-kcal", "energy_kcal"),
        ("fit-protein", "protein_g"),
        ("fit-fibre", "fibre_g"),
        ("fit-fat", "fat_g"),
    ):
        typed = text(form, name)
        if not typed.strip():
            continue
        value = read_number(typed, name, say("Give a number."))
        if name == "fit-kcal":
            aims.append(tune.about(nutrient, value))
        elif name == "fit-fat":
            aims.append(tune.Aim(nutrient, high=value))
        else:
            aims.append(tune.Aim(nutrient, low=value))
    return tuple(aims)


def _limits(form: Posted, recipe: Recipe) -> tuple[tune.Limits, ...]:
    limits = []
    usual = {x.line_key: x for x in tune.usual_limits(recipe, [line.key for line in recipe.lines])}
    for key in dict.fromkeys(str(k) for k in form.getlist("fit-move")):
        if key not in usual:
            continue
        low, high = text(form, f"fit-low-{key}"), text(form, f"fit-high-{key}")
        place = f"fit-{key}"
        limits.append(
            tune.Limits(
                key,
                read_grams(low, place, LARGEST_LINE_G) if low.strip() else usual[key].low_g,
                read_grams(high, place, LARGEST_LINE_G) if high.strip() else usual[key].high_g,
            )
        )
    return tuple(limits)


@router.post("/{recipe_id}/fit-lines")
def fit_lines(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """The ingredients as they stand, to tick which may move and how far."""
    _, recipe = _typed_recipe(visitor, form, recipe_id)
    movable = [x for c in recipe.own_components for x in c.lines if not (x.is_poured_off or x.is_discarded)]
    limits = {x.line_key: x for x in tune.usual_limits(recipe, [x.key for x in movable])}
    return fragment("recipes/_fit_lines.html", lines=movable, limits=limits, recipe=recipe)


@router.post("/{recipe_id}/fit")
def fit(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """One serving fitted to what was asked, line by line; nothing changes until it is taken."""
    _, recipe = _typed_recipe(visitor, form, recipe_id)
    try:
        done = tune.fit_serving(tune.FitProblem(recipe, _aims(form), _limits(form, recipe)))
    except InvalidInput as fault:
        return fragment("recipes/_proposal.html", proposal=None, fault=fault.message)
    except InvalidInputs as error:
        return fragment("recipes/_proposal.html", proposal=None, fault=" ".join(f.message for f in error.faults))
    rows = tuple(
        Row(m.name, f"{grams(m.before_g)} g", f"{grams(m.after_g)} g", m.at_limit, m.before_g != m.after_g)
        for m in done.moves
    )
    before, after = whole(done.before["energy_kcal"]), whole(done.after["energy_kcal"])
    energy = say("a serving {before} → {after} kcal", before=before, after=after)
    others = (f"{key[:-2]} {number(done.before[key])} → {number(done.after[key])} g" for key in GRAMS_SHOWN)
    warnings = tuple(_miss_words(aim, value) for aim, value in done.misses)
    changes = json.dumps(_changes_of(recipe, done.recipe))
    proposal = Proposal(
        say("One serving, fitted"), rows, (energy, *others), warnings, changes, say("Take these weights")
    )
    return fragment("recipes/_proposal.html", proposal=proposal, fault="")


def _miss_words(aim: tune.Aim, value: float) -> str:
    word = aim.nutrient.rsplit("_", 1)[0]
    unit = "kcal" if aim.nutrient == "energy_kcal" else "g"
    bound, side = (aim.low, say("at least")) if aim.low is not None and value < aim.low else (aim.high, say("at most"))
    return say(
        "Within these limits {word} comes no nearer than {value} {unit} ({side} {bound} was "
        "asked). Let more ingredients move, or widen a limit.",
        word=word,
        value=number(value),
        unit=unit,
        side=side,
        bound=number(bound or 0),
    )


@router.post("/{recipe_id}/swap")
def show_swap(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """What would stand in a line's place, with everything that shifts; nothing changes until it is taken."""
    typed, recipe = _typed_recipe(visitor, form, recipe_id)
    key, by = text(form, "swap-line"), text(form, "swap-by", "energy")
    eaters = household_eaters.list_eaters(visitor.caller)
    line = next((x for c in recipe.own_components for x in c.lines if x.key == key), None)
    shown: dict[str, object] = {
        "lines": [x for c in recipe.own_components for x in c.lines],
        "line": line,
        "by": by,
        "ways": SWAPS_BY,
        "words": text(form, "swap-for"),
        "eaters": eaters,
    }
    if line is None:
        return fragment("recipes/_swap.html", swap=None, others=(), fault="", changes={}, **shown)
    out_changes = {str(e.id): _variant_changes(typed, str(e.id), e.name, line, None) for e in eaters}
    food_key, words = text(form, "swap-food"), text(form, "swap-for").strip()
    others = [f.food for f in own_foods.find_foods(visitor.caller, words, 8)] if words else []
    others = [f for f in others if f.key != line.food.key]
    chosen = next((f for f in others if f.key == food_key), others[0] if others else None)
    if chosen is None:
        said = say("No food is called “{words}”.", words=words) if words else ""
        return fragment("recipes/_swap.html", swap=None, others=(), fault=said, changes=out_changes, **shown)
    try:
        done = swap(line, chosen, by, recipe.servings)
    except InvalidInput as fault:
        shown |= {"others": others, "changes": out_changes, "chosen": chosen}
        return fragment("recipes/_swap.html", swap=None, fault=fault.message, **shown)
    changes = {str(e.id): _variant_changes(typed, str(e.id), e.name, line, done) for e in eaters}
    everybody = {
        f"line-{line.key}-food": chosen.key,
        f"line-{line.key}-amount": plain(done.grams),
        f"line-{line.key}-measure": "weighed",
    }
    return fragment(
        "recipes/_swap.html",
        swap=done,
        others=others,
        fault="",
        changes=changes,
        chosen=chosen,
        out_changes=out_changes,
        everybody=json.dumps(everybody),
        **shown,
    )


def _variant_changes(typed: RecipeForm, eater: str, name: str, line: IngredientLine, done: Swap | None) -> str:
    """Hidden fields to add to the form so that one eater's variant leaves the line out or swaps it, as JSON pairs."""
    variant = next((v for v in typed.variants if eater in v.eaters), None)
    variant_id = variant.id if variant else str(new_id())
    short = line.food.name.split(",")[0].lower()
    what = (
        say("without {short}", short=short)
        if done is None
        else say("{name} for {short}", name=done.food.name.split(",")[0].lower(), short=short)
    )
    pairs = []
    if variant is None:
        pairs += [("variant", variant_id), (f"variant-{variant_id}-name", what), (f"variant-{variant_id}-eater", eater)]
    pairs += [
        (f"variant-{variant_id}-change", line.key),
        (f"variant-{variant_id}-line-{line.key}-food", "" if done is None else done.food.key),
        (f"variant-{variant_id}-line-{line.key}-amount", "" if done is None else plain(done.grams)),
    ]
    return json.dumps(pairs)
