"""The archive as a file: written line by line, and read within bounds whoever made it.

Nothing is ever unpacked to a disk: members are known by name or refused, so a path in a name leads nowhere.
"""

import json
import struct
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from typing import IO, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.formats.archive.shape import MOST_LETTERS, TableShape

ARCHIVE_FORMAT = 1
"""Counted up whenever a row's columns change (a test holds this); older ones must still be read then."""
MANIFEST, HOUSEHOLD, ROWS = "manifest.json", "household.json", "data/"
BESIDE = ("csv/", "recipes/")
"""What other programs read; it is not looked at when an archive comes in."""
LARGEST_ARCHIVE_BYTES = 200_000_000
LARGEST_WHOLE_BYTES = 2_000_000_000
"""Of all members together, unpacked."""
MOST_ROWS = 2_000_000
MOST_MEMBERS = 200
LARGEST_DIRECTORY_BYTES = 64_000
_END = struct.Struct("<4s4H2LH")
_END_MARK, _ZIP64_MARK = b"PK\x05\x06", b"PK\x06\x07"
_PLACE = "archive"


class Manifest(BaseModel):
    """What the archive says of itself: its format, when and of whom it was made, and how many rows each table has."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    good_crate_archive: int = Field(ge=1, description="The format of the archive.")
    made_at: datetime = Field(description="When it was made, UTC.")
    household: str = Field(max_length=160, description="The household's name.")
    rows: dict[str, int] = Field(description="How many lines data/<table>.jsonl has.")


class ArchiveRefused(InvalidInput):
    """The file is no archive that can be taken in; the message says why, and nothing was changed."""

    def __init__(self, problem: str, wanted: str = "") -> None:
        super().__init__(_PLACE, problem, wanted)


@dataclass
class ArchiveWriter:
    """Writes an archive's members, one after the other."""

    packed: zipfile.ZipFile

    def lines(self, name: str, rows: Iterable[Mapping[str, object]]) -> int:
        """A member of JSON lines; answers how many."""
        count = 0
        with self.packed.open(name, "w", force_zip64=False) as member:
            for row in rows:
                member.write(_dumped(row).encode() + b"\n")
                count += 1
        return count

    def texts(self, name: str, texts: Iterable[str]) -> None:
        """A member with a text, piece by piece."""
        with self.packed.open(name, "w", force_zip64=False) as member:
            for piece in texts:
                member.write(piece.encode())

    def document(self, name: str, value: object) -> None:
        """A member with one JSON value."""
        self.packed.writestr(name, json.dumps(value, ensure_ascii=False, allow_nan=False, indent=2) + "\n")


@contextmanager
def writing(file: IO[bytes]) -> Iterator[ArchiveWriter]:
    """Write an archive to an open file."""
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, allowZip64=False, compresslevel=4) as packed:
        yield ArchiveWriter(packed)


def _dumped(value: object) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False, separators=(",", ":"))


