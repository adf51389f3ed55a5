"""Routes of the recipe bench: typing, computing what is typed, saving by itself and on request, undo."""

from collections.abc import Sequence
from datetime import UTC, datetime
from uuid import UUID

from fastapi import Request
from fastapi.responses import HTMLResponse, Response

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import clock
from goodcrate.core.recipes.step_checks import MOST_STEPS
from goodcrate.services.calling import NotFound, StaleWrite
from goodcrate.services.foods import own_foods
from goodcrate.services.recipes import habits, library, recipe_figures, saving, versions
from goodcrate.services.recipes.pasting import match_lines
from goodcrate.services.targets import household_eaters
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Whole
from goodcrate.web.finder import NOTHING_ASKED, ask_finder
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page, render
from goodcrate.web.recipes.address import router
from goodcrate.web.recipes.component_form import ComponentForm
from goodcrate.web.recipes.forms import RecipeForm
from goodcrate.web.recipes.library import broken_page
from goodcrate.web.recipes.line_form import LineForm
from goodcrate.web.recipes.reading import benched, choices, figures_of_bench
from goodcrate.web.recipes.step_form import StepForm
from goodcrate.web.security import Posted, Signed, Visitor, text


def _bench(
    request: Request,
    visitor: Visitor,
    form: RecipeForm,
    faults: Faults = NO_FAULTS,
    status: int = 200,
    keeps: Sequence[str] = (),
    archived: bool = False,
) -> Response:
    done = benched(visitor, form)
    refused: list[InvalidInput] = []
    live = figures_of_bench(done, refused)
    if refused and not faults:
        faults = form.faults_of(refused)
    return page(
        request,
        visitor,
        "recipes/bench.html",
        "recipes",
        status=status,
        form=form,
        faults=faults,
        live=live,
        tape=live.tape,
        foods=done.measuring.foods,
        found=None,
        notes=done.read.notes,
        changed=recipe_figures.changed_figures(visitor.caller, UUID(form.id)),
        keeps=keeps,
        archived=archived,
        eaters=household_eaters.list_eaters(visitor.caller),
        swap_line="",
        parts=_borrowable(visitor, form.id),
        past=_past(visitor, form),
        show_table=False,
        **choices(),
    )


def _past(visitor: Visitor, form: RecipeForm) -> Sequence[versions.PastVersion]:
    if not form.version:
        return ()
    try:
        return versions.past_versions(visitor.caller, UUID(form.id))
    except NotFound:
        return ()


def _borrowable(visitor: Visitor, recipe_id: str) -> list[tuple[str, str]]:
    """Other recipes' own components, to be served here too: key and words."""
    return [
        (c.key, f"{c.name} ({p.recipe.name})")
        for p in library.list_recipes(visitor.caller)
        if p.recipe.key != recipe_id
        for c in p.recipe.own_components
        if c.lines
    ]


@router.get("/new")
def new_recipe(request: Request, visitor: Signed) -> Response:
    """An empty bench."""
    return _bench(request, visitor, RecipeForm.blank())


@router.get("/find")
def find(request: Request, visitor: Signed, q: str = "", component: str = "", line: str = "") -> Response:
    """Foods to put on the bench, as buttons; with `line` they answer for a line that is not understood."""
    answer = ask_finder(request, visitor, q, limit=12) if q.strip() else NOTHING_ASKED
    return fragment("recipes/_found.html", answer=answer, q=q, component=component, line=line)


def _row(template: str, **values: object) -> Response:
    return fragment(
        template, **{"faults": NO_FAULTS, "live": None, "notes": {}, "is_new": False, **values, **choices()}
    )


@router.get("/line")
def new_line(request: Request, visitor: Signed, food: str, amount: str = "") -> Response:
    """A fresh ingredient row for a found food, with the amount that was typed before its name."""
    known = own_foods.food_by_key(visitor.caller, food).food
    line = LineForm(str(new_id()), known.key, amount[:60])
    return _row("recipes/_line.html", line=line, foods={known.key: known}, is_new=True)


@router.post("/paste")
def paste(request: Request, visitor: Signed, form: Posted) -> Response:
    """Rows for pasted lines; what is unsure asks for a yes at its row, what is not understood is kept as it stands."""
    try:
        matched = match_lines(visitor.caller, text(form, text(form, "into")))
    except InvalidInput as fault:
        return HTMLResponse(render("recipes/_refused.html", fault=fault.message), 422)
    known = {m.food.key: m.food for m in matched if m.food is not None}
    return _row("recipes/_lines.html", rows=[LineForm.of_match(m) for m in matched], foods=known)


@router.get("/component")
def new_component(request: Request, visitor: Signed, used: str = "", name: str = "") -> Response:
    """A fresh component; with `used` another recipe's, to be served here too."""
    component = ComponentForm(str(new_id()), name[:80], used=used)
    return _row("recipes/_component.html", component=component, foods={}, is_only=False, is_new=True)


@router.get("/step")
def new_step(request: Request, visitor: Signed, after: Whole = 0, component: str = "", method: str = "") -> Response:
    """A fresh step that follows the one before it."""
    step = StepForm(str(new_id()), component=component, after=str(after) if after > 0 else "")
    return _row("recipes/_step.html", step=step, number=after + 1, is_new=True, form=RecipeForm(""))


