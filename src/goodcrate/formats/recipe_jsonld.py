"""schema.org/Recipe as JSON-LD, out and in: from files, pasted JSON, or pasted HTML that holds it. Nothing is fetched.

What we know beyond schema.org travels as one JSON literal under our own namespace, `gc:document`
(`goodcrate.formats.recipe_document`). Whatever comes in is bounded, and text is text: tags are taken out of it.
"""

import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.typed import LARGEST_NUMBER
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import plainly, shown
from goodcrate.core.recipes.guessed_steps import guess_step
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.steps import Step, hands_on_min, longest_chain_min
from goodcrate.formats.page_text import json_ld_of, unescaped, without_tags
from goodcrate.formats.recipe_document import PortableRecipe, document_of

NAMESPACE = "urn:goodcrate:recipe:1:"
CONTEXT = [
    "https://schema.org",
    {"gc": NAMESPACE, "gc:document": {"@type": "@json"}, "gc:asStored": {"@type": "@json"}},
]
LARGEST_TEXT = 12_000_000
MOST_RECIPES, MOST_NODES, DEEPEST, MOST_BLOCKS = 1000, 200_000, 60, 200


@dataclass(frozen=True)
class FoundRecipe:
    """A recipe found in a file: plain text and numbers, nothing matched with foods yet.

    `lines` are ingredients by component name (“” when there is only one); `document` is our own, when it came along.
    `steps` are (text, minutes or None). `claimed_kcal` is what the source says a serving has, for comparison only.
    """

    name: str
    servings: float | None = None
    lines: tuple[tuple[str, tuple[str, ...]], ...] = ()
    steps: tuple[tuple[str, float | None], ...] = ()
    note: str = ""
    tags: tuple[str, ...] = ()
    origin: str = ""
    claimed_kcal: float | None = None
    document: Mapping[str, object] | None = None
    notices: tuple[str, ...] = field(default=())


# --- out


@plainly()
def jsonld_of(portable: PortableRecipe) -> dict[str, object]:
    """One recipe as schema.org/Recipe, with our own document inside."""
    recipe = portable.recipe
    serving = serving_of(recipe)
    out: dict[str, object] = {
        "@context": CONTEXT,
        "@type": "Recipe",
        "name": recipe.name,
        "recipeYield": say("{servings:g} servings", servings=recipe.servings),
        "recipeIngredient": [
            _ingredient_text(line.amount.grams, line.amount.typed, line.food.name)
            for c in recipe.components
            for line in c.lines
            if not line.is_poured_off
        ]
        + [p.text for p in recipe.pending],
        "recipeInstructions": [
            {"@type": "HowToStep", "position": n, "text": s.text} for n, s in enumerate(recipe.steps, 1)
        ],
    }
    if portable.note:
        out["description"] = portable.note
    if portable.tags:
        out["keywords"] = ", ".join(portable.tags)
    if recipe.steps:
        out["prepTime"] = _duration(hands_on_min(recipe.steps))
        out["totalTime"] = _duration(longest_chain_min(recipe.steps))
    if serving.tally.grams > 0:
        out["nutrition"] = _nutrition(serving.tally)
    if diet := _diets(recipe):
        out["suitableForDiet"] = diet
    out["gc:document"] = document_of(portable)
    return out


def archive_of(nodes: Iterable[dict[str, object]], as_stored: Sequence[Mapping[str, object]] = ()) -> dict[str, object]:
    """Many recipes of `jsonld_of` as one JSON-LD graph; beside it what is stored of those that make no document."""
    graph = [{key: value for key, value in node.items() if key != "@context"} for node in nodes]
    out: dict[str, object] = {"@context": CONTEXT, "@graph": graph}
    return out | {"gc:asStored": list(as_stored)} if as_stored else out


def _ingredient_text(grams: float, typed: str, name: str) -> str:
    return f"{typed} {name}" if typed else f"{grams:g} g {name}"


def _duration(minutes: float) -> str:
    whole = max(0, round(minutes))
    hours, rest = divmod(whole, 60)
    return "PT" + (f"{hours}H" if hours else "") + (f"{rest}M" if rest or not hours else "")


_NUTRITION = (
    ("calories", "energy_kcal", "kcal"),
    ("proteinContent", "protein_g", "g"),
    ("fatContent", "fat_g", "g"),
    ("saturatedFatContent", "saturated_g", "g"),
    ("carbohydrateContent", "carbohydrate_g", "g"),
    ("sugarContent", "sugars_g", "g"),
    ("fiberContent", "fibre_g", "g"),
    ("sodiumContent", "sodium_mg", "mg"),
)


