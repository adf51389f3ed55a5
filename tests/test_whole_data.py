"""The command line's way to the whole of the data: out, looked at, in, and what it asks when something is not clear."""

import gzip
import zipfile
from pathlib import Path
from uuid import uuid4

import pytest
from typer.testing import CliRunner, Result

from goodcrate.cli import app
from goodcrate.db.server import EmbeddedServer, locked
from goodcrate.db.session import Database
from goodcrate.services.calling import Caller
from goodcrate.services.week.weeks import week_picture
from tests.conftest import MONDAY, name_of
from tests.services.kitchen import furnish


@pytest.fixture
def reached(server: EmbeddedServer, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The command line at the database of these tests."""
    monkeypatch.setenv("GOODCRATE_DATABASE_URL", server.url)
    monkeypatch.setenv("GOODCRATE_DATA_DIR", str(tmp_path / "data"))


def crate(*words: object, expect: int = 0) -> Result:
    done = CliRunner().invoke(app, [str(word) for word in words])
    assert done.exit_code == expect, done.output
    return done


@pytest.mark.usefixtures("reached")
def test_a_household_goes_out_and_into_another(
    household: Caller, neighbour: Caller, database: Database, tmp_path: Path
) -> None:
    furnish(household)
    archive, ours, theirs = tmp_path / "galley.zip", name_of(database, household), name_of(database, neighbour)
    assert "A test galley" in crate("export", archive, "--as", ours).output
    assert zipfile.is_zipfile(archive)
    assert [p.name for p in tmp_path.glob(".crate-*")] == []
    told = crate("import", archive, "--dry-run", "--as", theirs).output
    assert "If the archive wins" in told
    assert "1 week" in told
    assert week_picture(neighbour, MONDAY) is None, "a dry run changes nothing"
    asked = crate("import", archive, "--as", theirs, expect=1).output
    assert "Which wins" in asked
    assert "Taken in what was not here yet" in crate("import", archive, "--as", theirs, "--wins", "here").output
    there, here = week_picture(neighbour, MONDAY), week_picture(household, MONDAY)
    assert there is not None
    assert here is not None
    assert there.outcome == here.outcome


@pytest.mark.usefixtures("reached")
def test_it_says_what_is_not_clear(household: Caller, neighbour: Caller, tmp_path: Path) -> None:
    archive = tmp_path / "x.zip"
    assert "several households" in crate("export", archive, expect=1).output
    assert "Nobody signs in as" in crate("export", archive, "--as", f"nobody-{uuid4().hex}", expect=1).output
    assert not archive.exists()
    archive.write_text("no zip")
    assert "Nobody signs in as" in crate("import", archive, "--dry-run", "--as", "x", expect=1).output
    assert "No such file" in crate("import", tmp_path / "gone.zip", "--dry-run", expect=1).output
    assert household.household_id != neighbour.household_id


@pytest.mark.usefixtures("reached")
def test_a_backup_is_written_while_the_database_is_in_use(tmp_path: Path) -> None:
    place = tmp_path / "kitchen.sql.gz"
    assert "MB" in crate("backup", place).output
    assert b"-- Dump completed" in gzip.decompress(place.read_bytes())[-300:]


def test_a_backup_is_not_put_back_under_a_running_app(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv("GOODCRATE_DATABASE_URL", raising=False)
    monkeypatch.setenv("GOODCRATE_DATA_DIR", str(tmp_path))
    with locked(tmp_path):
        told = crate("restore", tmp_path / "kitchen.sql.gz", expect=1).output
    assert "already running" in told
