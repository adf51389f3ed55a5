"""Routes of the recipe library: finding, filtering, copying, putting aside, printing, taking out as files."""

import json
from contextlib import suppress
from dataclasses import dataclass, replace
from urllib.parse import urlencode
from uuid import UUID

from fastapi import Request
from fastapi.responses import JSONResponse, PlainTextResponse, Response

from goodcrate.core.foods.food import ALLERGEN_WORDS
from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.recipes.keeping import storage_of
from goodcrate.core.recipes.recipe import serving_of
from goodcrate.core.recipes.steps import hands_on_min
from goodcrate.core.targets.slot import KINDS_OF_SLOT, NO_MEAL
from goodcrate.formats.recipe_csv import write_lines
from goodcrate.formats.reference import keep_groups
from goodcrate.services import kitchen
from goodcrate.services.calling import NotFound
from goodcrate.services.recipes import broken, library, recipe_figures, saving
from goodcrate.services.recipes.files_out import all_as_jsonld, node_of, portable
from goodcrate.services.recipes.library import RecipePage
from goodcrate.services.week.weeks import new_id
from goodcrate.web.drawing import energy_bar
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.recipes.address import router
from goodcrate.web.recipes.live import keeping_words, live_figures, minutes_words
from goodcrate.web.recipes.reading import around
from goodcrate.web.security import Posted, Signed, Visitor, text

DRY_FROM_DAYS = 60
"""What keeps two months is called dry in the library, not counted in days: our line."""


@dataclass(frozen=True)
class Shelved:
    """A recipe in the library, with what one looks for in it."""

    page: RecipePage
    hands_min: float
    has_steps: bool
    freezes: bool
    keeps_days: int
    twin: str = ""

    @property
    def is_dry(self) -> bool:
        """Whether it keeps so long that days say little: the dry store."""
        return self.keeps_days >= DRY_FROM_DAYS

    @property
    def is_cold_and_travels(self) -> bool:
        """Tagged by the cook as eaten cold and safe to carry."""
        return {"cold", "travels"} <= set(self.page.tags)

    @property
    def hands(self) -> str:
        """Hands-on minutes in words; a dash while no step says how long it takes."""
        return minutes_words(self.hands_min) if self.hands_min else "–"


def shelved(saved: RecipePage) -> Shelved:
    """A recipe with its hands-on minutes, and whether all of it freezes."""
    recipe = saved.recipe
    stores = [storage_of(c, recipe.steps, keep_groups()) for c in recipe.components if c.lines]
    cooked = [s for s in stores if not s.group.keeps_dry]
    return Shelved(
        saved,
        hands_on_min(recipe.steps),
        bool(recipe.steps),
        bool(cooked) and all(s.freezable for s in cooked),
        min((s.group.fridge_days_cautious for s in stores), default=0),
    )


def _with_twins(shelf: list[Shelved]) -> list[Shelved]:
    """Recipes of one name, or of the very same foods, name each other."""
    seen: dict[object, str] = {}
    out = []
    for s in shelf:
        foods = frozenset(line.food.key for line in s.page.recipe.lines)
        keys = [words_of(s.page.recipe.name), *([foods] if len(foods) > 2 else [])]
        twin = next((seen[k] for k in keys if k in seen), "")
        for k in keys:
            seen.setdefault(k, s.page.recipe.name)
        out.append(replace(s, twin=twin))
    return out


@dataclass(frozen=True)
class Wanted:
    """What the library is filtered by; empty is everything."""

    q: str = ""
    tag: str = ""
    hands: str = ""
    cold: str = ""
    freezes: str = ""
    kcal_from: str = ""
    kcal_to: str = ""
    protein: str = ""
    lacks: str = ""

    @property
    def is_on(self) -> bool:
        """Whether anything is filtered."""
        return self != Wanted()

    def _could_be_tagged(self, s: Shelved) -> bool:
        """Whether a recipe lacks just the tags that are asked about, of those that say where it may stand."""
        if not self.lacks:
            return True
        asked, tags = set(self.lacks.split(".")), set(s.page.tags)
        other_kinds = set(KINDS_OF_SLOT) - asked
        return not asked <= tags and NO_MEAL not in tags and not tags & other_kinds

    @property
    def is_folded_open(self) -> bool:
        """Whether anything but the words is filtered: then the folded filters are shown."""
        return self != Wanted(self.q)

    def takes(self, s: Shelved, bounds: dict[str, float]) -> bool:
        """Whether a recipe passes. One without steps passes no filter on minutes: its time is unknown, not zero."""
        name = " ".join([s.page.recipe.name, *s.page.tags, *(x.food.name for x in s.page.recipe.lines)])
        words = words_of(name)
        tally = s.page.serving.tally
        kcal, protein = tally.amount("energy_kcal").value, tally.amount("protein_g").value
        return (
            self._could_be_tagged(s)
            and all(any(w.startswith(q) for w in words) for q in words_of(self.q))
            and (not self.tag or self.tag in s.page.tags)
            and ("hands" not in bounds or (s.hands_min > 0 and s.hands_min <= bounds["hands"]))
            and (not self.cold or s.is_cold_and_travels)
            and (not self.freezes or s.freezes)
            and bounds.get("kcal_from", 0) <= kcal <= bounds.get("kcal_to", 1e9)
            and protein >= bounds.get("protein", 0)
        )


def _bounds(wanted: Wanted) -> tuple[dict[str, float], Faults]:
    bounds, faults = {}, {}
    for name in ("hands", "kcal_from", "kcal_to", "protein"):
        typed = getattr(wanted, name)
        if typed.strip():
            try:
                bounds[name] = read_number(typed, name, say("Give a number."))
            except InvalidInput as fault:
                faults[name] = fault.message
    return bounds, Faults(faults) if faults else NO_FAULTS


