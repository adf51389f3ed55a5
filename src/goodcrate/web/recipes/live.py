"""The live figures of the recipe bench, from core's serving to what the page shows."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.foods.food import ALLERGEN_WORDS
from goodcrate.core.ground.nutrients import Measured
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import heats_told, many, round_half_up
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.cooked_weight import AS_WEIGHED, FROM_FOODS, LEARNED, ExpectedWeight, WeightChange
from goodcrate.core.recipes.cooking import COOKED_AS, RAW
from goodcrate.core.recipes.figures_shown import USUAL_FIGURES, FiguresShown
from goodcrate.core.recipes.filling_vessels import filling
from goodcrate.core.recipes.heating import is_cooked
from goodcrate.core.recipes.keeping import CONTAINERS, Storage, layering, storage_of, texture_of
from goodcrate.core.recipes.lint import CARE, Note, lint
from goodcrate.core.recipes.recipe import ComponentServing, Recipe, Serving, serving_of
from goodcrate.core.recipes.sources import Contribution, contributions
from goodcrate.core.recipes.steps import hands_on_min, unattended_min
from goodcrate.core.recipes.variants import changed_components, with_variant
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.formats.reference import guidance
from goodcrate.web.drawing import Share, energy_bar
from goodcrate.web.figures import grams, number, whole
from goodcrate.web.tape import Tape, as_foods_vary, recipe_tape, serving_contents, spread_shown


@dataclass(frozen=True)
class Around:
    """What a recipe's figures are worded with: the household's vessels, names of its eaters, and what forbids it."""

    vessels: Sequence[Vessel] = ()
    eaters: Mapping[str, str] | None = None
    why_not: Callable[[Recipe], tuple[str, ...]] | None = None
    shown: FiguresShown = USUAL_FIGURES


NOTHING_AROUND = Around()


@dataclass(frozen=True)
class LiveComponent:
    """A component's own line: what goes in, what comes out, what a serving of it weighs, how it keeps and fits."""

    ingredient: str
    cooked: str
    basis: str
    per_serving: str
    per_100_g: str
    flows: str
    keeps: str
    keeps_why: str
    weighs_why: tuple[str, ...]
    vessel: str
    vessel_fits: bool


@dataclass(frozen=True)
class LiveVariant:
    """A variant's serving beside the recipe's."""

    name: str
    whom: str
    kcal: str
    protein: str
    allergens: tuple[str, ...]
    apart: tuple[str, ...]


@dataclass(frozen=True)
class SourceBar:
    """One ranked bar: what is shared, and by which foods; the rest is drawn as one piece."""

    label: str
    shares: tuple[Share, ...]
    words: str


@dataclass(frozen=True)
class LiveFigures:
    """Everything that changes while grams are typed."""

    serving: Serving
    tape: Tape
    bar: tuple[Share, ...]
    components: Mapping[str, LiveComponent]
    line_kcal: Mapping[str, str]
    allergens: tuple[str, ...]
    has_lines: bool
    notes: tuple[Note, ...] = ()
    sources: tuple[Contribution, ...] = ()
    bars: tuple[SourceBar, ...] = ()
    variants: tuple[LiveVariant, ...] = ()
    layers: str = ""
    hands_on: str = ""
    unattended: str = ""
    pending: int = 0
    forbids: tuple[str, ...] = ()
    varies: str = ""
    net: Measured | None = None

    @property
    def cautions(self) -> tuple[Note, ...]:
        """Notes a person can be hurt by when they are passed over."""
        return tuple(n for n in self.notes if n.kind == CARE)

    @property
    def looks(self) -> tuple[Note, ...]:
        """Notes to look at."""
        return tuple(n for n in self.notes if n.kind != CARE)


