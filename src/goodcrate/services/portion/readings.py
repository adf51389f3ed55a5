"""A session's weighings, every one as it was written down: what counts, what was undone, and how each is known."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import select

from goodcrate.db.cook import BatchLineRow, BatchRow, WeighingRow
from goodcrate.db.recipes import ComponentRow, RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxContentRow
from goodcrate.db.week import SessionRow
from goodcrate.services.calling import Caller, existing


@dataclass(frozen=True, slots=True)
class Reading:
    """One weighing, in g. `what` is the food, or empty; `subject` is the id of the line, pot or box; `counts` is False
    where a later one of the same subject took its place or took it out."""

    id: UUID
    at: datetime
    recipe: str
    component: str
    kind: str
    what: str
    subject: str
    gross_g: float | None
    tare_g: float | None
    net_g: float | None
    how: str
    pieces: int
    teaspoons: int
    tablespoons: int
    counts: bool


def readings_of(caller: Caller, session_id: UUID) -> tuple[Reading, ...]:
    """All weighings of a prep session, in the order they were written down.

    Raises:
        NotFound: when the household has no such session.
    """
    with caller.transaction() as session:
        existing(session, SessionRow, session_id, "session")
        batches = {row.id: row for row in session.scalars(select(BatchRow).where(BatchRow.session_id == session_id))}
        if not batches:
            return ()
        rows = session.scalars(
            select(WeighingRow).where(WeighingRow.batch_id.in_(batches)).order_by(WeighingRow.seq)
        ).all()
        last = {(row.batch_id, _subject(row)): row.id for row in rows}
        names, foods = _names(session, batches), _foods(session, batches)
        boxes = _boxes(session, rows)
        return tuple(
            Reading(
                row.id,
                row.weighed_at,
                *names[row.batch_id],
                row.kind if not row.rest_as else row.rest_as,
                foods.get(row.batch_line_id, ""),
                boxes.get(row.content_id, _subject(row)),
                gross_g=None if row.gross_g is None else float(row.gross_g),
                tare_g=None if row.tare_g is None else float(row.tare_g),
                net_g=None if row.net_g is None else float(row.net_g),
                how=row.how,
                pieces=row.pieces,
                teaspoons=row.teaspoons,
                tablespoons=row.tablespoons,
                counts=row.net_g is not None and last[row.batch_id, _subject(row)] == row.id,
            )
            for row in rows
            if row.batch_id is not None
        )


def _subject(row: WeighingRow) -> str:
    return str(row.batch_line_id or row.pot_id or row.content_id or row.rest_as)


def _names(session: HouseholdSession, batches: dict[UUID, BatchRow]) -> dict[UUID, tuple[str, str]]:
    """By batch: its recipe and its component, by name."""
    recipes = select(RecipeRow.id, RecipeRow.name).where(RecipeRow.id.in_({b.recipe_id for b in batches.values()}))
    parts = select(ComponentRow.id, ComponentRow.name).where(
        ComponentRow.id.in_({b.component_id for b in batches.values()})
    )
    recipe_names = {row.id: row.name for row in session.execute(recipes)}
    part_names = {row.id: row.name for row in session.execute(parts)}
    return {key: (recipe_names.get(b.recipe_id, ""), part_names.get(b.component_id, "")) for key, b in batches.items()}


def _foods(session: HouseholdSession, batches: dict[UUID, BatchRow]) -> dict[UUID | None, str]:
    lines = session.scalars(select(BatchLineRow).where(BatchLineRow.batch_id.in_(batches)))
    return {line.id: line.food.name for line in lines}


def _boxes(session: HouseholdSession, rows: Sequence[WeighingRow]) -> dict[UUID | None, str]:
    wanted = {row.content_id for row in rows if row.content_id is not None}
    found = session.execute(select(BoxContentRow.id, BoxContentRow.box_id).where(BoxContentRow.id.in_(wanted)))
    return {row.id: str(row.box_id) for row in found}
