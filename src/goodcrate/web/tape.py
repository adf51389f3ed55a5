"""The tape: the working of whatever is selected, line by line, with the doubt and where it comes from.

View models only; every figure comes from core.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.variation import spread_of
from goodcrate.core.ground.amounts import MEASURES
from goodcrate.core.ground.nutrients import BY_KEY, Tally
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.portion.filled_boxes import DIVIDED, PLANNED, WEIGHED
from goodcrate.core.recipes.component import IngredientLine, figures_of
from goodcrate.core.recipes.counting import left_out
from goodcrate.core.recipes.figures_shown import FiguresShown, contents_of
from goodcrate.core.recipes.recipe import Recipe, Serving
from goodcrate.web.figures import grams, measured, number, percent, plain, whole

STAGE_WORDS = {
    PLANNED: Saying("planned"),
    DIVIDED: Saying("divided, not packed yet"),
    WEIGHED: Saying("weighed in the box"),
}


@dataclass(frozen=True)
class TapeLine:
    """One line: what, the working, the result; a small note below it."""

    what: str
    working: str
    result: str
    note: str = ""


@dataclass(frozen=True)
class Why:
    """A boxed sentence at the end of a tape, with at most one thing to click: a page to go to, or a field here.

    `typed` is put into that field, the cursor before it.
    """

    text: str
    fix: str = ""
    url: str = ""
    field: str = ""
    typed: str = ""


@dataclass(frozen=True)
class Tape:
    """A whole tape. `sums` follow the lines under a rule; `whys` are boxed sentences at the end."""

    title: str
    of: str
    lines: tuple[TapeLine, ...] = ()
    sums: tuple[TapeLine, ...] = ()
    whys: tuple[Why, ...] = ()
    heading: str = "kcal"
    extra: Mapping[str, object] = field(default_factory=dict)


NO_SPREAD: Mapping[str, float] = {}
SUM_KEYS = ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g", "fibre_g", "sodium_mg")


def sums_of(tally: Tally, shown: FiguresShown, spread: Mapping[str, float] = NO_SPREAD) -> tuple[TapeLine, ...]:
    """The headline nutrients of a tally, each with its doubt, or “at least” where something is unknown.

    `spread` is how far they vary with their foods, see `spread_shown`.
    """
    labels = {
        "energy_kcal": "energy",
        "protein_g": "protein",
        "fat_g": "fat",
        "carbohydrate_g": "carbohydrate",
        "fibre_g": "fibre",
        "sodium_mg": "sodium",
    }
    lines = []
    for key in SUM_KEYS:
        amount = tally.amount(key)
        notes = (
            [say("{unknown_share} of the weight has no figure", unknown_share=percent(amount.unknown_share))]
            if amount.is_at_least
            else []
        )
        notes += [varies] if (varies := as_foods_vary(spread.get(key, 0.0), key)) else []
        lines.append(TapeLine(labels[key], "", measured(amount, key), "; ".join(notes)))
        if key == "carbohydrate_g" and shown.net_carbohydrate:
            net = tally.net_carbohydrate(shown.polyol_share)
            lines.append(TapeLine(say("net carbohydrate"), "", measured(net, key)))
    return tuple(lines)


def spread_shown(shown: FiguresShown, contents: Iterable[tuple[Food, float]]) -> Mapping[str, float]:
    """How far the headline nutrients of foods with these grams vary; nothing when the household leaves that out."""
    return spread_of(contents, SUM_KEYS) if shown.spread else NO_SPREAD


def as_foods_vary(spread: float, key: str) -> str:
    """How far a nutrient may be off because foods vary, in words; nothing when it does not show."""
    nutrient = BY_KEY[key]
    if spread < 0.5 * 10.0**-nutrient.decimals:
        return ""
    return say("± {spread} {unit} as foods vary", spread=number(spread, nutrient.decimals), unit=nutrient.unit)


def serving_contents(serving: Serving) -> list[tuple[Food, float]]:
    """The foods of a serving with the grams of each."""
    contents = []
    for part in serving.parts:
        share = part.grams / part.expected.grams if part.expected.grams else 0.0
        contents += contents_of(part.component.lines, share)
    return contents


@once_for_same
def ingredient_line(line: IngredientLine, share: float = 1.0, *, is_planned: bool = False) -> TapeLine:
    """One ingredient: its grams × its energy per gram, times the share of the batch it is shown for."""
    per_gram = line.food.composition.get("energy_kcal")
    amount = line.amount
    note = say("planned, not weighed yet") if is_planned else MEASURES[amount.measure].label
    if amount.typed and not is_planned:
        note = amount.typed if amount.typed.endswith(note) else f"{amount.typed}, {note}"
    if amount.standard_error_g * share >= 0.5:
        note += f", ± {grams(amount.standard_error_g * share)} g"
    kept, name = line.kept_share, line.food.name
    if line.is_discarded:
        return TapeLine(
            name, f"{grams(amount.grams * share)} g", "0", say("{note}; taken out after cooking", note=note)
        )
    if line.is_poured_off:
        note = say("poured off, {note}", note=note)
    elif kept < 1:
        note += say("; {kept} of {grams} g stays", kept=percent(kept), grams=grams(amount.grams * share))
    if per_gram is None:
        return TapeLine(name, f"{grams(amount.grams * share * kept)} g", "unknown", note)
    if line.is_uncounted:
        note = say(
            "{note}; a trace, not counted: {grams} kcal",
            note=note,
            grams=whole(amount.grams * share * kept * per_gram / 100),
        )
        return TapeLine(name, f"{grams(amount.grams * share * kept)} g", "–", note)
    result = whole(amount.grams * share * kept * per_gram / 100)
    return TapeLine(name, f"{grams(amount.grams * share * kept)} g × {number(per_gram / 100, 2)}", result, note)


@dataclass(frozen=True)
class DoubtSource:
    """What a source of doubt is called, whether it was weighed already, and where it can be put right.

    `is_figures` when the doubt is in the food's own figures (its label prints few digits), not in the amount.
    """

    name: str
    is_weighed: bool
    url: str = ""
    field: str = ""
    is_figures: bool = False


def doubt_sources(
    lines: Iterable[IngredientLine], where: Callable[[IngredientLine], str] | None = None
) -> dict[str, DoubtSource]:
    """Ingredient lines and their foods' figures as sources of doubt, by key.

    `where` gives the page on which a line is weighed; without it the line's own field is pointed to.
    """
    sources = {}
    for x in lines:
        url, field_name = (where(x), "") if where else ("", f"line-{x.key}-amount")
        sources[x.key] = DoubtSource(x.food.name.lower(), x.amount.is_read_off_a_scale, url, field_name)
        if x.food.composition.errors_per_100_g:
            sources[figures_of(x.food)] = DoubtSource(
                x.food.name.lower(), False, f"/foods/{x.food.key}/label", is_figures=True
            )
    return sources


def doubt_sentence(tally: Tally, sources: Mapping[str, DoubtSource]) -> Why | None:
    """The largest contributor to the energy's doubt, and what would narrow it; None when doubt is small."""
    energy = tally.amount("energy_kcal")
    shares = tally.doubt_shares("energy_kcal")
    if energy.standard_error < 2.5 or not shares:
        return None
    key, share = shares[0]
    source = sources.get(key, DoubtSource("the weighing of the portion", True))
    if share < 0.3:
        return Why(
            say(
                "The ± comes from many small things; the largest, {name}, is {share} of it.",
                name=source.name,
                share=percent(share),
            )
        )
    much = say("Nearly all") if share >= 0.985 else percent(share)
    if source.is_figures:
        text = say(
            "{much} of the ± is the label of {name}: it prints few digits. Its column per 100 g is surer.",
            much=much,
            name=source.name,
        )
        return Why(text, say("Open its label"), source.url)
    if source.is_weighed:
        return Why(
            say(
                "{much} of the ± is {name}, weighed to 1 g: only a finer scale would narrow it.",
                much=much,
                name=source.name,
            )
        )
    rest = whole(max(1.0, tally.error_without(key)))  # the weighing itself leaves something
    text = say(
        "{much} of the ± is {name}. Weigh it and this is {value} ± {rest} kcal.",
        much=much,
        name=source.name,
        value=whole(energy.value),
        rest=rest,
    )
    return Why(text, say("Weigh it now") if source.url or source.field else "", source.url, source.field)


