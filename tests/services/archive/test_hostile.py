"""Archives that are cut off, newer, or made to harm: each is refused in a sentence, and nothing of it is left."""

import io
import json
import struct
import zipfile
from collections.abc import Callable
from typing import Any
from uuid import UUID, uuid4

import pytest
from sqlalchemy import func, select

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.db.accounts import Household
from goodcrate.db.session import Database
from goodcrate.db.whole import owned_tables
from goodcrate.formats.archive import container
from goodcrate.formats.archive.shape import MOST_LETTERS
from goodcrate.services.archive import work
from goodcrate.services.archive.export import write_archive
from goodcrate.services.archive.tables import shapes
from goodcrate.services.calling import Caller
from tests.services.kitchen import Kitchen, furnish

Members = dict[str, bytes]
Change = Callable[[Members], None]


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household)


@pytest.fixture
def members(kitchen: Kitchen) -> Members:
    file = io.BytesIO()
    write_archive(kitchen.caller, file)
    with zipfile.ZipFile(file) as packed:
        return {name: packed.read(name) for name in packed.namelist()}


def packed(members: Members) -> io.BytesIO:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as zipped:
        for name, content in members.items():
            zipped.writestr(name, content)
    return file


def rows(members: Members, table: str) -> list[dict[str, Any]]:
    return [json.loads(line) for line in members[f"data/{table}.jsonl"].splitlines()]


def put(members: Members, table: str, there: list[Any]) -> None:
    members[f"data/{table}.jsonl"] = b"".join(json.dumps(row).encode() + b"\n" for row in there)
    manifest = json.loads(members["manifest.json"])
    manifest["rows"][table] = len(there)
    members["manifest.json"] = json.dumps(manifest).encode()


def change(table: str, **values: object) -> Change:
    """The first row of a table with other values."""

    def changed(members: Members) -> None:
        there = rows(members, table)
        there[0] |= values
        put(members, table, there)

    return changed


def said(**values: object) -> Change:
    def changed(members: Members) -> None:
        members["manifest.json"] = json.dumps(json.loads(members["manifest.json"]) | values).encode()

    return changed


def raw_line(table: str, line: bytes) -> Change:
    def changed(members: Members) -> None:
        there = members[f"data/{table}.jsonl"].splitlines()
        members[f"data/{table}.jsonl"] = b"\n".join([line.replace(b"...", there[0].strip(b"{}")), *there[1:]]) + b"\n"

    return changed


def added(name: str, content: bytes = b"{}") -> Change:
    return lambda members: members.update({name: content})


def without(name: str) -> Change:
    return lambda members: members.pop(name)  # type: ignore[return-value]


def twice(table: str) -> Change:
    def changed(members: Members) -> None:
        there = rows(members, table)
        put(members, table, [*there, there[0]])

    return changed


def another_with_the_same(table: str) -> Change:
    def changed(members: Members) -> None:
        there = rows(members, table)
        put(members, table, [*there, there[0] | {"id": str(uuid4())}])

    return changed


def one_row_more(members: Members) -> None:
    more = rows(members, "food")[0] | {"id": str(uuid4()), "origin_key": None, "barcode": None}
    members["data/food.jsonl"] += json.dumps(more).encode() + b"\n"