def live_figures(recipe: Recipe, around: Around = NOTHING_AROUND) -> LiveFigures:
    """Compute a serving and word it."""
    serving = serving_of(recipe)
    line_kcal = {}
    for part in serving.parts:
        for line in part.component.lines:
            energy = line.tally.amount("energy_kcal")
            line_kcal[line.key] = "unknown" if energy.is_unknown else say("{value} kcal", value=whole(energy.value))
    found = contributions(serving)
    spread = spread_shown(around.shown, serving_contents(serving))
    return LiveFigures(
        serving,
        recipe_tape(recipe, serving, around.shown, spread),
        energy_bar(serving.tally),
        {part.component.key: _component(part, recipe, around) for part in serving.parts},
        line_kcal,
        tuple(ALLERGEN_WORDS[a] for a in sorted(recipe.allergens)),
        has_lines=bool(serving.parts),
        notes=lint(recipe, guidance()),
        sources=found,
        bars=_bars(found),
        variants=tuple(_variants(recipe, around.eaters or {})),
        layers=_layers(recipe),
        hands_on=minutes_words(hands_on_min(recipe.steps)),
        unattended=minutes_words(unattended_min(recipe.steps)),
        pending=len(recipe.pending),
        varies=as_foods_vary(spread.get("energy_kcal", 0.0), "energy_kcal"),
        net=serving.tally.net_carbohydrate(around.shown.polyol_share) if around.shown.net_carbohydrate else None,
        forbids=around.why_not(recipe) if around.why_not else (),
    )


def minutes_words(minutes: float) -> str:
    """Minutes as people say them: 45 min, 1 h 20."""
    rounded = int(round_half_up(minutes))
    if rounded < 60:
        return say("{rounded} min", rounded=rounded)
    hours, rest = divmod(rounded, 60)
    return f"{hours} h {rest:02d}" if rest else f"{hours} h"


def _component(part: ComponentServing, recipe: Recipe, around: Around) -> LiveComponent:
    expected, component = part.expected, part.component
    energy = part.batch.per_100_g("energy_kcal") if expected.grams > 0 else None
    storage = storage_of(component, recipe.steps, guidance().keep_groups)
    put = filling(component, expected.grams, around.vessels)
    error = whole(expected.standard_error_g)
    return LiveComponent(
        f"{grams(expected.ingredient_g)} g",
        f"{grams(expected.grams)} g" + (f" ± {error}" if error != "0" else ""),
        _basis(expected, component),
        f"{grams(part.grams)} g",
        say("{value} kcal per 100 g", value=whole(energy.value)) if energy else "",
        _flows(part),
        keeps=keeping_words(storage),
        keeps_why=keeping_reasons(storage),
        weighs_why=tuple(_change_words(change) for change in expected.changes),
        vessel=put.sentence if put else "",
        vessel_fits=put.fits if put else True,
    )


def _basis(expected: ExpectedWeight, component: Component) -> str:
    """Where a cooked weight comes from, and what its yield is for."""
    how = COOKED_AS[expected.method]
    if expected.basis == AS_WEIGHED:
        return say("{how}: it weighs what goes in", how=how) if expected.method == RAW else how
    if expected.basis == FROM_FOODS:
        return f"× {number(expected.yield_factor, 2)}, {how}"
    if expected.basis == LEARNED and component.learned is not None:
        learned = component.learned
        spread = (
            ""
            if learned.pots == 1
            else say(", {low} to {high}", low=number(learned.low, 2), high=number(learned.high, 2))
        )
        return say(
            "× {factor} learned from your last {pots}{spread}",
            factor=number(learned.factor, 2),
            pots=many(learned.pots, "pot"),
            spread=spread,
        )
    return expected.basis


def _change_words(change: WeightChange) -> str:
    sign = "+" if change.grams > 0 else "−"
    return f"{sign} {grams(abs(change.grams))} g ± {whole(change.standard_error_g)}: {change.words}"


def _flows(part: ComponentServing) -> str:
    """What leaves and what water does, when there is anything to say."""
    words = []
    if part.batch.taken_out_g >= 0.5:
        words.append(say("{taken_out_g} g taken out", taken_out_g=grams(part.batch.taken_out_g)))
    water = part.batch.water_g
    if abs(water) >= max(1.0, 0.005 * part.expected.grams):
        words.append(
            say(
                "{water} g of water {what}",
                water=grams(abs(water)),
                what=say("taken up") if water > 0 else say("steamed off"),
            )
        )
    return ", ".join(words)


