"""Foods in and out as files: the upload, its dry-run report, the yes, and the export."""

from uuid import UUID

from fastapi import Request
from fastapi.responses import PlainTextResponse, Response
from starlette.datastructures import UploadFile

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many
from goodcrate.formats.csv_table import ENCODINGS, LARGEST_FILE_BYTES
from goodcrate.formats.food_csv import COLUMNS
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import NotFound
from goodcrate.services.foods import food_files
from goodcrate.services.foods.food_files import ADDED, CHANGED, REFUSED, SAME
from goodcrate.services.week.weeks import new_id
from goodcrate.web.foods.address import router
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, PostedFile, Signed, Visitor, content_of, text

SHOWN = 60
"""Rows shown of each verdict; the counts are of all."""


@router.get("/files")
def files(request: Request, visitor: Signed) -> Response:
    """Where files go in and out, with the columns they have."""
    return _files_page(request, visitor)


def _files_page(
    request: Request, visitor: Visitor, faults: Faults = NO_FAULTS, status: int = 200, done: str = ""
) -> Response:
    return page(
        request,
        visitor,
        "foods/files.html",
        "foods",
        status=status,
        faults=faults,
        columns=COLUMNS,
        done=done,
        encodings=ENCODINGS,
        file_id=new_id(),
        largest_mb=LARGEST_FILE_BYTES // 1_000_000,
        keep_groups=sorted(keep_groups()),
    )


@router.post("/files")
def upload(request: Request, visitor: Signed, form: PostedFile) -> Response:
    """Take a file in and show what it would do."""
    sent = form.get("file")
    if not isinstance(sent, UploadFile) or not sent.filename:
        faults = Faults({"file": say("No file was chosen. Choose a CSV file.")})
        return _files_page(request, visitor, faults, 422)
    data = content_of(sent)
    file_id = id_of(text(form, "id")) or new_id()
    try:
        food_files.upload(visitor.caller, file_id, sent.filename, data, text(form, "encoding", "auto"))
    except InvalidInput as fault:
        return _files_page(request, visitor, Faults.of(fault, {"file", "encoding"}), 422)
    return go(f"/foods/files/{file_id}")


@router.get("/files/{file_id}")
def file_report(request: Request, visitor: Signed, file_id: UUID) -> Response:
    """What an uploaded file would do, row by row; nothing is changed. Of one that was applied, what it did."""
    done = food_files.applied(visitor.caller, file_id)
    if done is not None:
        told = {"added": many(done[ADDED], "food"), "changed": done[CHANGED], "refused": many(done[REFUSED], "row")}
        words = say("{added} added, {changed} changed, {refused} refused.", **told)
        return _files_page(request, visitor, done=words)
    try:
        report = food_files.report(visitor.caller, file_id)
    except InvalidInput as fault:
        return _files_page(request, visitor, Faults.of(fault, {"file"}), 422)
    return page(
        request,
        visitor,
        "foods/report.html",
        "foods",
        report=report,
        shown=SHOWN,
        verdicts=((REFUSED, "Refused"), (CHANGED, "Changed"), (ADDED, "Added"), (SAME, say("The same already"))),
    )


@router.post("/files/{file_id}")
def apply_file(request: Request, visitor: Signed, form: Posted, file_id: UUID) -> Response:
    """Apply a reported file: all its usable rows, in one go."""
    try:
        food_files.apply(visitor.caller, file_id)
    except NotFound:
        return _files_page(request, visitor, Faults({}, say("This file is older than a day. Choose it again.")), 422)
    return go(f"/foods/files/{file_id}")


@router.get("/export.csv")
def export(visitor: Signed) -> Response:
    """The household's foods as CSV."""
    return PlainTextResponse(
        food_files.export(visitor.caller),
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": 'attachment; filename="good-crate-foods.csv"'},
    )