@router.get("")
def list_recipes(
    request: Request,
    visitor: Signed,
    q: str = "",
    tag: str = "",
    hands: str = "",
    cold: str = "",
    freezes: str = "",
    kcal_from: str = "",
    kcal_to: str = "",
    protein: str = "",
    archived: str = "",
    lacks: str = "",
) -> Response:
    """The household's recipes, those that answer the filters."""
    wanted = Wanted(
        q[:80], tag[:40], hands, cold, freezes, kcal_from, kcal_to=kcal_to, protein=protein, lacks=lacks[:60]
    )
    bounds, faults = _bounds(wanted)
    saved = library.list_recipes(visitor.caller, archived=bool(archived))
    everything = _with_twins([shelved(p) for p in saved if not p.broken])
    found = [s for s in everything if wanted.takes(s, bounds)]
    bars = {s.page.recipe.key: energy_bar(s.page.serving.tally) for s in found}
    tags = sorted({t for s in everything for t in s.page.tags})
    changed = {str(recipe_id) for recipe_id in recipe_figures.recipes_with_changed_foods(visitor.caller)}
    return page(
        request,
        visitor,
        "recipes/page.html",
        "recipes",
        found=found,
        total=len(everything),
        bars=bars,
        tags=tags,
        unreadable=[p for p in saved if p.broken],
        changed=changed,
        wanted=wanted,
        faults=faults,
        archived=bool(archived),
        allergens=ALLERGEN_WORDS,
        without_tag=urlencode({"q": q}) if q else "",
        status=422 if faults else 200,
    )


@router.post("/{recipe_id}/duplicate")
def duplicate(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """A copy of a recipe, to be changed without touching the first."""
    copy_id = id_of(text(form, "copy-id")) or new_id()
    return go(f"/recipes/{saving.duplicate(visitor.caller, recipe_id, copy_id)}")


@router.post("/{recipe_id}/archive")
def archive(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """Put a recipe aside, or take it out again."""
    archived = text(form, "archived") == "1"
    saving.archive(visitor.caller, recipe_id, archived=archived)
    return go("/recipes" if archived else f"/recipes/{recipe_id}")


def broken_page(request: Request, visitor: Visitor, saved: RecipePage) -> Response:
    """The page of a recipe that cannot be computed: why, and the ways out."""
    return page(request, visitor, "recipes/broken.html", "recipes", saved=saved)


@router.post("/{recipe_id}/remove-broken")
def remove_broken(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """Take a recipe away that cannot be computed."""
    with suppress(NotFound):  # taken away before
        broken.remove_broken(visitor.caller, recipe_id)
    return go("/recipes")


def _file(content: Response, name: str) -> Response:
    content.headers["content-disposition"] = f'attachment; filename="{name}"'
    return content


@router.get("/export.json")
def export_all(visitor: Signed) -> Response:
    """Every recipe as one JSON-LD graph."""
    return _file(Response(all_as_jsonld(visitor.caller), media_type="application/ld+json"), "good-crate-recipes.json")


@router.get("/lines.csv")
def export_lines(visitor: Signed) -> Response:
    """Every ingredient line of every recipe as CSV."""
    everything = [portable(p) for p in library.list_recipes(visitor.caller) if not p.broken]
    return _file(
        PlainTextResponse(write_lines(everything), media_type="text/csv; charset=utf-8"), "good-crate-lines.csv"
    )


@router.get("/{recipe_id}/export.json")
def export_one(visitor: Signed, recipe_id: UUID) -> Response:
    """One recipe as schema.org/Recipe JSON-LD, with all we know of it."""
    saved = library.get_recipe(visitor.caller, recipe_id)
    node = node_of(saved)
    if node is None:
        rows = json.dumps(broken.stored(visitor.caller, recipe_id), default=str, ensure_ascii=False, indent=1)
        return _file(Response(rows, media_type="application/json"), f"{_slug(saved.recipe.name)}-as-stored.json")
    return _file(JSONResponse(node, media_type="application/ld+json"), f"{_slug(saved.recipe.name)}.json")


@router.get("/{recipe_id}/lines.csv")
def export_one_lines(visitor: Signed, recipe_id: UUID) -> Response:
    """One recipe's ingredient lines as CSV."""
    saved = library.get_recipe(visitor.caller, recipe_id)
    content = PlainTextResponse(write_lines([portable(saved)]), media_type="text/csv; charset=utf-8")
    return _file(content, f"{_slug(saved.recipe.name)}.csv")


def _slug(name: str) -> str:
    return "-".join(w for w in words_of(name) if w.isascii())[:60] or "recipe"


@router.get("/{recipe_id}/print")
def printable(request: Request, visitor: Signed, recipe_id: UUID) -> Response:
    """One recipe on paper: weights, steps, keeping, figures."""
    saved = library.get_recipe(visitor.caller, recipe_id)
    if saved.broken:
        return broken_page(request, visitor, saved)
    recipe = saved.recipe
    cooked = [c for c in recipe.components if c.lines]
    keeps: Document = {c.key: keeping_words(storage_of(c, recipe.steps, keep_groups())) for c in cooked}
    setup = kitchen.who_and_what(visitor.caller)
    live = live_figures(recipe, around(setup.eaters, setup.vessels, setup.shown))
    shown: Document = {
        "live": live,
        "keeps": keeps,
        "numbers": {s.key: n for n, s in enumerate(recipe.steps, 1)},
        "serving": serving_of(recipe),
    }
    return page(request, visitor, "recipes/print.html", "recipes", saved=saved, recipe=recipe, **shown)