def left_out_sentence(traces: Tally, of: str) -> Why | None:
    """How much was left out as traces, when anything was; of a serving, a box or a day."""
    if traces.grams <= 0:
        return None
    energy, protein = (traces.amount(key).value for key in ("energy_kcal", "protein_g"))
    return Why(
        say(
            "Left out of {of} as traces: {energy} kcal and {protein} g of protein, in {grams} g "
            "of spices, herbs and leaf salad. Their sodium counts.",
            of=of,
            energy=whole(energy),
            protein=number(protein),
            grams=grams(traces.grams),
        )
    )


def recipe_tape(recipe: Recipe, serving: Serving, shown: FiguresShown, spread: Mapping[str, float]) -> Tape:
    """One serving of a recipe, ingredient by ingredient; `spread` is the serving's."""
    lines: list[TapeLine] = []
    for part in serving.parts:
        share = part.grams / part.expected.grams if part.expected.grams else 0.0
        lines.extend(ingredient_line(line, share) for line in part.component.lines)
    why = doubt_sentence(serving.tally, doubt_sources(line for c in recipe.components for line in c.lines))
    return Tape(
        say("One serving"),
        say(
            "{name} ÷ {servings} · {grams} g cooked",
            name=recipe.name or say("This recipe"),
            servings=plain(recipe.servings),
            grams=grams(serving.tally.grams),
        ),
        tuple(lines),
        sums_of(serving.tally, shown, spread),
        tuple(w for w in (why, left_out_sentence(left_out(recipe), say("a serving"))) if w),
    )
