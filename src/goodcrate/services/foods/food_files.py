"""Foods in and out as files: a dry run that says what would happen, then the yes, then all of it or nothing."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import timedelta
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.foods.food import IMPORTED, OF_A_FOOD, Food
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.db.foods import FoodImportRow, FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.csv_table import decode_file
from goodcrate.formats.food_csv import CsvRow, read_foods, write_foods
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller, NotFound, add_once, existing, let_go, utc_now
from goodcrate.services.foods.labels import put_figures

ADDED, CHANGED, SAME, REFUSED = "added", "changed", "same", "refused"
KEPT_FOR = timedelta(days=1)
"""An uploaded file nobody said yes to is dropped after a day."""


@dataclass(frozen=True)
class RowReport:
    """What one row would do, and why; `before` is the food it would change."""

    line: int
    name: str
    verdict: str
    why: str
    before: Food | None = None
    after: Food | None = None


@dataclass(frozen=True)
class FileReport:
    """What a file would do, row by row; nothing is changed until it is applied."""

    id: UUID
    name: str
    notice: str
    rows: tuple[RowReport, ...]

    def of(self, verdict: str) -> tuple[RowReport, ...]:
        """The rows with one verdict."""
        return tuple(row for row in self.rows if row.verdict == verdict)

    @property
    def to_import(self) -> int:
        """How many foods an import would add or change."""
        return len(self.of(ADDED)) + len(self.of(CHANGED))


def upload(caller: Caller, file_id: UUID, name: str, data: bytes, encoding: str = "auto") -> None:
    """Take a file in for its report. Nothing of it becomes a food yet.

    Raises:
        InvalidInput: when the file as a whole cannot be read.
    """
    decoded = decode_file(data, encoding)
    for _ in read_foods(decoded.text):
        break  # the header is judged before the first row
    with caller.transaction() as session:
        let_go(session, FoodImportRow, FoodImportRow.uploaded_at < utc_now() - KEPT_FOR)
        add_once(
            session,
            FoodImportRow(
                id=file_id,
                name=name[:160] or "foods.csv",
                encoding=f"{decoded.encoding}"[:20],
                content=decoded.text,
                uploaded_at=utc_now(),
            ),
        )


def report(caller: Caller, file_id: UUID) -> FileReport:
    """What applying an uploaded file would add, change and refuse, and why.

    Raises:
        NotFound: when it is not there (any more).
        InvalidInput: when the file as a whole cannot be read.
    """
    with caller.transaction() as session:
        row = existing(session, FoodImportRow, file_id, say("uploaded file"))
        notice = (
            ""
            if row.encoding == "utf-8"
            else say("Read as {encoding}: check the accents below.", encoding=row.encoding)
        )
        planned = _plan(session, tuple(read_foods(row.content)))
        return FileReport(file_id, row.name, notice, tuple(r for r, _ in planned))


def apply(caller: Caller, file_id: UUID) -> Mapping[str, int]:
    """Apply an uploaded file in one transaction: every usable row, or, on any failure, none. Twice is once.

    Returns how many rows had each verdict.

    Raises:
        NotFound: when it is not there (any more).
        InvalidInput: when the file as a whole cannot be read.
    """
    with caller.transaction() as session:
        file = session.scalar(select(FoodImportRow).where(FoodImportRow.id == file_id).with_for_update())
        if file is None:
            raise NotFound(say("uploaded file"))
        if file.applied is not None:
            return file.applied
        now, counts = utc_now(), dict.fromkeys((ADDED, CHANGED, SAME, REFUSED), 0)
        for said, target in _plan(session, tuple(read_foods(file.content))):
            counts[said.verdict] += 1
            if said.verdict not in (ADDED, CHANGED) or said.after is None:
                continue
            row = target or _new_row(session, file_id, said.line, said.after.key)
            put_figures(session, row, said.after)
            row.label, row.source_kind, row.figures_at = None, IMPORTED, now
        file.content, file.applied = "", counts
        return counts


def applied(caller: Caller, file_id: UUID) -> Mapping[str, int] | None:
    """How many rows of a file had each verdict when it was applied; None while it waits for its yes.

    Raises:
        NotFound: when it is not there (any more).
    """
    with caller.transaction() as session:
        return existing(session, FoodImportRow, file_id, say("uploaded file")).applied


def _new_row(session: HouseholdSession, file_id: UUID, line: int, key: str) -> FoodRow:
    origin = _origin(key)
    if origin is not None:
        row = FoodRow.taken_in(session.household_id, reference_foods()[origin])
        session.add(row)
        session.flush()  # its reference figures are kept beside it when the file changes them
        return row
    row = FoodRow(id=uuid5(file_id, str(line)), source="")
    session.add(row)
    return row


def _origin(key: str) -> str | None:
    return key if key in reference_foods() else None


def _plan(session: HouseholdSession, rows: Sequence[CsvRow]) -> list[tuple[RowReport, FoodRow | None]]:
    """Each row's verdict, with the household's row it would change."""
    own = session.scalars(select(FoodRow)).all()
    by_key = {row.key: row for row in own}
    by_barcode = {row.barcode: row for row in own if row.barcode}
    by_name = {row.name.casefold(): row for row in own}
    planned, seen = list[tuple[RowReport, FoodRow | None]](), dict[str, int]()
    barcodes: dict[str, int] = {}
    for row in rows:
        if row.food is None:
            why = " ".join(f"{fault.field}: {fault.message}" for fault in row.faults)
            planned.append((RowReport(row.line, row.name or say("(no name)"), REFUSED, why), None))
            continue
        target = by_key.get(row.given_key)
        if target is None and row.given_key not in reference_foods():
            target = by_barcode.get(row.food.barcode or "") or by_name.get(row.food.name.casefold())
        mark = target.key if target else (_origin(row.given_key) or f"name:{row.food.name.casefold()}")
        clash = _clash(row, target, mark, seen, by_barcode, barcodes)
        if clash:
            planned.append((RowReport(row.line, row.name, REFUSED, clash), None))
            continue
        seen[mark] = row.line
        planned.append((_verdict(row, row.food, target), target))
    return planned


def _clash(
    row: CsvRow,
    target: FoodRow | None,
    mark: str,
    seen: dict[str, int],
    by_barcode: dict[str, FoodRow],
    barcodes: dict[str, int],
) -> str:
    """Why a row cannot stand beside the others, or nothing."""
    if mark in seen:
        return say("The same food as line {seen}, which counts.", seen=seen[mark])
    code = row.food.barcode if row.food else None
    if code is None:
        return ""
    holder = by_barcode.get(code)
    if holder is not None and holder is not target:
        return say("Barcode {code} belongs to {name}.", code=code, name=holder.name)
    if code in barcodes:
        return say("Barcode {code} stands in line {barcodes} already.", code=code, barcodes=barcodes[code])
    barcodes[code] = row.line
    return ""


def _verdict(row: CsvRow, read: Food, target: FoodRow | None) -> RowReport:
    queries = " ".join(row.queries)
    if target is None:
        after = replace(read, key=_origin(row.given_key) or "")
        return RowReport(row.line, read.name, ADDED, queries, None, after)
    before = target.value()
    after = replace(read, key=before.key)
    bare = replace(before, composition=after.composition) if _same_figures(before, after) else before
    if bare == after:
        return RowReport(row.line, read.name, SAME, queries, before, before)
    changes = [name for name in _COMPARED if getattr(before, name) != getattr(after, name)]
    if not _same_figures(before, after):
        old, new = before.composition.get("energy_kcal"), after.composition.get("energy_kcal")
        changes.insert(0, say("figures ({old} → {new} kcal per 100 g)", old=_kcal(old), new=_kcal(new)))
    why = say(
        "Changes {names}. {queries}", names=", ".join(c.replace("_", " ") for c in changes), queries=queries
    ).strip()
    return RowReport(row.line, read.name, CHANGED, why, before, after)


_COMPARED = ("group", "allergens", *OF_A_FOOD)


def _same_figures(a: Food, b: Food) -> bool:
    return a.composition.per_100_g == b.composition.per_100_g


def _kcal(value: float | None) -> str:
    return "unknown" if value is None else f"{shown(value)}"


def export(caller: Caller) -> str:
    """The household's own foods as CSV, by name; reading it back changes nothing."""
    with caller.transaction() as session:
        rows = session.scalars(select(FoodRow).order_by(FoodRow.name, FoodRow.id)).all()
        return write_foods(row.value() for row in rows)
