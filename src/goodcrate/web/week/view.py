"""The week as its page shows it: a row per day, per eater the slots with their boxes and the day's beams."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from uuid import UUID

from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import clock
from goodcrate.core.portion.filled_boxes import WEIGHED
from goodcrate.core.portion.week_outcome import PlacedBox
from goodcrate.core.targets.day_target import DayTarget, Standing, WeekMean, banded_amount
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.slot import Slot
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import FREEZER, PAST, Stay
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.drawing import (
    BandLine,
    Beam,
    BoxDrawing,
    band_lines,
    draw_box,
    energy_beam,
    energy_words,
    protein_beam,
)
from goodcrate.web.figures import whole


@dataclass(frozen=True)
class Cell:
    """One slot of one day: a box, or a gap to fill."""

    slot: Slot
    key: str
    placement: Meal | None
    name: str
    energy_kcal: float
    protein_g: float
    drawing: BoxDrawing | None
    stage: str
    was_kcal: float | None = None
    stay: Stay | None = None

    @property
    def is_frozen(self) -> bool:
        """It waits in the freezer."""
        return self.stay is not None and self.stay.place == FREEZER

    @property
    def is_past(self) -> bool:
        """It would be eaten past the guidance, and does not freeze."""
        return self.stay is not None and self.stay.place == PAST

    @property
    def is_packed(self) -> bool:
        """All of it is weighed in the box."""
        return self.stage == WEIGHED


@dataclass(frozen=True)
class EaterDay:
    """One eater's day: cells in slot order, the total, and its beams (None without a target or without meals)."""

    eater: Eater
    day_type: str
    cells: tuple[Cell, ...]
    total: Tally
    target: DayTarget | None
    energy: Beam | None
    protein: Beam | None
    bands: tuple[BandLine, ...] = ()

    @property
    def keeps_all(self) -> bool:
        """Inside its energy band, above its protein floor, and inside any other band it has."""
        beams = [beam for beam in (self.energy, self.protein) if beam is not None]
        return len(beams) == 2 and all(b.is_inside for b in beams) and all(b.is_inside for b in self.bands)

    @property
    def meals(self) -> int:
        """Slots with a meal."""
        return sum(cell.placement is not None for cell in self.cells)


@dataclass(frozen=True)
class DayRow:
    """One dated day of the week."""

    day: date
    is_today: bool
    cooks_at: tuple[str, ...]
    eaters: tuple[EaterDay, ...]


@dataclass(frozen=True)
class MeanMark:
    """An eater's mean over the whole days, kcal a day; where the mean is what counts, how it stands, in words too."""

    days: int
    kcal: float
    target_kcal: float
    by_pct: float
    standing: str = ""
    words: str = ""

    @classmethod
    def of(cls, mean: WeekMean, outside: Sequence[str] = ()) -> "MeanMark":
        """With “ok” or “bad” as its standing, where it is judged; `outside` are the other bands it misses."""
        seen = (mean.days, mean.kcal, mean.target_kcal, mean.by_pct)
        if mean.judged is None:
            return cls(*seen)
        energy, protein = mean.judged
        if energy.standing != Standing.INSIDE:
            return cls(*seen, "bad", f", {energy_words(energy)}")
        if protein.standing != Standing.INSIDE:
            return cls(*seen, "bad", say(", {by} g protein short", by=whole(protein.by)))
        if outside:
            return cls(*seen, "bad", say(", {what} outside", what=", ".join(outside)))
        return cls(*seen, "ok", say(", in band"))


@dataclass(frozen=True)
class WeekView:
    """The whole grid with its headline figures."""

    rows: tuple[DayRow, ...]
    placed: int
    slots: int
    gaps: int
    batches: int
    days_in_band: int
    days_judged: int
    moved: int = 0
    means: Mapping[UUID, MeanMark] = field(default_factory=dict)


def cell_key(eater_id: UUID, slot_id: UUID, day: date) -> str:
    """How a gap is named in an address."""
    return f"{eater_id}.{slot_id}.{day.isoformat()}"