STRANGER = str(UUID(int=7))
REFUSED: dict[str, tuple[Change, str]] = {
    "a newer format": (said(good_crate_archive=2), "newer Good Crate"),
    "a format that is no number": (said(good_crate_archive="1; drop"), "good_crate_archive"),
    "a manifest that says more": (said(owner="x"), "owner"),
    "a table nobody knows in the manifest": (said(rows={"user_account": 1}), "no part of an archive"),
    "more rows than anybody has": (said(rows={"food": 10**12}), "more rows"),
    "fewer rows than none": (said(rows={"food": -1}), "more rows"),
    "no manifest": (without("manifest.json"), "manifest.json is missing"),
    "no household": (without("household.json"), "household.json is missing"),
    "a table that is missing": (without("data/slot.jsonl"), "not whole"),
    "a line too many": (one_row_more, "not whole"),
    "a path out of the archive": (added("../../etc/cron.d/x"), "no part of an archive"),
    "an absolute path": (added("/etc/passwd"), "no part of an archive"),
    "a path inside": (added("data/../x.jsonl"), "no part of an archive"),
    "a table nobody knows": (added("data/user_account.jsonl"), "no part of an archive"),
    "a line that is no JSON": (raw_line("slot", b"{"), "no JSON"),
    "a line that is no row": (raw_line("slot", b"[1]"), "no row"),
    "a key that is there twice": (raw_line("slot", b'{"name":"a",...}'), "named twice"),
    "a number that is none": (raw_line("day_type", b'{...,"x":NaN}'), "no JSON"),
    "a number without end": (raw_line("slot", b'{"x":' + b"9" * 5000 + b"}"), "no JSON"),
    "brackets without end": (raw_line("slot", b'{"x":' + b"[" * 100_000 + b"}"), "no JSON"),
    "bytes that are no text": (raw_line("slot", b'{"x":"\xff"}'), "no JSON"),
    "a column nobody knows": (change("slot", password="x"), "not known"),
    "an id that is none": (change("slot", id="' OR 1=1"), "id: “' OR 1=1”"),
    "a number instead of an id": (change("slot", id=7), "id: “7”"),
    "a text instead of a number": (change("day_type", energy_kcal="much"), "energy_kcal"),
    "a yes instead of a number": (change("day_type", energy_kcal=True), "energy_kcal"),
    "a number beyond a float": (raw_line("day_type", b'{"energy_kcal":1e999}'), "column"),
    "nothing where something must be": (change("slot", name=None), "name"),
    "a name without end": (change("eater", name="x" * 161), "name"),
    "half a letter": (change("eater", name="\ud800"), "name"),
    "a day that is none": (change("week", first_day="2026-02-30"), "first_day"),
    "a document of another format": (change("recipe", tags={"format": 99, "value": []}), "tags"),
    "a document without its format": (change("recipe", tags=["x"]), "tags"),
    "an id twice": (twice("slot"), "is there twice"),
    "two of what there is one of": (another_with_the_same("week"), "another row with the same"),
    "an eater of another household": (change("slot", eater_id=STRANGER), "points to a row of eater"),
    "a box of another household": (change("placement", from_box=STRANGER), "points to a row of box"),
    "grams beyond all bounds": (change("day_type", energy_kcal=1e300), "beyond what can be stored"),
    "a week nobody can work out": (
        change("week", closed_at="2026-11-23T00:00:00", judged_by={"format": 1, "value": {"eaters": 3}}),
        "cannot be worked out",
    ),
    "versions that are none": (change("week", recipe_versions={"format": 1, "value": 7}), "cannot be worked out"),
}


def everything(database: Database) -> dict[str, int]:
    """How many rows each table of households has."""
    with database.engine.connect() as connection:
        counts = {n: connection.scalar(select(func.count()).select_from(t.raw)) or 0 for n, t in owned_tables().items()}
        return counts | {"household": connection.scalar(select(func.count()).select_from(Household)) or 0}


@pytest.mark.parametrize("name", REFUSED)
def test_it_is_refused_in_a_sentence_and_nothing_of_it_is_left(
    name: str, members: Members, neighbour: Caller, kitchen: Kitchen
) -> None:
    harm, why = REFUSED[name]
    harm(members)
    file = packed(members)
    before = everything(neighbour.database)
    for wins in work.WINS:
        with pytest.raises(InvalidInput) as refused:
            work.take_in(neighbour, file, wins)
        assert why in refused.value.message, refused.value.message
        assert "\n" not in refused.value.message
    assert everything(neighbour.database) == before, kitchen


def file_of(members: Members) -> bytes:
    return packed(members).getvalue()


@pytest.mark.parametrize("share", [0.0, 0.1, 0.5, 0.99])
def test_one_that_is_cut_off_is_no_archive(share: float, members: Members, neighbour: Caller) -> None:
    whole = file_of(members)
    with pytest.raises(InvalidInput, match="no zip file, or not all of it"):
        work.reports_on(neighbour, io.BytesIO(whole[: int(len(whole) * share)]))


