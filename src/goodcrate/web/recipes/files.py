"""Routes of taking recipes in: the paste or upload, a review line by line, and many at once with progress."""

import json
from dataclasses import asdict
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import UploadFile

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.formats.recipe_jsonld import FoundRecipe
from goodcrate.services.recipes import recipe_files
from goodcrate.services.recipes.recipe_files import Reviewed
from goodcrate.services.week.weeks import new_id
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.recipes.address import router
from goodcrate.web.security import Posted, PostedFile, Signed, Visitor, content_of, text


def _import_page(
    request: Request, visitor: Visitor, faults: Faults = NO_FAULTS, status: int = 200, pasted: str = ""
) -> Response:
    return page(
        request,
        visitor,
        "recipes/import.html",
        "recipes",
        status=status,
        faults=faults,
        pasted=pasted,
        found=None,
        file_id=new_id(),
    )


@router.get("/import")
def import_page(request: Request, visitor: Signed) -> Response:
    """Where recipes come in."""
    return _import_page(request, visitor)


@router.post("/import")
def read_import(request: Request, visitor: Signed, form: PostedFile) -> Response:
    """Read what was pasted or uploaded: one recipe is shown for review, several are taken in with progress."""
    pasted = text(form, "pasted")
    sent = form.get("file")
    import_id = id_of(text(form, "id")) or new_id()
    try:
        if isinstance(sent, UploadFile) and sent.filename:
            found = recipe_files.read_file(content_of(sent), sent.filename)
            name = sent.filename
        elif pasted.strip():
            found, name = recipe_files.read_file(pasted.encode()), "pasted"
        else:
            raise InvalidInput(
                "file", say("Nothing was pasted or chosen."), say("Paste a page or JSON-LD, or choose a file.")
            )
        if len(found) == 1:
            return _review_page(request, visitor, found[0])
    except InvalidInput as fault:
        return _import_page(request, visitor, Faults({"file": fault.message}), 422, pasted[:200_000])
    except InvalidInputs as error:
        said = " ".join(str(f) for f in error.faults[:5])
        return _import_page(request, visitor, Faults({"file": said}), 422, pasted[:200_000])
    recipe_files.upload(visitor.caller, import_id, name, found)
    return go(f"/recipes/import/{import_id}")


def _review_page(request: Request, visitor: Visitor, found: FoundRecipe, faults: Faults = NO_FAULTS) -> Response:
    reviewed = recipe_files.review(visitor.caller, found)
    kcal = _weighed_kcal(reviewed)
    return page(
        request,
        visitor,
        "recipes/review.html",
        "recipes",
        reviewed=reviewed,
        found=found,
        kcal=kcal,
        faults=faults,
        stored=json.dumps(asdict(found)),
        new_id=new_id(),
    )


def _weighed_kcal(reviewed: Reviewed) -> float:
    """Energy of a serving from the lines that are understood, in kcal."""
    total = 0.0
    for x in reviewed.lines:
        if x.line is not None and x.line.food_key in reviewed.foods:
            total += (reviewed.foods[x.line.food_key].composition.get("energy_kcal") or 0) / 100 * x.line.amount_g
    return total / (reviewed.input.servings or 1.0)


@router.post("/import/one")
def take_one(request: Request, visitor: Signed, form: Posted) -> Response:
    """Take the reviewed recipe in and open it on the bench; lines that were unsure ask there."""
    recipe_id = id_of(text(form, "id")) or new_id()
    try:
        stored: dict[str, object] = json.loads(text(form, "recipe"))
        found = recipe_files.found_of(stored)
    except (ValueError, TypeError, KeyError, RecursionError):
        faults = Faults({"file": say("This review is no longer whole. Paste the recipe again.")})
        return _import_page(request, visitor, faults, 422)
    try:
        taken = recipe_files.take_in(visitor.caller, found, recipe_id)
    except InvalidInputs as error:
        said = " ".join(f.message for f in error.faults[:5])
        return _import_page(request, visitor, Faults({"file": said}), 422)
    return go(f"/recipes/{taken}")


@router.get("/import/{import_id}")
def import_progress(request: Request, visitor: Signed, import_id: UUID) -> Response:
    """How far an upload is; the page goes on with it by itself."""
    progress = recipe_files.progress(visitor.caller, import_id)
    return page(request, visitor, "recipes/progress.html", "recipes", progress=progress)


@router.post("/import/{import_id}")
def go_on(request: Request, visitor: Signed, form: Posted, import_id: UUID) -> Response:
    """Take in the next recipes of an upload."""
    progress = recipe_files.advance(visitor.caller, import_id)
    return fragment("recipes/_progress.html", progress=progress, csrf=visitor.signed.csrf_token)
