"""Looking an archive through before anything is written: what it holds, what of it would come, and why something stays
out."""

import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, select

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import dated
from goodcrate.core.week.placings import LONGEST_WEEK_DAYS
from goodcrate.db.whole import ids_of
from goodcrate.formats.archive.container import ArchiveReader
from goodcrate.formats.archive.shape import DOCUMENT, ID, TEXT, TableShape
from goodcrate.services.archive.tables import OWNER, archived, shapes
from goodcrate.services.archive.telling import Told, in_silence

Place = tuple[str, UUID]
"""A row: its table and its id."""
Values = Mapping[str, Any]
NAMED_BY = {"week": "first_day", "equipment": "kind", "line_habit": "words"}
"""The column a thing is called by, where that is not its name."""
SAME_FOOD = ("origin_key", "barcode")
"""What says that two foods are one: the row of the reference table they were taken from, or the code on the pack."""
SAID_OF_FOOD = ("floor",)
"""Tables with one row for a food: of a food that is here, what is said here counts."""
MOST_NAMED = 40
_UUID = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}")


@dataclass
class _Seen:
    """A row of an archive as far as others matter to it."""

    whole: Place
    points: tuple[Place, ...]
    keeps_figures: bool = False


@dataclass
class Looked:
    """An archive that was read to its end, and holds together in itself. `called` are its wholes by name."""

    manifest_household: str
    made_at: str
    seen: dict[Place, _Seen] = field(default_factory=dict)
    called: dict[Place, str] = field(default_factory=dict)
    uniques: dict[tuple[str, tuple[str, ...]], dict[tuple[object, ...], UUID]] = field(default_factory=dict)
    weeks: dict[UUID, tuple[date, int]] = field(default_factory=dict)

    def counts(self, comes: Callable[[Place], bool]) -> dict[str, int]:
        """How many rows of each table come."""
        return dict(Counter(place[0] for place in self.seen if comes(place)))


def look_through(reader: ArchiveReader, told: Told = in_silence) -> Looked:
    """Read an archive to its end.

    Raises:
        InvalidInput: naming the first line that cannot be: a value of the wrong kind, an id or a name that is there
            twice, or one that points to a row the archive does not hold.
    """
    looked = Looked(reader.manifest.household, reader.manifest.made_at.isoformat())
    later: list[tuple[Place, str, str]] = []
    for n, (name, shape) in enumerate(shapes().items()):
        told(n / len(shapes()), say("Reading what it holds"))
        for number, row in reader.rows(shape):
            _look_at(looked, shape, row, f"data/{name}.jsonl:{number}", later)
    for place, where, column in later:
        if place not in looked.seen:
            lost = {"column": column, "table": place[0], "id": place[1]}
            words = say("{column} points to a row of {table} that the archive does not hold ({id}).", **lost)
            raise InvalidInput(where, words)
    return looked


def _look_at(looked: Looked, shape: TableShape, row: Values, where: str, later: list[tuple[Place, str, str]]) -> None:
    place = (shape.name, row["id"])
    if place in looked.seen:
        raise InvalidInput(where, say("The id {id} is there twice.", id=place[1]))
    points = []
    for column in shape.columns:
        target = row[column.name]
        if column.points_to is not None and isinstance(target, UUID):
            there = (column.points_to, target)
            points.append(there)
            if there not in looked.seen:
                later.append((there, where, column.name))
    owner = row.get(OWNER.get(shape.name, ""))
    whole = place
    if isinstance(owner, UUID):
        above = shape.by_name[OWNER[shape.name]].points_to
        whole = looked.seen[str(above), owner].whole if (str(above), owner) in looked.seen else place
    looked.seen[place] = _Seen(whole, tuple(points), row.get("kept_version") is not None)
    _note_uniques(looked, shape, row, where)
    if whole == place:
        called = row.get(NAMED_BY.get(shape.name, "name"))
        looked.called[place] = dated(called) if isinstance(called, date) else str(called or shape.name)
    if shape.name == "week":
        looked.weeks[place[1]] = (row["first_day"], min(row["days"], LONGEST_WEEK_DAYS))


def _note_uniques(looked: Looked, shape: TableShape, row: Values, where: str) -> None:
    for rule in shape.uniques:
        key = tuple(row[name] for name in rule)
        if None in key:
            continue
        there = looked.uniques.setdefault((shape.name, rule), {})
        if key in there:
            words = say("There is another row with the same {names}.", names=", ".join(rule))
            raise InvalidInput(where, words)
        there[key] = row["id"]


@dataclass
class Joined:
    """What of an archive comes into a household that has data of its own, when what is there wins.

    `instead` says which food of the household stands for which of the archive; `out` why wholes stay out.
    """

    looked: Looked
    instead: Mapping[UUID, UUID]
    out: Mapping[Place, str]

    def comes(self, place: Place) -> bool:
        """Whether a row comes in: with its whole, or not at all."""
        return self.looked.seen[place].whole not in self.out

    def placed(self, shape: TableShape, row: Values) -> dict[str, object]:
        """A row as it comes in: with the household's own foods where they stand for the archive's."""
        if not self.instead:
            return dict(row)
        return {column.name: self._placed(column.kind, row[column.name]) for column in shape.columns}

    def _placed(self, kind: str, value: object) -> object:
        if kind == ID and isinstance(value, UUID):
            return self.instead.get(value, value)
        if kind in (TEXT, DOCUMENT) and isinstance(value, str):
            return _UUID.sub(lambda found: str(self.instead.get(UUID(found[0]), found[0])), value)
        return value


