"""Taking a household out: everything of it in one archive, as it was at one moment."""

from collections.abc import Iterator
from typing import IO

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many
from goodcrate.db.whole import household_row, one_picture, rows_of
from goodcrate.formats.archive.container import (
    ARCHIVE_FORMAT,
    HOUSEHOLD,
    MANIFEST,
    ROWS,
    ArchiveWriter,
    Manifest,
    writing,
)
from goodcrate.formats.csv_table import table_line
from goodcrate.services.archive.tables import archived, household_shape, shapes
from goodcrate.services.archive.telling import Told, in_silence
from goodcrate.services.archive.weeks_csv import WEEKS_HEADER, first_days, meals_of_week
from goodcrate.services.calling import Caller, utc_now
from goodcrate.services.foods import food_files
from goodcrate.services.recipes.files_out import all_as_jsonld

ROWS_SHARE = 0.3
"""Of the work: rows are quick, and each week's figures are worked out for its table."""


def write_archive(caller: Caller, file: IO[bytes], told: Told = in_silence) -> Manifest:
    """Write the household's archive to an open file.

    The rows are of one moment, whatever is written meanwhile; what stands beside them for other programs follows.
    """
    with writing(file) as writer:
        manifest = _rows(caller, writer, told)
        told(ROWS_SHARE, say("Foods and recipes for other programs"))
        writer.texts("csv/foods.csv", [food_files.export(caller)])
        writer.texts("recipes/recipes.json", [all_as_jsonld(caller)])
        _weeks(caller, writer, told)
    told(1.0, "")
    return manifest


def _rows(caller: Caller, writer: ArchiveWriter, told: Told) -> Manifest:
    counts = {}
    with one_picture(caller.database.engine) as connection:
        own = household_row(connection, caller.household_id)
        writer.document(HOUSEHOLD, household_shape().write(own))
        for n, (name, owned) in enumerate(archived().items()):
            told(ROWS_SHARE * n / len(archived()), say("Everything that is stored"))
            rows = rows_of(connection, owned, caller.household_id)
            counts[name] = writer.lines(f"{ROWS}{name}.jsonl", map(shapes()[name].write, rows))
        manifest = Manifest(good_crate_archive=ARCHIVE_FORMAT, made_at=utc_now(), household=own["name"], rows=counts)
    writer.document(MANIFEST, manifest.model_dump(mode="json"))
    return manifest


def _weeks(caller: Caller, writer: ArchiveWriter, told: Told) -> None:
    days = first_days(caller)

    def lines() -> Iterator[str]:
        yield table_line(WEEKS_HEADER)
        for n, day in enumerate(days, 1):
            yield from map(table_line, meals_of_week(caller, day))
            share = ROWS_SHARE + (1 - ROWS_SHARE) * n / len(days)
            told(share, say("{n} of {weeks} as a table", n=n, weeks=many(len(days), "week")))

    writer.texts("csv/weeks.csv", lines())
