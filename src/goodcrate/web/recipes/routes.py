"""Routes of recipes: the library, and the bench where one is weighed together with its figures live."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.amounts import MEASURES
from goodcrate.core.errors import InvalidInput, InvalidInputs
from goodcrate.core.foods import ALLERGENS
from goodcrate.core.recipes import USES
from goodcrate.services import foods, recipe_figures, recipes
from goodcrate.services.calling import StaleWrite
from goodcrate.services.pasting import match_lines
from goodcrate.services.week import new_id
from goodcrate.web.drawing import energy_bar
from goodcrate.web.finder import NOTHING_ASKED, ask_finder
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.recipes.forms import ComponentForm, LineForm, RecipeForm
from goodcrate.web.recipes.live import live_figures
from goodcrate.web.security import Posted, Signed, Visitor, text

router = APIRouter(prefix="/recipes")


@router.get("")
def library(request: Request, visitor: Signed) -> Response:
    """All recipes with a serving's figures."""
    saved = recipes.list_recipes(visitor.caller)
    bars = {p.recipe.key: energy_bar(p.serving.tally) for p in saved}
    changed = {str(recipe_id) for recipe_id in recipe_figures.recipes_with_changed_foods(visitor.caller)}
    return page(
        request, visitor, "recipes/page.html", "recipes", saved=saved, bars=bars, allergens=ALLERGENS, changed=changed
    )


def _bench(
    request: Request, visitor: Visitor, form: RecipeForm, faults: Faults = NO_FAULTS, status: int = 200,
    keeps: tuple[str, ...] = (),
) -> Response:  # fmt: skip
    measuring = foods.measuring(visitor.caller, form.food_keys)
    read = form.read(measuring)
    live = live_figures(recipes.compute(visitor.caller, read.input, measuring.foods))
    return page(
        request, visitor, "recipes/bench.html", "recipes", status=status,
        form=form, faults=faults, live=live, tape=live.tape, foods=measuring.foods, measures=MEASURES, uses=USES,
        found=None,
        notes=read.notes, changed=recipe_figures.changed_figures(visitor.caller, UUID(form.id)), keeps=keeps,
    )  # fmt: skip


@router.get("/new")
def new_recipe(request: Request, visitor: Signed) -> Response:
    """An empty bench."""
    return _bench(request, visitor, RecipeForm.blank())


@router.get("/find")
def find(request: Request, visitor: Signed, q: str = "", component: str = "") -> Response:
    """Foods to put on the bench, as buttons."""
    answer = ask_finder(request, visitor, q, limit=12) if q.strip() else NOTHING_ASKED
    return fragment("recipes/_found.html", answer=answer, q=q, component=component)


@router.get("/line")
def new_line(request: Request, visitor: Signed, food: str, amount: str = "") -> Response:
    """A fresh ingredient row for a found food, with the amount that was typed before its name."""
    known = foods.food_by_key(visitor.caller, food).food
    line = LineForm(str(new_id()), known.key, amount[:60])
    return fragment(
        "recipes/_line.html", line=line, foods={known.key: known}, measures=MEASURES, uses=USES, faults=NO_FAULTS,
        live=None, is_new=True, notes={},
    )  # fmt: skip


@router.post("/paste")
def paste(request: Request, visitor: Signed, form: Posted) -> Response:
    """Rows for pasted lines; what is unsure asks for a yes at its row, what is not understood is kept as it stands."""
    try:
        matched = match_lines(visitor.caller, text(form, "paste"))
    except InvalidInput as fault:
        return fragment("recipes/_refused.html", fault=fault.message)
    rows = [RecipeForm.pasted_line(m) for m in matched]
    known = {m.food.key: m.food for m in matched if m.food is not None}
    return fragment(
        "recipes/_lines.html", rows=rows, foods=known, measures=MEASURES, uses=USES, faults=NO_FAULTS, live=None,
        is_new=False, notes={},
    )  # fmt: skip


@router.get("/component")
def new_component(request: Request, visitor: Signed) -> Response:
    """A fresh component."""
    return fragment(
        "recipes/_component.html", component=ComponentForm(str(new_id())), faults=NO_FAULTS, live=None, foods={},
        measures=MEASURES, uses=USES, is_only=False, is_new=True, notes={},
    )  # fmt: skip


@router.post("/{recipe_id}/compute")
def compute(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """The figures of what is typed right now; nothing is saved."""
    typed_form = RecipeForm.of_post(form, str(recipe_id))
    measuring = foods.measuring(visitor.caller, typed_form.food_keys)
    read = typed_form.read(measuring)
    live = live_figures(recipes.compute(visitor.caller, read.input, measuring.foods))
    return fragment(
        "recipes/_live.html", is_fragment=True, live=live, tape=live.tape, form=typed_form, notes=read.notes,
        measures=MEASURES,
        faults=typed_form.faults_of(read.faults),
    )  # fmt: skip


@router.get("/{recipe_id}")
def edit_recipe(request: Request, visitor: Signed, recipe_id: UUID) -> Response:
    """One recipe on the bench."""
    saved = recipes.get_recipe(visitor.caller, recipe_id)
    return _bench(request, visitor, RecipeForm.of_page(saved), keeps=saved.keeps)


@router.post("/{recipe_id}/figures")
def settle_figures(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """Say which figures count where a food changed: those the recipe was made with, or the new ones."""
    choice = text(form, "choice")
    if choice in ("keep", "take"):
        recipe_figures.settle_changed_figures(visitor.caller, recipe_id, keep=choice == "keep")
    else:
        recipe_figures.take_new_figures(visitor.caller, recipe_id)
    return go(f"/recipes/{recipe_id}")


@router.post("/{recipe_id}")
def save_recipe(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """Save a recipe, new or changed."""
    typed_form = RecipeForm.of_post(form, str(recipe_id))
    read = typed_form.read(foods.measuring(visitor.caller, typed_form.food_keys))
    try:
        if read.faults:
            raise InvalidInputs(read.faults)
        recipes.save_recipe(visitor.caller, read.input)
    except InvalidInputs as error:
        return _bench(request, visitor, typed_form, typed_form.faults_of(list(error.faults)), 422)
    except StaleWrite as error:
        typed_form.version = error.current_version
        return _bench(request, visitor, typed_form, Faults.of(error), 409)
    return go(f"/recipes/{recipe_id}")
