"""What looks wrong or forgotten in a recipe: each rule one function and one sentence. Nothing is changed by itself."""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.foods.food import BOILED, Food
from goodcrate.core.foods.keep_groups import CoreTemperature, KeepGroup
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import at_least_heat, heats_told, shown
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.cooked_weight import FROM_FOODS, expected_cooked_weight
from goodcrate.core.recipes.cooking import DRAINED, FRIED, RAW, ROASTED
from goodcrate.core.recipes.heating import is_cooked, still_raw
from goodcrate.core.recipes.keeping import CRISP, LEAFY, WET, storage_of, texture_of
from goodcrate.core.recipes.mixtures import IN_OIL, keeps_like
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import Step

LOOK, CARE = "look", "care"
"""A note to look at, or a caution that a person can be hurt by."""


@dataclass(frozen=True, slots=True)
class Note:
    """One thing to look at. `place` is the form field it is about, empty for the recipe; `source` names a caution's."""

    rule: str
    kind: str
    sentence: str
    place: str = ""
    source: str = ""


@dataclass(frozen=True, slots=True)
class Guidance:
    """The tables rules look into: keep groups and core temperatures, and the names of common foods by their words."""

    keep_groups: Mapping[str, KeepGroup]
    core_temperatures: Sequence[CoreTemperature]
    food_words: frozenset[str] = frozenset()


Rule = Callable[[Recipe, Guidance], Iterator[Note]]


def lint(recipe: Recipe, guidance: Guidance) -> tuple[Note, ...]:
    """Every note on a recipe, cautions last, in the order of the rules."""
    notes = [note for rule in RULES for note in rule(recipe, guidance)]
    return tuple(sorted(notes, key=lambda n: n.kind == CARE))


_ADDS_FAT = re.compile(
    r"\b(fry|fried|frying|saut[eé]\w*|brown|browned|sear|seared|roast|roasted|stir-fry|sweat)\b", re.I
)
_ADDS_SWEET = re.compile(r"\b(glaze|glazed|caramelise|caramelize|candy|candied)\b", re.I)
_DRESSES = re.compile(r"\b(dress|dressed|dressing|drizzle|drizzled)\b", re.I)
_DRY = re.compile(r"\b(dry|without (?:oil|fat)|no (?:oil|fat)|non-stick|in its own fat)\b", re.I)