def _nutrition(tally: Tally) -> dict[str, str]:
    """Known figures of a serving; one that is unknown in some of the food is left out, for there is no “at least”."""
    out = {"@type": "NutritionInformation", "servingSize": f"{shown(tally.grams, grouped=False)} g"}
    for word, key, unit in _NUTRITION:
        amount = tally.amount(key)
        if not amount.unknown_g:
            out[word] = (
                f"{shown(amount.value, grouped=False)} {unit}"
                if unit != "g"
                else f"{shown(amount.value, 1, grouped=False)} {unit}"
            )
    return out


def _diets(recipe: Recipe) -> list[str]:
    if not recipe.lines or recipe.pending:
        return []
    diets = {line.food.diet for line in recipe.lines}
    found = []
    if diets <= {"plant", "none"}:
        found.append("https://schema.org/VeganDiet")
    if diets <= {"plant", "dairy", "egg", "honey", "none"}:
        found.append("https://schema.org/VegetarianDiet")
    return found


# --- in


def find_recipes(text: str) -> list[FoundRecipe]:
    """Every recipe in a text: JSON-LD, or HTML with JSON-LD in it.

    Raises:
        InvalidInput: when it is too large, no JSON, too deep, or holds no recipe.
    """
    if len(text) > LARGEST_TEXT:
        raise InvalidInput(
            "file",
            say("{text} MB are more than we take.", text=shown(len(text) / 1000000.0, grouped=False)),
            say("At most 12 MB."),
        )
    text = text.lstrip("\ufeff \t\r\n")
    if not text:
        raise InvalidInput("file", say("There is nothing in it."), say("Paste JSON-LD, or a page that holds it."))
    blocks = _blocks_in_html(text) if text.startswith("<") else [text]
    nodes: list[Mapping[str, object]] = []
    problems: list[InvalidInput] = []
    for block in blocks:
        try:
            nodes.extend(_recipe_nodes(_parse(block)))
        except InvalidInput as fault:
            problems.append(fault)
    if not nodes:
        if problems:
            raise problems[0]
        raise InvalidInput(
            "file", say("No schema.org/Recipe stands in it."), say("Paste the ingredients as lines instead.")
        )
    if len(nodes) > MOST_RECIPES:
        raise InvalidInput(
            "file",
            say("{nodes} recipes are more than we take at once.", nodes=len(nodes)),
            say("At most {MOST_RECIPES}.", MOST_RECIPES=MOST_RECIPES),
        )
    return [_found(node) for node in nodes]


def _blocks_in_html(text: str) -> list[str]:
    blocks = json_ld_of(text, MOST_BLOCKS)
    if not blocks:
        raise InvalidInput("file", say("This page holds no JSON-LD."), say("Paste its ingredients as lines instead."))
    return blocks


def _parse(block: str) -> object:
    try:
        return json.loads(block, strict=False)
    except RecursionError:
        raise InvalidInput(
            "file", say("This JSON is nested too deeply."), say("At most {DEEPEST} levels.", DEEPEST=DEEPEST)
        ) from None
    except ValueError as error:
        place = say(" at line {lineno}", lineno=error.lineno) if isinstance(error, json.JSONDecodeError) else ""
        raise InvalidInput(
            "file", say("This is not JSON{place}.", place=place), say("Paste all of it, from { to }.")
        ) from None


def _is_recipe(node: Mapping[str, object]) -> bool:
    kinds = node.get("@type")
    names = kinds if isinstance(kinds, list) else [kinds]
    return any(isinstance(k, str) and re.fullmatch(r"(schema:|https?://schema\.org/)?Recipe", k) for k in names)


def _recipe_nodes(data: object) -> Iterator[Mapping[str, object]]:
    """Recipes anywhere in the data, in order; walked without recursion, within bounds."""
    waiting: list[tuple[object, int]] = [(data, 0)]
    seen = 0
    while waiting:
        node, depth = waiting.pop()
        seen += 1
        if seen > MOST_NODES:
            raise InvalidInput("file", say("There is too much in this file."), say("Split it."))
        if depth > DEEPEST:
            raise InvalidInput(
                "file", say("This JSON is nested too deeply."), say("At most {DEEPEST} levels.", DEEPEST=DEEPEST)
            )
        if isinstance(node, dict):
            if _is_recipe(node):
                yield node
                continue
            waiting.extend((value, depth + 1) for value in reversed(node.values()) if isinstance(value, (dict, list)))
        elif isinstance(node, list):
            waiting.extend((value, depth + 1) for value in reversed(node) if isinstance(value, (dict, list)))


