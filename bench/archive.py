"""How long the archive of three years and four eaters takes: out, looked through, in, and taken out for good."""

import time
from collections.abc import Callable
from tempfile import TemporaryFile
from typing import TypeVar

from sqlalchemy import select

from bench.server_times import Visit
from goodcrate.db.accounts import Household
from goodcrate.services.accounts import add_household
from goodcrate.services.archive import work
from goodcrate.services.archive.export import write_archive
from goodcrate.services.archive.restore import KEPT_AWAY, let_go, move_in
from goodcrate.services.calling import Caller, utc_now

T = TypeVar("T")


def measure_archive(visit: Visit) -> None:
    """Print the times of a household that has three years of weeks (`bench.table`)."""
    assert visit.database is not None
    with visit.database.accounts() as session:
        household_id = session.scalar(select(Household.id).order_by(Household.created_at))
    assert household_id is not None
    caller = Caller(visit.database, household_id)
    said: list[float] = []

    def heard(share: float, _: str) -> None:
        said.append(share)

    with TemporaryFile() as file:
        manifest = _timed(
            "archive of three years, four eaters: export", "under 20 s", lambda: write_archive(caller, file, heard)
        )
        rows, size = sum(manifest.rows.values()), file.seek(0, 2)
        print(f"  {'':<58} {rows:,} rows, {size / 1e6:.1f} MB, said how far it is {len(said)} times")
        other = add_household(visit.database, "Another mooring", "another", "a-long-enough-password")
        _timed("the same looked through", "-", lambda: work.reports_on(other, file))
        said.clear()
        beside = _timed(
            "the same restored, every week worked out once",
            "under 60 s",
            lambda: work.take_in(other, file, work.ARCHIVE_WINS, heard),
        )
        print(f"  {'':<58} said how far it is {len(said)} times")
        move_in(other, beside)
        _timed("what it took the place of let go", "-", lambda: let_go(other.database, utc_now() + 2 * KEPT_AWAY))


def _timed(name: str, reach: str, work_of: Callable[[], T]) -> T:
    began = time.perf_counter()
    done = work_of()
    print(f"  {name:<58} {time.perf_counter() - began:6.1f} s    wanted: {reach}")
    return done
