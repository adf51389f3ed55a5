"""Archives that wait: whole or not there, for a day, and never more than a few."""

from datetime import timedelta
from io import BytesIO
from uuid import uuid4

import pytest

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.services.archive import files
from goodcrate.services.calling import Caller, NotFound, utc_now


def test_a_file_comes_back_as_it_was_and_once(household: Caller, neighbour: Caller) -> None:
    content, file_id = bytes(range(256)) * 10_000, uuid4()
    files.keep(household, file_id, files.IN, "a.zip", BytesIO(content))
    files.keep(household, file_id, files.IN, "again.zip", BytesIO(b"other"))
    assert b"".join(files.parts(household, file_id)) == content
    assert files.find(household, file_id).name == "a.zip"
    with files.opened(household, file_id) as opened:
        assert opened.read() == content
    with pytest.raises(NotFound):
        files.find(neighbour, file_id)
    assert list(files.parts(neighbour, file_id)) == []


def test_the_oldest_makes_room_and_a_day_is_enough(household: Caller, monkeypatch: pytest.MonkeyPatch) -> None:
    ids = [uuid4() for _ in range(files.MOST_KEPT + 2)]
    for file_id in ids:
        files.keep(household, file_id, files.OUT, f"{file_id}.zip", BytesIO(b"x"))
    brought = uuid4()
    files.keep(household, brought, files.IN, "brought.zip", BytesIO(b"y"))
    assert {f.id for f in files.kept(household, files.OUT)} == set(ids[-files.MOST_KEPT :])
    assert [f.id for f in files.kept(household, files.IN)] == [brought]
    later = utc_now() + files.KEPT_FOR + timedelta(minutes=1)
    monkeypatch.setattr(files, "utc_now", lambda: later)
    assert files.kept(household, files.OUT) == []
    files.keep(household, uuid4(), files.IN, "new.zip", BytesIO(b"z"))
    with pytest.raises(NotFound):
        files.find(household, ids[-1])


@pytest.mark.parametrize(("content", "why"), [(b"", "empty"), (b"x" * 101, "larger than")])
def test_nothing_and_too_much_are_refused(
    content: bytes, why: str, household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(files, "LARGEST_ARCHIVE_BYTES", 100)
    with pytest.raises(InvalidInput, match=why):
        files.keep(household, uuid4(), files.IN, "x.zip", BytesIO(content))
    assert files.kept(household, files.IN) == []