def forgotten_calories(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """A step that fries, roasts, dresses or glazes, with no fat or sugar among the lines it can take it from."""
    for step in recipe.steps:
        fries, dresses, glazes = (words.search(step.text) for words in (_ADDS_FAT, _DRESSES, _ADDS_SWEET))
        if not (fries or dresses or glazes):
            continue
        place, lines = f"step-{step.key}-text", _lines_at(recipe, step)
        groups = {line.food.group for line in lines}
        is_fatty = "fat" in groups or any((line.food.composition.get("fat_g") or 0) >= 10 for line in lines)
        is_sweet = "condiment" in groups or any((x.food.composition.get("sugars_g") or 0) >= 30 for x in lines)
        if fries and not is_fatty and not _DRY.search(step.text):
            said = say("“{fries}” and no oil or fat is listed: a tablespoon of oil is about 120 kcal.", fries=fries[0])
            yield Note("forgotten_calories", LOOK, said, place)
        if dresses and not is_fatty:
            said = say("“{dresses}” and no oil or dressing is listed.", dresses=dresses[0])
            yield Note("forgotten_calories", LOOK, said, place)
        if glazes and not is_sweet:
            said = say(
                "“{glazes}” and nothing sweet is listed: a tablespoon of honey is about 60 kcal.", glazes=glazes[0]
            )
            yield Note("forgotten_calories", LOOK, said, place)


def _lines_at(recipe: Recipe, step: Step) -> tuple[IngredientLine, ...]:
    if not step.component_key:
        return recipe.lines
    return tuple(line for c in recipe.components if c.key == step.component_key for line in c.lines)


_COMMON = frozenset(  # words of food names that a step says of anything
    """water pan pot tray oven bowl lid board heat side top bottom middle half minute hour day night box boxes fridge
    hob simmer boil mix stir cut chop slice serve season fresh dried raw cooked whole piece pieces dish sauce dressing
    paste powder ground leaf leaves oil mixture rest all food foil plain fat hot cold dry soft green red white black
    brown yellow sweet light dark fine thick thin small large""".split()  # noqa: SIM905 — a word list reads as one
)


def named_and_not_listed(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """A food named in a step that no line has, nor any component's name."""
    listed = {word for line in recipe.lines for word in words_of(f"{line.food.name} {line.food.key.replace('_', ' ')}")}
    listed |= {word for c in recipe.components for word in words_of(c.name)}
    listed |= {word for p in recipe.pending for word in words_of(p.text)}
    listed |= set(words_of(recipe.name))
    run = _run_of(listed)
    for step in recipe.steps:
        said = dict.fromkeys(words_of(step.text))
        for word in said:
            if word in guidance.food_words and word not in _COMMON and not _has(run, word):
                sentence = say("The step names {word}, and no ingredient is called so.", word=word)
                yield Note("named_and_not_listed", LOOK, sentence, f"step-{step.key}-text")


def listed_and_not_used(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """A line whose food no step names, when its component has steps that name others. Seasoning is not asked after."""
    for component in recipe.own_components:
        steps = [s for s in recipe.steps if s.component_key in ("", component.key)]
        said = _run_of(word for step in steps for word in words_of(step.text))
        named = [line for line in component.lines if _is_named(line.food, said)]
        if len(named) < 2 or any(f" {all_of_it} " in said for all_of_it in ("everything", "all", "rest")):
            continue
        for line in component.lines:
            if line not in named and line.food.group not in ("spice", "baking") and line.food.key != "salt":
                sentence = say("{name} is listed, and no step uses it.", name=line.food.name)
                yield Note("listed_and_not_used", LOOK, sentence, f"line-{line.key}-amount")


_KINDS: Mapping[str, tuple[str, ...]] = {
    "fat": ("oil", "fat", "butter"),
    "poultry": ("meat",),
    "meat": ("meat",),
    "fish": ("fish",),
    "nut_seed": ("nut", "seed"),
    "vegetable": ("vegetable", "root", "leave", "leaf", "salad"),
    "legume": ("bean", "pea", "pulse", "lentil"),
    "grain": ("grain", "flake"),
    "herb": ("herb",),
    "egg": ("egg",),
    "fruit": ("fruit", "juice"),
}
"""Words a step may use for a food of a group, in the singular as `words_of` gives them."""


def _is_named(food: Food, said: str) -> bool:
    words = [w for w in words_of(food.name) if len(w) > 2]
    return any(_has(said, w) for w in words) or any(f" {w} " in said for w in _KINDS.get(food.group, ()))


def _run_of(words: Iterable[str]) -> str:
    """Words in one run with a space around each: looking for one, or a beginning, is then one search."""
    return f" {' '.join(words)} "


def _has(run: str, word: str) -> bool:
    """Whether a word is in a run of others, or a longer one begins with it; all are singular already."""
    return f" {word}" in run if len(word) > 4 else f" {word} " in run


def no_yield_known(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """A component that is cooked, whose raw or dry foods have no usual yield and whose cooked weight nobody typed."""
    for component in recipe.own_components:
        if not component.lines or component.cooked_g is not None or component.learned is not None:
            continue
        open_lines = [x for x in component.lines if x.food.cooked_yield is None and _needs_its_yield(x, component)]
        if open_lines and is_cooked(component, recipe.steps):
            names = ", ".join(line.food.name.lower() for line in open_lines[:3])
            sentence = say(
                "What {names} weighs cooked is not known: weigh the pot once, or type what it weighs.", names=names
            )
            yield Note("no_yield_known", LOOK, sentence, f"component-{component.key}-cooked")
            continue
        expected = expected_cooked_weight(component)
        if any(change.is_unlisted for change in expected.changes):
            sentence = say(
                "{name} is cooked in water that the list does not hold: add the water, and its cooked weight follows.",
                name=component.name or say("It"),
            )
            yield Note("no_yield_known", LOOK, sentence, f"component-{component.key}-name")
        elif expected.basis == FROM_FOODS and expected.standard_error_g > UNSURE_SHARE * expected.grams:
            sentence = say(
                "Expected of {name}: {grams} g ± {standard_error_g} cooked, by typical rates. Weigh the pot once.",
                name=component.name or say("this"),
                grams=shown(expected.grams),
                standard_error_g=shown(expected.standard_error_g),
            )
            yield Note("no_yield_known", LOOK, sentence, f"component-{component.key}-cooked")


def _needs_its_yield(line: IngredientLine, component: Component) -> bool:
    """Whether the cooked weight hangs on this food's own yield: boiled dry things, meat and fish in dry heat."""
    if not line.food.needs_cooking_yield:
        return False
    way = component.cooking.ways.get(line.key, RAW) if component.cooking else RAW
    return line.food.cooks_like in BOILED or (line.food.group in _JUICY and way in (ROASTED, FRIED, DRAINED))


_JUICY = frozenset({"poultry", "meat", "fish"})
UNSURE_SHARE = 0.08
"""An expected weight less sure than this share of itself is asked about: our line."""
SMALLEST_YIELD, LARGEST_YIELD = 0.3, 6.0
"""A cooked weight outside of these shares of what stays in the pot is asked about: our lines."""


def cooked_weight_out_of_reason(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """A typed cooked weight that is far less or far more than what goes in: most likely a slip."""
    for component in recipe.own_components:
        if component.cooked_g is None or component.kept_g <= 0:
            continue
        share = component.cooked_g / component.kept_g
        if not SMALLEST_YIELD <= share <= LARGEST_YIELD:
            sentence = say(
                "{name} weighs {cooked_g} g cooked, from {kept_g} g that go in. Is that right?",
                name=component.name or say("It"),
                cooked_g=shown(component.cooked_g),
                kept_g=shown(component.kept_g),
            )
            yield Note("cooked_weight_out_of_reason", LOOK, sentence, f"component-{component.key}-cooked")


def days_longer_than_guidance(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """Days of the cook’s own that are longer than the guidance: they count only with a reason."""
    for component in recipe.own_components:
        own = component.storage.own_days
        if own is None:
            continue
        s = storage_of(component, recipe.steps, guidance.keep_groups)
        least = s.guidance_days
        if own <= least:
            continue
        place = f"component-{component.key}-days_because"
        name = component.name or "it"
        if not s.days_because.strip():
            sentence = say(
                "{own} days for {name} are more than the {least} of the guidance: say why, or they do not count.",
                own=own,
                name=name,
                least=least,
            )
        else:
            sentence = say(
                "{name} is kept {own} days, {own2} more than the guidance: “{days_because}”.",
                name=name,
                own=own,
                own2=own - least,
                days_because=s.days_because,
            )
        yield Note("days_longer_than_guidance", CARE, sentence[0].upper() + sentence[1:], place, s.group.source)


WETTING_SHARE = 0.25
"""Less of something wet than this share of the crisp things or leaves binds them and does not soften them: our line."""


def crisp_with_wet(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """Crisp things packed with wet ones: in one component, or leaves already dressed."""
    for component in recipe.own_components:
        cooked = is_cooked(component, recipe.steps)
        if cooked or texture_of(component, cooked) == CRISP:
            continue
        kinds: dict[str, str] = {}
        grams: dict[str, float] = {}
        for line in component.lines:
            if line.use in ("on_the_day", "at_packing") or line.food.group == "herb":
                continue
            kind = texture_of(Component("", component.name, (line,)), cooked)
            kinds.setdefault(kind, line.food.name)
            grams[kind] = grams.get(kind, 0.0) + line.kept_g
        if grams.get(WET, 0.0) < WETTING_SHARE * max(grams.get(CRISP, 0.0), grams.get(LEAFY, 0.0)):
            kinds.pop(WET, None)
        if CRISP in kinds and (WET in kinds or LEAFY in kinds):
            other = kinds.get(WET) or kinds[LEAFY]
            sentence = say(
                "{kinds} goes soft beside {other}: give it a component of its own, or the day.",
                kinds=kinds[CRISP],
                other=other.lower(),
            )
            yield Note("crisp_with_wet", LOOK, sentence, f"component-{component.key}-name")
        elif LEAFY in kinds and WET in kinds:
            sentence = say(
                "{kinds} wilts in {kinds2}: dress it on the day.", kinds=kinds[LEAFY], kinds2=kinds[WET].lower()
            )
            yield Note("crisp_with_wet", LOOK, sentence, f"component-{component.key}-name")


def missing_cool_down(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """Something is cooked and no step cools it before the lid."""
    for component in recipe.own_components:
        steps = [s for s in recipe.steps if s.component_key in ("", component.key)]
        if not any(s.heats for s in steps):
            continue
        cools = any(s.equipment == "cooling" or re.search(r"\b(cool|chill|cold|cooled)", s.text, re.I) for s in steps)
        if not cools:
            group = storage_of(component, recipe.steps, guidance.keep_groups).group
            sentence = say(
                "No step cools {name} before the lid goes on: {cool_rule}.",
                name=component.name or say("it"),
                cool_rule=heats_told(group.cool_rule),
            )
            yield Note("missing_cool_down", CARE, sentence, "steps", group.source)


_CORE_OF = {"raw_poultry": "poultry", "raw_mince": "minced_meat", "raw_fish": "fish"}


def missing_core_temperature(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """Raw poultry, mince or fish is cooked and no step says which temperature its middle must reach."""
    by_kind = {t.kind: t for t in reversed(guidance.core_temperatures)}
    for component in recipe.own_components:
        steps = [s for s in recipe.steps if s.component_key in ("", component.key)]
        if not any(s.heats for s in steps) or any(s.core_kind for s in steps):
            continue
        for line in component.lines:
            kind = _CORE_OF.get(line.food.keep_group, "")
            if kind == "minced_meat" and line.food.group == "poultry":
                kind = "minced_poultry"
            if kind in by_kind:
                t = by_kind[kind]
                sentence = say(
                    "{name}: no step says that its middle reaches {core_c}{word}.",
                    name=line.food.name,
                    core_c=at_least_heat(t.core_c),
                    word="" if t.hold == "instant" else say(" for {hold}", hold=t.hold),
                )
                yield Note("missing_core_temperature", CARE, sentence, "steps", t.source)
                break


_FSA = Saying("UK Food Standards Agency; follow your local food authority")
_KIDNEY = re.compile(r"\b(red )?kidney beans?\b", re.I)


def cautions(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """The usual cautions that apply: rice, raw egg, raw flour, dry kidney beans, raw beside ready, allergens."""
    for component in recipe.own_components:
        cooked = is_cooked(component, recipe.steps)
        foods = [line.food for line in component.lines if not line.is_discarded]
        if any(f.keep_group == "cooked_rice" or f.cooks_like == "rice" for f in foods):
            group = guidance.keep_groups["cooked_rice"]
            sentence = say("Rice: {cool_rule}; heat it once and all through.", cool_rule=heats_told(group.cool_rule))
            yield Note("caution_rice", CARE, sentence, "steps", group.source)
        if not cooked and any(f.group == "egg" and f.state == "raw" for f in foods):
            sentence = say(
                "Raw egg stays raw here: not for the very young, old, pregnant or ill, unless your authority calls "
                "these eggs safe raw."
            )
            yield Note("caution_raw_egg", CARE, sentence, "", _FSA)
        if not cooked and any(f.cooks_like == "flour" and f.state in ("raw", "dry") for f in foods):
            source = say("US Food and Drug Administration; follow your local food authority")
            yield Note("caution_raw_flour", CARE, say("Flour is a raw food: do not eat it unheated."), "", source)
        applied = keeps_like(component, recipe.steps, guidance.keep_groups)[2]
        if under_oil := next((g for g in applied if g.key == IN_OIL), None):
            most = under_oil.fridge_days_usual
            sentence = say(
                "Garlic, herbs or vegetables in oil: in the fridge at once and at most {most} days. "
                "Botulism germs grow under oil, unseen and unsmelt.",
                most=most,
            )
            yield Note("caution_in_oil", CARE, sentence, "steps", under_oil.source)
        if any(_KIDNEY.search(f.name) and f.state == "dry" for f in foods):
            sentence = say(
                "Dry kidney beans are poisonous until boiled hard: soak them, pour the water off and boil them for at "
                "least 10 minutes."
            )
            yield Note("caution_kidney_beans", CARE, sentence, "steps", _FSA)
    if any(line.food.keep_group.startswith("raw_") for line in recipe.lines) and _has_ready_part(recipe):
        sentence = say(
            "Raw meat or fish and ready-to-eat parts: other boards and knives, and wash your hands in between."
        )
        yield Note("caution_raw_beside_ready", CARE, sentence, "steps", _FSA)


def _has_ready_part(recipe: Recipe) -> bool:
    return any(c.lines and not is_cooked(c, recipe.steps) for c in recipe.components)


def raw_without_heat(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """Raw meat, fish, egg or flour that no step heats: how is it cooked?"""
    for component in recipe.own_components:
        raw = tuple(dict.fromkeys(line.food.name.split(",")[0].lower() for line in still_raw(component, recipe.steps)))
        if raw:
            sentence = say(
                "No step heats {raw}. How is it cooked? Add the step: it must not be eaten raw.", raw=", ".join(raw)
            )
            yield Note("raw_without_heat", CARE, sentence, "steps", _FSA)


def not_understood(recipe: Recipe, guidance: Guidance) -> Iterator[Note]:
    """Pasted or imported lines that count nothing yet."""
    for line in recipe.pending:
        yield Note(
            "not_understood",
            LOOK,
            say("“{text}” counts nothing yet: {doubt}.", text=line.text, doubt=line.doubt),
            f"line-{line.key}-amount",
        )


RULES: tuple[Rule, ...] = (
    not_understood,
    forgotten_calories,
    named_and_not_listed,
    listed_and_not_used,
    no_yield_known,
    cooked_weight_out_of_reason,
    crisp_with_wet,
    days_longer_than_guidance,
    missing_cool_down,
    missing_core_temperature,
    raw_without_heat,
    cautions,
)
