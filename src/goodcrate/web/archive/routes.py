"""Routes of the archive: made and fetched, brought and looked through, taken in and taken back."""

from collections.abc import Iterator
from datetime import date
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response, StreamingResponse
from starlette.datastructures import UploadFile

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.formats.archive.container import LARGEST_ARCHIVE_BYTES
from goodcrate.formats.csv_table import table_line
from goodcrate.services import accounts
from goodcrate.services.archive import files, restore, work
from goodcrate.services.archive.check import CLASHES, NEEDS
from goodcrate.services.archive.weeks_csv import WEEKS_HEADER, first_days, meals_of_week
from goodcrate.services.calling import NotFound, utc_now
from goodcrate.services.week.weeks import new_id
from goodcrate.web.again import AgainRoute
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, PostedFile, Signed, Visitor, text

router = APIRouter(prefix="/archive", route_class=AgainRoute)
CALLED = {
    "eater": "eater",
    "recipe": "recipe",
    "food": "food",
    "vessel": "vessel",
    "week": "week",
    "box": "box",
    "weighing": "weighing",
}
"""What the things an archive holds are called."""
STAYS_OUT = {CLASHES: Saying("something else has its place here"), NEEDS: Saying("it needs something that stays out")}


def _archive_page(
    request: Request, visitor: Visitor, faults: Faults = NO_FAULTS, status: int = 200, done: str = ""
) -> Response:
    return page(
        request,
        visitor,
        "archive/page.html",
        "",
        status=status,
        faults=faults,
        done=done,
        kept=files.kept(visitor.caller, files.OUT),
        back_until=restore.kept_until(visitor.caller),
        largest_mb=LARGEST_ARCHIVE_BYTES // 1_000_000,
        make_id=new_id(),
        bring_id=new_id(),
    )


@router.get("")
def show(request: Request, visitor: Signed, done: str = "") -> Response:
    """The household's data in its own hands."""
    return _archive_page(request, visitor, done="1" if done == "back" else "")


@router.post("/make")
def make(request: Request, visitor: Signed, form: Posted) -> Response:
    """Begin to make an archive."""
    job_id = id_of(text(form, "id")) or new_id()
    work.begin(visitor.caller, job_id, work.OUT_JOB, {})
    return go(f"/archive/{job_id}")


@router.post("/bring")
def bring(request: Request, visitor: Signed, form: PostedFile) -> Response:
    """Keep an archive that was brought, and look it through."""
    sent, job_id = form.get("file"), id_of(text(form, "id")) or new_id()
    if not isinstance(sent, UploadFile) or not sent.filename:
        return _archive_page(request, visitor, Faults({"file": say("No file was chosen. Choose an archive.")}), 422)
    try:
        files.keep(visitor.caller, job_id, files.IN, sent.filename, sent.file)
    except InvalidInput as fault:
        return _archive_page(request, visitor, Faults.of(fault, {"file"}), 422)
    work.begin(visitor.caller, job_id, work.LOOK_JOB, {"file": str(job_id)})
    return go(f"/archive/{job_id}")


@router.post("/take-back")
def take_back(request: Request, visitor: Signed, form: Posted) -> Response:
    """Take a restore back: the household as it was before."""
    restore.take_back(visitor.caller, utc_now())
    return go("/archive?done=back")


@router.get("/weeks.csv")
def weeks_csv(visitor: Signed) -> Response:
    """Every week as a table: a row for each meal."""

    def lines() -> Iterator[str]:
        yield table_line(WEEKS_HEADER)
        for day in first_days(visitor.caller):
            yield from map(table_line, meals_of_week(visitor.caller, day))

    return _csv(lines(), "good-crate-weeks.csv")


@router.get("/week-{first_day}.csv")
def week_csv(visitor: Signed, first_day: date) -> Response:
    """One week as a table."""
    rows = meals_of_week(visitor.caller, first_day)
    if not rows and first_day not in first_days(visitor.caller):
        raise NotFound("week")
    return _csv(iter([table_line(WEEKS_HEADER), *map(table_line, rows)]), f"good-crate-week-{first_day}.csv")


def _csv(lines: Iterator[str], name: str) -> Response:
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return StreamingResponse(lines, media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/{job_id}")
def show_job(request: Request, visitor: Signed, job_id: UUID) -> Response:
    """How far an archive is that is made, looked through or taken in, and how it ended."""
    return page(request, visitor, "archive/work.html", "", **_told(visitor, job_id))


@router.get("/{job_id}/progress")
def progress(visitor: Signed, job_id: UUID) -> Response:
    """The same without its frame; the page asks again until it is done."""
    return fragment("archive/_work.html", csrf=visitor.signed.csrf_token, **_told(visitor, job_id))


def _told(visitor: Visitor, job_id: UUID) -> Document:
    job = work.find(visitor.caller, job_id)
    if job.kind == work.IN_JOB and not job.is_running:
        accounts.look_again(visitor.caller.database)  # the next page is of the household that took the place
    share = job.best[-1]["share"] if job.best else 0.0
    return {
        "job": job,
        "share": share,
        "kinds": work,
        "CALLED": CALLED,
        "STAYS_OUT": STAYS_OUT,
        "days": {k: date.fromisoformat(v) for k, v in _days(job.result)},
        "next_id": new_id(),
        "has_data": work.has_data(visitor.caller),
        "back_until": restore.kept_until(visitor.caller),
    }


def _days(result: object) -> Iterator[tuple[str, str]]:
    if isinstance(result, dict):
        for wins in work.WINS:
            for name in ("first_day", "last_day"):
                if result.get(wins, {}).get(name):
                    yield f"{wins}.{name}", result[wins][name]


@router.get("/{job_id}/good-crate.zip")
def fetch(visitor: Signed, job_id: UUID) -> Response:
    """The archive itself."""
    there = files.find(visitor.caller, job_id)
    headers = {"content-disposition": f'attachment; filename="{there.name}"', "content-length": str(there.size)}
    return StreamingResponse(files.parts(visitor.caller, job_id), media_type="application/zip", headers=headers)


@router.post("/{job_id}/take-in")
def take_in(request: Request, visitor: Signed, form: Posted, job_id: UUID) -> Response:
    """Take in what was looked through."""
    looked = work.find(visitor.caller, job_id)
    next_id, wins = id_of(text(form, "id")) or new_id(), text(form, "wins")
    if looked.kind != work.LOOK_JOB:
        raise NotFound("archive")
    if wins not in work.WINS:
        raise InvalidInput("wins", say("Which wins: the archive, or what is here?"), say("Choose one."))
    work.begin(visitor.caller, next_id, work.IN_JOB, {"file": looked.input["file"], "wins": wins})
    return go(f"/archive/{next_id}")