def week_view(picture: WeekPicture, today: date) -> WeekView:
    """Arrange a worked-out week by days and eaters."""
    by_place = {(p.eater_id, p.slot_id, p.day): p for p in picture.meals}
    rows = []
    for day in picture.dates:
        eaters = tuple(_eater_day(eater, day, by_place, picture) for eater in picture.eaters)
        cooks = tuple(clock(s.starts_at.time()) for s in picture.sessions if s.starts_at.date() == day)
        rows.append(DayRow(day, day == today, cooks, eaters))
    judged = [e for row in rows for e in row.eaters if e.energy is not None]
    slots = sum(len(_open_slots(e)) for e in picture.eaters) * len(picture.dates) + _on_closed_slots(picture)
    return WeekView(
        tuple(rows),
        len(picture.meals),
        slots,
        slots - len(picture.meals),
        batches=len(picture.outcome.batches),
        days_in_band=sum(e.keeps_all for e in judged),
        days_judged=len(judged),
        moved=sum(p.servings_before is not None for p in picture.meals),
        means=_means(rows, picture),
    )


def _open_slots(eater: Eater) -> list[Slot]:
    return [] if eater.is_archived else [slot for slot in eater.slots if not slot.is_archived]


def _on_closed_slots(picture: WeekPicture) -> int:
    """Meals in slots that were put aside since."""
    still_open = {slot.id for eater in picture.eaters for slot in _open_slots(eater)}
    return sum(p.slot_id not in still_open for p in picture.meals)


def _means(rows: Sequence[DayRow], picture: WeekPicture) -> dict[UUID, MeanMark]:
    """By eater, over the whole days."""
    by_eater: dict[UUID, list[tuple[date, EaterDay]]] = {}
    for row in rows:
        for e in row.eaters:
            if e.target is not None and e.meals >= len(e.cells):
                by_eater.setdefault(e.eater.id, []).append((row.day, e))
    return {key: _mean(days, picture.polyol_share) for key, days in by_eater.items()}


def _mean(days: Sequence[tuple[date, EaterDay]], polyol_share: float) -> MeanMark:
    wanted = days[0][1].eater.mean_over(day.weekday() for day, _ in days)
    sums = [
        (
            e.total.amount("energy_kcal").value,
            e.total.amount("protein_g").value,
            e.target.energy_kcal if e.target else 0.0,
        )
        for _, e in days
    ]
    others = {
        band.key: sum(banded_amount(e.total, band.key, polyol_share) for _, e in days) / len(days)
        for band in (wanted.bands if wanted else ())
    }
    return MeanMark.of(WeekMean.of(sums, wanted), wanted.missed_bands(others) if wanted else ())


def _eater_day(
    eater: Eater, day: date, by_place: Mapping[tuple[UUID, UUID, date], Meal], picture: WeekPicture
) -> EaterDay:
    cells, tallies = [], []
    for slot in eater.slots:
        placement = by_place.get((eater.id, slot.id, day))
        key = cell_key(eater.id, slot.id, day)
        if placement is None:
            cells.append(Cell(slot, key, None, "", 0, 0, drawing=None, stage=""))
            continue
        box = picture.outcome.boxes[str(placement.id)]
        tallies.append(box.tally)
        name, stay = picture.recipes[str(placement.recipe_id)].name, picture.stays.get(str(placement.id))
        cells.append(_box_cell(slot, key, placement, box, name, stay))
    day_type = eater.day_type_on(day.weekday())
    meals = bool(tallies)
    total, target = Tally.sum([*tallies, eater.extras_tally]), eater.target_on(day.weekday())
    bands: tuple[BandLine, ...] = ()
    energy = protein = None
    if target is not None and meals:
        bands = band_lines(total, target.bands, picture.polyol_share)
        energy = energy_beam(total.amount("energy_kcal").value, target)
        protein = protein_beam(total.amount("protein_g").value, target)
    return EaterDay(
        eater, day_type.name if day_type else "", tuple(cells), total, target, energy, protein=protein, bands=bands
    )


def _box_cell(slot: Slot, key: str, placement: Meal, box: PlacedBox, name: str, stay: Stay | None) -> Cell:
    energy, protein = box.tally.amount("energy_kcal").value, box.tally.amount("protein_g").value
    was = None
    if placement.servings_before is not None and placement.servings > 0:
        was = energy * placement.servings_before / placement.servings
    return Cell(
        slot,
        key,
        placement,
        name,
        energy,
        protein,
        drawing=draw_box(box.parts),
        stage=box.stage,
        was_kcal=was,
        stay=stay,
    )


def eater_day_at(view: WeekView, eater_id: UUID, day: date) -> EaterDay | None:
    """One eater's day in the grid, or None."""
    found = (e for row in view.rows if row.day == day for e in row.eaters if e.eater.id == eater_id)
    return next(found, None)


def cells_of(view: WeekView) -> Sequence[tuple[EaterDay, Cell, date]]:
    """Every cell with its eater's day and date, in reading order."""
    return [(e, cell, row.day) for row in view.rows for e in row.eaters for cell in e.cells]