@router.post("/steps")
def pasted_steps(request: Request, visitor: Signed, form: Posted) -> Response:
    """Steps of a pasted method, one a line, each after the one before; minutes are read where they stand."""
    typed = RecipeForm.of_post(form, str(new_id()))
    before = len(typed.steps)
    try:
        rows = _steps_of(text(form, "method"), before)
    except InvalidInput as fault:
        return HTMLResponse(render("recipes/_refused.html", fault=fault.message), 422)
    return _row("recipes/_steps.html", rows=rows, first=before + 1, form=typed)


def _steps_of(method: str, before: int) -> list[StepForm]:
    """One step a line, after so many others; more than a recipe may have are refused, so that none is dropped."""
    lines = [line.strip() for line in method.splitlines() if line.strip()]
    if len(lines) > MOST_STEPS:
        raise InvalidInput(
            "method",
            say("These are {count} steps.", count=len(lines)),
            say("A recipe has at most {most}.", most=MOST_STEPS),
        )
    return [StepForm.of_text(str(new_id()), line, before + n) for n, line in enumerate(lines)]


@router.post("/{recipe_id}/compute")
def compute(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """The figures of what is typed right now; nothing is saved."""
    typed_form = RecipeForm.of_post(form, str(recipe_id))
    done = benched(visitor, typed_form)
    faults = list(done.read.faults)
    live = figures_of_bench(done, faults)
    return fragment(
        "recipes/_live.html",
        is_fragment=True,
        live=live,
        tape=live.tape,
        form=typed_form,
        notes=done.read.notes,
        faults=typed_form.faults_of(faults),
        foods=done.measuring.foods,
        show_table=bool(text(form, "sources-table")),
        **choices(),
    )


@router.post("/{recipe_id}/autosave")
def autosave(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """Save what is typed when all of it can be saved; otherwise say what still keeps it, and keep it in the browser."""
    typed_form = RecipeForm.of_post(form, str(recipe_id))
    read = typed_form.read(own_foods.measuring(visitor.caller, typed_form.food_keys))
    said, version = "", typed_form.version
    faults = list(read.faults)
    if not faults:
        try:
            version = saving.save_recipe(visitor.caller, read.input)
            habits.remember(visitor.caller, typed_form.confirmed)
        except InvalidInputs as error:
            faults = list(error.faults)
        except StaleWrite:
            said = say("Changed elsewhere meanwhile: save to compare.")
    if faults:
        count = len(faults)
        why = faults[0].message if count == 1 else say("{count} places need another look.", count=count)
        said = say("Not saved yet: {why}", why=why)
    at = clock(datetime.now(UTC).astimezone().time())
    return fragment("recipes/_saved.html", said=said, version=version, at=at, form=typed_form)


@router.post("/{recipe_id}/undo")
def undo(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """Bring the recipe back to how it was before the last save."""
    try:
        versions.undo(visitor.caller, recipe_id)
    except InvalidInput as fault:
        saved = library.get_recipe(visitor.caller, recipe_id)
        return _bench(request, visitor, RecipeForm.of_page(saved), Faults({}, fault.message), 422)
    return go(f"/recipes/{recipe_id}")


@router.post("/{recipe_id}/versions/{version}")
def restore(request: Request, visitor: Signed, form: Posted, recipe_id: UUID, version: Whole) -> Response:
    """Make an earlier version the present one."""
    versions.restore(visitor.caller, recipe_id, version)
    return go(f"/recipes/{recipe_id}")


@router.get("/{recipe_id}")
def edit_recipe(request: Request, visitor: Signed, recipe_id: UUID) -> Response:
    """One recipe on the bench."""
    saved = library.get_recipe(visitor.caller, recipe_id)
    if saved.broken:
        return broken_page(request, visitor, saved)
    others = {}
    for pending in saved.recipe.pending:
        for matched in match_lines(visitor.caller, pending.text)[:1]:
            others[pending.key] = matched.others
    form = RecipeForm.of_page(saved, others)
    return _bench(request, visitor, form, keeps=saved.keeps, archived=saved.is_archived)


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
    read = typed_form.read(own_foods.measuring(visitor.caller, typed_form.food_keys))
    try:
        if read.faults:
            raise InvalidInputs(read.faults)
        saving.save_recipe(visitor.caller, read.input)
        habits.remember(visitor.caller, typed_form.confirmed)
    except InvalidInputs as error:
        return _bench(request, visitor, typed_form, typed_form.faults_of(list(error.faults)), 422)
    except StaleWrite as error:
        typed_form.version = error.current_version
        return _bench(request, visitor, typed_form, Faults.of(error), 409)
    return go(f"/recipes/{recipe_id}")


@router.post("/{recipe_id}/read")
def read_into(request: Request, visitor: Signed, form: Posted, recipe_id: UUID) -> Response:
    """The bench with what stands in its boxes for pasting as rows, for a browser without scripts; nothing is saved."""
    typed_form = RecipeForm.of_post(form, str(recipe_id))
    if typed_form.version:
        library.get_recipe(visitor.caller, recipe_id)  # another household's is not here
    refused: dict[str, str] = {}
    for component in typed_form.components:
        field = f"component-{component.id}-paste"
        component.pasted = text(form, field)
        try:
            component.lines += [LineForm.of_match(m) for m in match_lines(visitor.caller, component.pasted)]
            component.pasted = ""
        except InvalidInput as fault:
            refused[field] = fault.message
    try:
        typed_form.steps += _steps_of(text(form, "method"), len(typed_form.steps))
    except InvalidInput as fault:
        typed_form.method, refused["method"] = text(form, "method"), fault.message
    return _bench(request, visitor, typed_form, Faults(refused), 422 if refused else 200)