HERE, CLASHES, NEEDS = "here", "clashes", "needs"
"""Why a whole stays out: it is here, something else has its place, or it needs what stays out."""


def join(connection: Connection, household_id: UUID, looked: Looked) -> Joined:
    """What comes of an archive when what is here wins. A week, a recipe, an eater comes whole or stays out whole."""
    here = {name: ids_of(connection, owned, household_id) for name, owned in archived().items()}
    out: dict[Place, str] = {}
    for place, seen in looked.seen.items():
        if place[1] in here[place[0]]:
            out[seen.whole] = HERE
    instead = _same_foods(connection, household_id, looked, out)
    for food in instead:
        out["food", food] = HERE
    for place, seen in looked.seen.items():
        if place[0] in SAID_OF_FOOD and any(p[1] in instead for p in seen.points):
            out[seen.whole] = CLASHES
    for place, why in _clashes(connection, household_id, looked, here):
        if place[0] != "food" or place[1] not in instead:
            out.setdefault(looked.seen[place].whole, why)
    grew = True
    while grew:
        grew = False
        for seen in looked.seen.values():
            if (seen.whole not in out and not all(_is_there(p, looked, here, out, instead) for p in seen.points)) or (
                seen.whole not in out and seen.keeps_figures and any(p[1] in instead for p in seen.points)
            ):
                out[seen.whole] = NEEDS
                grew = True
    return Joined(looked, instead, out)


def _is_there(
    place: Place, looked: Looked, here: Mapping[str, set[UUID]], out: Mapping[Place, str], instead: Mapping[UUID, UUID]
) -> bool:
    if place[1] in here[place[0]] or (place[0] == "food" and place[1] in instead):
        return True
    return looked.seen[place].whole not in out


def _same_foods(
    connection: Connection, household_id: UUID, looked: Looked, out: Mapping[Place, str]
) -> dict[UUID, UUID]:
    """Foods of the archive that the household has under another id, by the archive's id."""
    food = archived()["food"].raw
    instead: dict[UUID, UUID] = {}
    for name in SAME_FOOD:
        own = looked.uniques.get(("food", (name,)), {})
        there = select(food.c.id, food.c[name]).where(food.c.household_id == household_id, food.c[name].is_not(None))
        for row in connection.execute(there):
            archive_id = own.get((row[1],))
            if archive_id is not None and archive_id != row[0] and ("food", archive_id) not in out:
                instead.setdefault(archive_id, row[0])
    return instead


def _clashes(
    connection: Connection, household_id: UUID, looked: Looked, here: Mapping[str, set[UUID]]
) -> Iterator[tuple[Place, str]]:
    """Rows whose place something else has here."""
    for (name, rule), own in looked.uniques.items():
        raw = archived()[name].raw
        there = select(*(raw.c[column] for column in rule)).where(raw.c.household_id == household_id)
        for row in connection.execute(there):
            found = own.get(tuple(row))
            if found is not None and found not in here[name]:
                yield (name, found), CLASHES
    week = archived()["week"].raw
    taken = set[date]()
    for first, days in connection.execute(
        select(week.c.first_day, week.c.days).where(week.c.household_id == household_id)
    ):
        taken.update(first + timedelta(days=n) for n in range(days))
    for week_id, (first, days) in looked.weeks.items():
        if week_id not in here["week"] and taken & {first + timedelta(days=n) for n in range(days)}:
            yield ("week", week_id), CLASHES


def _anything(place: Place) -> bool:
    return True


THINGS = ("eater", "recipe", "food", "vessel", "week", "box", "weighing")
"""What a dry run counts one by one; all other rows are parts of these."""


def report_of(looked: Looked, joined: Joined | None = None) -> Document:
    """A dry run as it is kept and shown: what comes, by kind, and what stays out and why."""
    comes: Callable[[Place], bool] = _anything if joined is None else joined.comes
    counts = looked.counts(comes)
    weeks = sorted(looked.weeks[place[1]] for place in looked.called if place[0] == "week" and comes(place))
    last = weeks[-1][0] + timedelta(days=weeks[-1][1] - 1) if weeks else None
    out = {} if joined is None else joined.out
    named = [p for p in out if p in looked.called and out[p] != HERE]
    return {
        "household": looked.manifest_household,
        "made_at": looked.made_at,
        "rows": sum(counts.values()),
        "counts": {name: counts.get(name, 0) for name in THINGS},
        "eaters": sorted(looked.called[p] for p in looked.called if p[0] == "eater" and comes(p))[:MOST_NAMED],
        "first_day": weeks[0][0].isoformat() if weeks else None,
        "last_day": last.isoformat() if last else None,
        "out": [[p[0], looked.called[p], out[p]] for p in named[:MOST_NAMED]],
        "out_count": len(named),
        "here_count": sum(1 for p in out if out[p] == HERE),
    }