def keeping_reasons(storage: Storage) -> str:
    """Why it keeps so long, how to cool and thaw it, and who says so."""
    group = storage.group
    thaw = say(" Thaw {thaw}.", thaw=group.thaw) if storage.freezable and group.thaw else ""
    return heats_told(
        say(
            "{why} Cooling: {cool_rule}.{thaw} {source}; a printed use-by date overrules.",
            why=group.why,
            cool_rule=group.cool_rule,
            thaw=thaw,
            source=group.source,
        )
    )


def keeping_words(storage: Storage) -> str:
    """How a component keeps, in one line: days, freezer, reheating, container."""
    group = storage.group
    cautious = many(group.fridge_days_cautious, "day")
    days = say(
        "{cautious} in the fridge by cautious advice, {fridge_days_usual} by usual advice",
        cautious=cautious,
        fridge_days_usual=group.fridge_days_usual,
    )
    if group.keeps_dry:
        days = days.replace("in the fridge", "dry in the cupboard")
    months = storage.freezer_months
    if months is None and storage.freezes_poorly:
        freezes = say("goes limp or splits when frozen: frozen only if you say so")
    elif months is None:
        freezes = say("not for the freezer")
    else:
        freezes = say("freezes for {months}", months=many(months, "month"))
        freezes += say(", but poorly") if storage.freezes_poorly else ""
    because = say(" (what cannot be told keeps like cooked leftovers)")
    if storage.own_days is not None:
        reason = f": “{storage.days_because}”" if storage.days_because else ""
        because = say(
            " (your own {own_days}{reason}; the guidance says {guidance_days})",
            own_days=many(storage.own_days, "day"),
            reason=reason,
            guidance_days=storage.guidance_days,
        )
    elif storage.is_chosen:
        because = say(" (your choice")
        if storage.is_longer_than_its_foods:
            least = storage.by_foods
            because += say(
                "; by its foods only {fridge_days_cautious} by cautious and {fridge_days_usual} by usual",
                fridge_days_cautious=least.fridge_days_cautious,
                fridge_days_usual=least.fridge_days_usual,
            )
        because += ")"
    elif storage.because:
        because = say(" ({because} decides)", because=storage.because.lower())
    return say(
        "{days}{because}; {freezes}; {reheat}; goes into {CONTAINERS}",
        days=days,
        because=because,
        freezes=freezes,
        reheat=storage.reheat,
        CONTAINERS=CONTAINERS[storage.container],
    )


def _bars(found: Sequence[Contribution]) -> tuple[SourceBar, ...]:
    bars = []
    for label, share_of in (("energy", "energy_share"), ("protein", "protein_share"), ("the ±", "doubt_share")):
        ranked = sorted(((getattr(c, share_of), c) for c in found), key=lambda pair: -pair[0])
        shares, x = [], 0.0
        for share, c in ranked:
            if share * 100 < 1.5:
                break
            shares.append(Share(c.gives, c.name, round(x, 2), round(share * 100, 2), c.energy_kcal))
            x += share * 100
        if not shares:
            continue
        told = [f"{s.label.split(',')[0].lower()} {whole(s.width_pct)} %" for s in shares[:3]]
        bars.append(SourceBar(label, tuple(shares), " · ".join(told)))
    return tuple(bars)


def _variants(recipe: Recipe, eaters: Mapping[str, str]) -> list[LiveVariant]:
    out = []
    for variant in recipe.variants:
        made = with_variant(recipe, variant)
        tally = serving_of(made).tally
        out.append(
            LiveVariant(
                variant.name,
                ", ".join(eaters.get(e, "somebody") for e in variant.eater_keys) or say("nobody yet"),
                whole(tally.amount("energy_kcal").value),
                number(tally.amount("protein_g").value),
                tuple(ALLERGEN_WORDS[a] for a in sorted(made.allergens)),
                tuple(c.name for c in changed_components(recipe, variant)),
            )
        )
    return out


def _layers(recipe: Recipe) -> str:
    """From the bottom of a jar up, when there is more than one layer to keep in mind."""
    textures = [(c, texture_of(c, is_cooked(c, recipe.steps))) for c in recipe.components if c.lines]
    if len({t for _, t in textures}) < 2:
        return ""
    return " → ".join(c.name for c in layering(textures))