def test_one_with_a_broken_byte_is_damaged(members: Members, neighbour: Caller) -> None:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as zipped:
        for name, content in members.items():
            zipped.writestr(name, content)
    broken = bytearray(file.getvalue())
    at = broken.index(b'"eater_id"')
    broken[at + 1] ^= 1
    with pytest.raises(InvalidInput, match="is damaged"):
        work.reports_on(neighbour, io.BytesIO(bytes(broken)))


def test_a_member_that_is_there_twice_is_refused(members: Members, neighbour: Caller) -> None:
    file = packed(members)
    with pytest.warns(UserWarning, match="Duplicate name"), zipfile.ZipFile(file, "a") as zipped:
        zipped.writestr("data/food.jsonl", "")
    with pytest.raises(InvalidInput, match="stands in it twice"):
        work.reports_on(neighbour, file)


def test_a_bomb_is_put_out_before_it_is_unpacked(
    members: Members, neighbour: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(container, "LARGEST_WHOLE_BYTES", 30_000_000)
    line = members["data/food.jsonl"].splitlines()[0]
    members["data/food.jsonl"] = (line + b" " * 1_000_000 + b"\n") * 40
    members["manifest.json"] = members["manifest.json"].replace(b'"food": 76', b'"food": 40')
    file = packed(members)
    assert len(file.getvalue()) < 1_000_000
    with pytest.raises(InvalidInput):
        work.reports_on(neighbour, file)
    reader = container.ArchiveReader(zipfile.ZipFile(file), shapes())
    with pytest.raises(InvalidInput, match="larger than any household"):
        list(reader._lines("data/food.jsonl"))


def test_a_line_without_end_is_not_read_to_it(members: Members, neighbour: Caller) -> None:
    members["data/eater.jsonl"] = b'{"name":"' + b"x" * (MOST_LETTERS + 10) + b'"}\n'
    with pytest.raises(InvalidInput, match="too long"):
        work.reports_on(neighbour, packed(members))


@pytest.mark.parametrize(
    "end",
    [
        (0, 0, 60_000, 60_000, 0, 0, 0),  # as many members as no archive has
        (0, 0, 3, 3, 900_000, 0, 0),  # a list of them that is too long
        (0, 0, 3, 3, 100, 0, 65_535),  # a comment that hides another end
    ],
)
def test_the_list_of_members_is_looked_at_before_it_is_read(end: tuple[int, ...], neighbour: Caller) -> None:
    file = io.BytesIO(b"PK" + b"\0" * 100 + struct.pack("<4s4H2LH", b"PK\x05\x06", *end))
    with pytest.raises(InvalidInput, match="more files than an archive has"):
        work.reports_on(neighbour, file)


def test_a_list_for_larger_zips_is_not_read(members: Members, neighbour: Caller) -> None:
    whole = file_of(members)
    locator = b"PK\x06\x07" + b"\0" * 16
    with pytest.raises(InvalidInput, match="more files than an archive has"):
        work.reports_on(neighbour, io.BytesIO(whole[:-22] + locator + whole[-22:]))


def test_one_that_is_locked_or_packed_otherwise_is_refused(members: Members, neighbour: Caller) -> None:
    whole = bytearray(file_of(members))
    at = whole.index(b"PK\x01\x02")
    whole[at + 8] |= 1
    with pytest.raises(InvalidInput, match="locked with a password"):
        work.reports_on(neighbour, io.BytesIO(bytes(whole)))
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_BZIP2) as zipped:
        for name, content in members.items():
            zipped.writestr(name, content)
    with pytest.raises(InvalidInput, match="packed in a way"):
        work.reports_on(neighbour, file)


def test_one_larger_than_any_is_not_opened(neighbour: Caller, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(container, "LARGEST_ARCHIVE_BYTES", 100)
    with pytest.raises(InvalidInput, match="larger than"):
        work.reports_on(neighbour, io.BytesIO(b"x" * 101))


def test_the_whole_one_is_taken(members: Members, neighbour: Caller) -> None:
    assert work.reports_on(neighbour, packed(members))[work.ARCHIVE_WINS]["counts"]["week"] == 1
