"""The long work on archives: made, looked through, put in; each a job whose page says how far it is."""

import time
from dataclasses import replace
from tempfile import TemporaryFile
from typing import BinaryIO
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say
from goodcrate.db.foods import FoodRow
from goodcrate.db.jobs import JobRow
from goodcrate.db.kitchen import VesselRow
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.targets import EaterRow
from goodcrate.db.week import WeekRow
from goodcrate.db.whole import one_picture
from goodcrate.formats.archive.container import reading
from goodcrate.services.archive import files
from goodcrate.services.archive.check import join, look_through, report_of
from goodcrate.services.archive.export import write_archive
from goodcrate.services.archive.restore import add_missing, let_go, move_in, put_beside
from goodcrate.services.archive.tables import shapes
from goodcrate.services.archive.telling import Told, in_silence
from goodcrate.services.calling import Caller, NotFound, existing, utc_now
from goodcrate.services.jobs import ledger, process
from goodcrate.services.jobs.kind import JobKind
from goodcrate.services.jobs.ledger import DONE, Job, beat, job_of

ARCHIVE_WINS, HERE_WINS = "archive", "here"
WINS = (ARCHIVE_WINS, HERE_WINS)
OUT_JOB, LOOK_JOB, IN_JOB = JOBS = ("archive_out", "archive_look", "archive_in")
SAYS_EVERY_S = 0.3


def begin(caller: Caller, job_id: UUID, kind: str, asked: Document) -> None:
    """Begin a job, once; asked for again under its id, it goes on."""
    with caller.transaction() as session:
        is_new = session.find(JobRow, job_id) is None
        if is_new:
            ledger.begin(session, job_id, kind, None, asked)
    start = process.launch if is_new else process.send_again
    start(caller, kind, job_id)


def find(caller: Caller, job_id: UUID) -> Job:
    """A job on an archive.

    Raises:
        NotFound: when the household has no such job.
    """
    with caller.transaction() as session:
        job = job_of(existing(session, JobRow, job_id, "archive"))
    if job.kind not in JOBS:
        raise NotFound("archive")
    return job


def has_data(caller: Caller) -> bool:
    """Whether a household has anything that an archive could be in the way of."""
    with caller.transaction() as session:
        kinds = (EaterRow, RecipeRow, WeekRow, FoodRow, VesselRow)
        return any(session.scalar(select(kind.id).limit(1)) is not None for kind in kinds)


def _saying(caller: Caller, job_id: UUID) -> Told:
    last = 0.0

    def told(share: float, words: str) -> None:
        nonlocal last
        if time.monotonic() - last >= SAYS_EVERY_S:
            last = time.monotonic()
            beat(caller, job_id, best=[{"share": share}], said=words[:200])

    return told


def make(caller: Caller, job_id: UUID) -> None:
    """Make the household's archive, and keep it for a day."""
    with TemporaryFile() as file:
        manifest = write_archive(caller, file, _saying(caller, job_id))
        name = f"good-crate-{manifest.made_at:%Y-%m-%d}.zip"
        files.keep(caller, job_id, files.OUT, name, file)
    result = {"rows": sum(manifest.rows.values())}
    beat(caller, job_id, status=DONE, result=result, best=[{"share": 1.0}], said="")


def look(caller: Caller, job_id: UUID) -> None:
    """The dry run: what an archive would bring, whoever wins; nothing is changed.

    Raises:
        InvalidInput: when it cannot be taken in, naming the place.
    """
    asked = find(caller, job_id).input
    with files.opened(caller, UUID(asked["file"])) as file:
        result = reports_on(caller, file, _saying(caller, job_id))
    beat(caller, job_id, status=DONE, result=result, best=[{"share": 1.0}], said="")


def reports_on(caller: Caller, file: BinaryIO, told: Told = in_silence) -> Document:
    """What an archive would bring into a household, by who wins.

    Raises:
        InvalidInput: when it cannot be taken in, naming the place.
    """
    with reading(file, shapes()) as reader:
        looked = look_through(reader, told)
    with one_picture(caller.database.engine) as connection:
        joined = join(connection, caller.household_id, looked)
    return {ARCHIVE_WINS: report_of(looked), HERE_WINS: report_of(looked, joined)}


def put_in(caller: Caller, job_id: UUID) -> None:
    """Take an archive in, as its cook decided.

    Raises:
        InvalidInput: when it cannot be, naming the place; then nothing was changed.
    """
    asked = find(caller, job_id).input
    told = _saying(caller, job_id)
    with files.opened(caller, UUID(asked["file"])) as file:
        now = take_in(caller, file, asked["wins"], told)
    done: Document = {"wins": asked["wins"]}
    if now.household_id != caller.household_id:
        with now.transaction() as session:
            ledger.begin(session, job_id, IN_JOB, None, dict(asked))
        beat(now, job_id, status=DONE, result=done, best=[{"share": 1.0}])
        move_in(caller, now)
    beat(caller, job_id, status=DONE, result=done, best=[{"share": 1.0}], said="")
    let_go(caller.database, utc_now())


def take_in(caller: Caller, file: BinaryIO, wins: str, told: Told = in_silence) -> Caller:
    """Take an archive in. When the archive wins, the answer is the household that waits beside: `move_in` follows.

    Raises:
        InvalidInput: when it cannot be, naming the place; then nothing was changed.
    """
    if wins not in WINS:
        raise InvalidInput("wins", say("Which wins: the archive, or what is here?"), say("Choose one."))
    with reading(file, shapes()) as reader:
        looked = look_through(reader, lambda share, words: told(share / 5, words))

        def rest(share: float, words: str) -> None:
            told(0.2 + 0.8 * share, words)

        if wins == ARCHIVE_WINS:
            return replace(put_beside(caller.database, reader, rest), user_id=caller.user_id)
        with one_picture(caller.database.engine) as connection:
            joined = join(connection, caller.household_id, looked)
        add_missing(caller, reader, joined, rest)
        return caller


OUT_KIND = JobKind(
    OUT_JOB,
    make,
    lambda: None,
    when_stopped=Saying("It was stopped."),
    when_cut_off=Saying("It took too long."),
    when_failed=Saying("Our mistake: the archive could not be made. Nothing was changed."),
)
LOOK_KIND = JobKind(
    LOOK_JOB,
    look,
    lambda: None,
    when_stopped=Saying("It was stopped."),
    when_cut_off=Saying("It took too long."),
    when_failed=Saying("Our mistake: it could not be looked through. Nothing was changed."),
)
IN_KIND = JobKind(
    IN_JOB,
    put_in,
    lambda: None,
    when_stopped=Saying("It was stopped. Nothing was changed."),
    when_cut_off=Saying("It took too long. Nothing was changed."),
    when_failed=Saying("Our mistake: it could not be taken in. Nothing was changed."),
)