def plain_text(value: object, longest: int) -> str:
    """A value as one bounded line of plain text; tags go, entities become letters, anything else is empty."""
    if isinstance(value, (int, float)) and not isinstance(value, bool):
        value = f"{value:g}" if abs(value) < LARGEST_NUMBER else ""
    if not isinstance(value, str):
        return ""
    value = value[: longest * 8]
    value = unescaped(value)
    if "<" in value:
        value = without_tags(value)
    value = "".join(c if c.isprintable() else " " for c in value)
    return re.sub(r"\s+", " ", value).strip()[:longest]


def _found(node: Mapping[str, object]) -> FoundRecipe:
    notices = []
    raw = _as_list(node.get("recipeIngredient") or node.get("ingredients"))
    lines = tuple(line for line in (plain_text(x, 200) for x in raw[:300]) if line)
    if len(raw) > 300:
        notices.append(say("Only the first 300 of {raw} ingredients were taken.", raw=len(raw)))
    servings = _servings(node.get("recipeYield") or node.get("yield"))
    if servings is None:
        notices.append(say("How many servings it makes is not said: 4 is assumed."))
    nutrition = node.get("nutrition")
    claimed = _number(nutrition.get("calories")) if isinstance(nutrition, dict) else None
    tags = re.split(r"[,;]", ",".join(plain_text(k, 200) for k in _as_list(node.get("keywords"))[:20]))
    document = node.get("gc:document") or node.get(f"{NAMESPACE}document")
    return FoundRecipe(
        plain_text(node.get("name") or node.get("headline"), 160) or say("Recipe without a name"),
        servings,
        (("", lines),) if lines else (),
        tuple(_steps(node.get("recipeInstructions"))),
        plain_text(node.get("description"), 2000),
        tuple(dict.fromkeys(t.strip().lower().replace(" ", "-")[:40] for t in tags if t.strip()))[:12],
        origin=plain_text(node.get("url") or node.get("@id") or _name_of(node.get("author")), 200),
        claimed_kcal=claimed,
        document=document if isinstance(document, dict) else None,
        notices=tuple(notices),
    )


def _name_of(value: object) -> object:
    first = next(iter(_as_list(value)), None)
    return first.get("name") if isinstance(first, dict) else first


def _as_list(value: object) -> list[object]:
    if value is None:
        return []
    return value if isinstance(value, list) else [value]


def _number(value: object) -> float | None:
    found = re.search(r"-?\d+(?:[.,]\d+)?", plain_text(value, 60))
    return float(found[0].replace(",", ".")) if found else None


def _servings(value: object) -> float | None:
    for candidate in _as_list(value)[:10]:
        number = _number(candidate.get("value") if isinstance(candidate, dict) else candidate)
        if number is not None and 0.5 <= number <= 100:
            return number
    return None


def _steps(value: object) -> Iterator[tuple[str, float | None]]:
    """Texts of steps from a string, a list, HowToSteps or HowToSections, with minutes when a duration stands there."""
    waiting = list(reversed(_as_list(value)[:200]))
    count = depth = 0
    while waiting and count < 60 and depth < 5000:
        node = waiting.pop()
        depth += 1
        if isinstance(node, dict) and "itemListElement" in node:
            waiting.extend(reversed(_as_list(node["itemListElement"])[:200]))
            continue
        if isinstance(node, list):
            waiting.extend(reversed(node[:200]))
            continue
        text = plain_text(node.get("text") or node.get("name") if isinstance(node, dict) else node, 600)
        if not text:
            continue
        count += 1
        yield text, _minutes_of_step(node) if isinstance(node, dict) else None


def _minutes_of_step(node: dict[str, object]) -> float | None:
    spent = node.get("timeRequired") or node.get("totalTime") or node.get("performTime")
    return minutes_of(plain_text(spent, 40))


def minutes_of(duration: str) -> float | None:
    """Minutes of an ISO 8601 duration (PT1H30M), None when it is none or longer than a day."""
    pattern = r"P(?:(\d{1,4})D)?T?(?:(\d{1,4})H)?(?:(\d{1,4})M)?(?:(\d{1,6})S)?"
    found = re.fullmatch(pattern, duration[:60].strip().upper(), re.ASCII)
    if found is None or not any(found.groups()):
        return None
    days, hours, minutes, seconds = (int(part or 0) for part in found.groups())
    total = days * 1440 + hours * 60 + minutes + seconds / 60
    return total if 0 < total <= 1440 else None


def found_steps(found: FoundRecipe) -> tuple[Step, ...]:
    """The steps of a found recipe, each after the one before; equipment and hands are guessed from the words."""
    steps: list[Step] = []
    for n, (text, minutes) in enumerate(found.steps):
        after = (steps[-1].key,) if steps else ()
        steps.append(guess_step(f"s{n + 1}", text, minutes, after))
    return tuple(steps)