class ArchiveReader:
    """An archive that somebody brought, member by member; all of it within bounds."""

    def __init__(self, packed: zipfile.ZipFile, tables: Mapping[str, TableShape]) -> None:
        self._packed, self._tables = packed, tables
        self._left = LARGEST_WHOLE_BYTES
        self._look_at_members()
        self.manifest = self._manifest()

    def household(self, shape: TableShape) -> dict[str, Any]:
        """The household's own settings.

        Raises:
            InvalidInput: when they cannot be read.
        """
        return shape.read(_parsed(self._whole(HOUSEHOLD), HOUSEHOLD), HOUSEHOLD)

    def rows(self, shape: TableShape) -> Iterator[tuple[int, dict[str, Any]]]:
        """The rows of a table with the numbers of their lines, as the database takes them.

        Raises:
            InvalidInput: naming the line that cannot be read.
            ArchiveRefused: when there are more or fewer than the archive says.
        """
        name = f"{ROWS}{shape.name}.jsonl"
        number = 0
        for number, line in enumerate(self._lines(name), 1):
            where = f"{name}:{number}"
            yield number, shape.read(_parsed(line, where), where)
        said = self.manifest.rows.get(shape.name, 0)
        if number != said:
            raise ArchiveRefused(
                say(
                    "{name} has {number} lines, and should have {said}: it is not whole.",
                    name=name,
                    number=number,
                    said=said,
                )
            )

    def _look_at_members(self) -> None:
        known = {MANIFEST, HOUSEHOLD, *(f"{ROWS}{name}.jsonl" for name in self._tables)}
        seen = set()
        for info in self._packed.infolist():
            name = info.filename
            if name in seen:
                raise ArchiveRefused(say("{name} stands in it twice.", name=name[:80]))
            seen.add(name)
            if name.startswith(BESIDE):
                continue
            if name not in known:
                raise ArchiveRefused(say("It holds “{name}”, which is no part of an archive.", name=name[:80]))
            if info.flag_bits & 1:
                raise ArchiveRefused(say("It is locked with a password."), say("Bring it unlocked."))
            if info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
                raise ArchiveRefused(say("{name} is packed in a way we do not read.", name=name))
        for name in (MANIFEST, HOUSEHOLD):
            if name not in seen:
                raise ArchiveRefused(say("{name} is missing: this is no Good Crate archive.", name=name))

    def _manifest(self) -> Manifest:
        said = _parsed(self._whole(MANIFEST), MANIFEST)
        number = said.get("good_crate_archive") if isinstance(said, dict) else None
        if isinstance(number, int) and number > ARCHIVE_FORMAT:
            raise ArchiveRefused(
                say(
                    "It is of format {number}, made by a newer Good Crate; this one reads {ARCHIVE_FORMAT}.",
                    number=number,
                    ARCHIVE_FORMAT=ARCHIVE_FORMAT,
                ),
                say("Update Good Crate, then bring it again."),
            )
        try:
            manifest = Manifest.model_validate(said)
        except ValidationError as error:
            place = ".".join(map(str, error.errors()[0]["loc"]))[:60]
            raise ArchiveRefused(
                say("{MANIFEST} cannot be read at “{place}”.", MANIFEST=MANIFEST, place=place)
            ) from None
        unknown = sorted(manifest.rows.keys() - self._tables.keys())
        if unknown:
            raise ArchiveRefused(say("It holds “{name}”, which is no part of an archive.", name=unknown[0][:80]))
        if not 0 <= sum(manifest.rows.values()) <= MOST_ROWS or min(manifest.rows.values(), default=0) < 0:
            raise ArchiveRefused(
                say("It says it has more rows than anybody has: at most {MOST_ROWS} are read.", MOST_ROWS=MOST_ROWS)
            )
        return manifest

    def _whole(self, name: str) -> bytes:
        with self._member(name) as member:
            data = member.read(MOST_LETTERS + 1)
        self._count(len(data))
        if len(data) > MOST_LETTERS:
            raise ArchiveRefused(say("{name} is too large.", name=name))
        return data

    def _lines(self, name: str) -> Iterator[bytes]:
        if name not in self._packed.namelist():
            return
        with self._member(name) as member:
            while line := member.readline(MOST_LETTERS + 1):
                self._count(len(line))
                if len(line) > MOST_LETTERS:
                    raise ArchiveRefused(say("A line of {name} is too long.", name=name))
                yield line

    @contextmanager
    def _member(self, name: str) -> Iterator[IO[bytes]]:
        try:
            with self._packed.open(name) as member:
                yield member
        except (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError, ValueError):
            raise ArchiveRefused(
                say("{name} is damaged.", name=name), say("Make the archive again, or bring another copy.")
            ) from None

    def _count(self, size: int) -> None:
        self._left -= size
        if self._left < 0:
            raise ArchiveRefused(say("Unpacked it is larger than any household’s archive."))


@contextmanager
def reading(file: IO[bytes], tables: Mapping[str, TableShape]) -> Iterator[ArchiveReader]:
    """Open an archive that somebody brought.

    Raises:
        ArchiveRefused: when it is none, damaged, newer than we are, or larger than any archive is.
    """
    _look_at_end(file)
    try:
        packed = zipfile.ZipFile(file)
    except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError):
        raise ArchiveRefused(
            say("This is no zip file, or not all of it."), say("Bring the file as it came out.")
        ) from None
    with packed:
        yield ArchiveReader(packed, tables)


def _look_at_end(file: IO[bytes]) -> None:
    """A zip says at its end how many members it lists: looked at before anybody reads that list."""
    size = file.seek(0, 2)
    if size > LARGEST_ARCHIVE_BYTES:
        raise ArchiveRefused(say("This is larger than {mb} MB.", mb=LARGEST_ARCHIVE_BYTES // 1_000_000))
    file.seek(max(0, size - _END.size - 20))
    tail = file.read()
    file.seek(0)
    if len(tail) < _END.size or tail[-_END.size :][:4] != _END_MARK:
        raise ArchiveRefused(say("This is no zip file, or not all of it."), say("Bring the file as it came out."))
    _, _, _, _, members, directory_bytes, _, comment = _END.unpack(tail[-_END.size :])
    if (
        tail[: -_END.size][-20:].startswith(_ZIP64_MARK)
        or members > MOST_MEMBERS
        or comment
        or directory_bytes > LARGEST_DIRECTORY_BYTES
    ):
        raise ArchiveRefused(say("It holds more files than an archive has."))


def _parsed(line: bytes, where: str) -> object:
    try:
        return json.loads(line, object_pairs_hook=_once, parse_constant=_no_number)
    except _TwiceNamed as twice:
        raise InvalidInput(where, say("“{name}” is named twice.", name=str(twice)[:40])) from None
    except (ValueError, RecursionError):
        raise InvalidInput(where, say("This is no JSON.")) from None


class _TwiceNamed(Exception):
    pass


def _once(pairs: list[tuple[str, object]]) -> dict[str, object]:
    named = dict(pairs)
    if len(named) != len(pairs):
        names = [name for name, _ in pairs]
        raise _TwiceNamed(next(name for name in names if names.count(name) > 1))
    return named


def _no_number(name: str) -> object:
    raise ValueError(name)
