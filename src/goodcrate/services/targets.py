"""Targets: the household's eaters with their day types, slots and exclusions."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import time
from uuid import UUID

from sqlalchemy import func, select

from goodcrate.core.errors import InvalidInput, InvalidInputs
from goodcrate.core.foods import ALLERGENS
from goodcrate.core.targets import DayTarget, low_energy_caution
from goodcrate.db.session import HouseholdSession
from goodcrate.db.targets import DayType, Eater, Slot
from goodcrate.db.week import PlacementRow
from goodcrate.services.calling import Caller, StaleWrite, add_once, existing

MOST_EATERS, MOST_DAY_TYPES, MOST_SLOTS = 6, 5, 8


@dataclass(frozen=True)
class DayTypeInput:
    """A typed day type; weekdays count from Monday = 0."""

    id: UUID
    name: str
    energy_kcal: float
    protein_floor_g: float
    energy_band_pct: float = 3.0
    weekdays: tuple[int, ...] = ()


@dataclass(frozen=True)
class SlotInput:
    """A typed slot."""

    id: UUID
    name: str
    at: time
    eaten_cold: bool = False
    travels: bool = False


@dataclass(frozen=True)
class EaterInput:
    """A typed eater; `version` is the one it was read at, 0 for a new one."""

    id: UUID
    name: str
    day_types: tuple[DayTypeInput, ...]
    slots: tuple[SlotInput, ...]
    about: str = ""
    excluded_allergens: tuple[str, ...] = ()
    no_pork: bool = False
    dislikes: str = ""
    clinician_confirmed: bool = False
    version: int = 0
    field_prefixes: dict[UUID, str] = field(default_factory=dict)

    def at(self, row_id: UUID, name: str) -> str:
        """The form field of a row's figure, for messages."""
        return f"{self.field_prefixes.get(row_id, str(row_id))}-{name}"


def list_eaters(caller: Caller) -> list[Eater]:
    """The household's eaters in their order, with day types and slots."""
    with caller.transaction() as session:
        return list(session.scalars(select(Eater).order_by(Eater.position, Eater.name)))


def get_eater(caller: Caller, eater_id: UUID) -> Eater:
    """One eater.

    Raises:
        NotFound: when the household has none with this id.
    """
    with caller.transaction() as session:
        return existing(session, Eater, eater_id, "eater")


def save_eater(caller: Caller, typed: EaterInput) -> None:
    """Save a new or changed eater. Sending a new one twice saves one.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: for a changed eater the household does not have.
        StaleWrite: when somebody saved a newer version in the meantime.
    """
    _check(typed)
    with caller.transaction() as session:
        if typed.version == 0:
            row = Eater(id=typed.id, version=1)
            _fill(row, typed)
            row.position = session.scalar(select(func.count(Eater.id))) or 0
            if row.position >= MOST_EATERS:
                raise InvalidInputs([InvalidInput("name", f"A household has at most {MOST_EATERS} eaters.")])
            if not add_once(session, row):
                return
        else:
            row = existing(session, Eater, typed.id, "eater")
            if row.version != typed.version:
                raise StaleWrite("eater", row.version)
            row.version = typed.version + 1
            _fill(row, typed)
        _put_day_types(row, typed)
        _put_slots(session, row, typed)


def _fill(row: Eater, typed: EaterInput) -> None:
    row.name, row.about, row.dislikes = typed.name.strip(), typed.about.strip(), typed.dislikes.strip()
    row.excluded_allergens, row.no_pork = sorted(typed.excluded_allergens), typed.no_pork


def _put_day_types(row: Eater, typed: EaterInput) -> None:
    kept = {d.id: d for d in row.day_types}
    rows = []
    for place, d in enumerate(typed.day_types):
        day_type = kept.get(d.id) or DayType(id=d.id)
        day_type.name, day_type.weekdays, day_type.position = d.name, sorted(d.weekdays), place
        day_type.energy_kcal, day_type.energy_band_pct = d.energy_kcal, d.energy_band_pct
        day_type.protein_floor_g, day_type.clinician_confirmed = d.protein_floor_g, typed.clinician_confirmed
        rows.append(day_type)
    row.day_types[:] = rows


def _put_slots(session: HouseholdSession, row: Eater, typed: EaterInput) -> None:
    kept = {s.id: s for s in row.slots}
    gone = kept.keys() - {s.id for s in typed.slots}
    if gone and session.scalar(select(PlacementRow.id).where(PlacementRow.slot_id.in_(gone)).limit(1)):
        raise InvalidInputs(
            [InvalidInput("slots", "A slot that holds meals cannot be removed.", "Clear it in the week first.")]
        )
    rows = []
    for place, s in enumerate(typed.slots):
        slot = kept.get(s.id) or Slot(id=s.id)
        slot.name, slot.at, slot.eaten_cold, slot.travels = s.name, s.at, s.eaten_cold, s.travels
        slot.position = place
        rows.append(slot)
    row.slots[:] = rows


def _check(typed: EaterInput) -> None:
    faults: list[InvalidInput] = []
    if not 1 <= len(typed.name.strip()) <= 160:
        faults.append(InvalidInput("name", "An eater needs a name.", "1 to 160 letters."))
    if not 1 <= len(typed.day_types) <= MOST_DAY_TYPES:
        faults.append(InvalidInput("day_types", "At least one kind of day needs a target.", f"1 to {MOST_DAY_TYPES}."))
    if not 1 <= len(typed.slots) <= MOST_SLOTS:
        faults.append(InvalidInput("slots", "An eating day needs slots.", f"1 to {MOST_SLOTS}."))
    unknown = sorted(set(typed.excluded_allergens) - ALLERGENS.keys())
    faults.extend(InvalidInput("allergens", f"“{a}” is none of the 14 declared allergens.") for a in unknown)
    nameless = (s for s in typed.slots if not 1 <= len(s.name.strip()) <= 40)
    faults.extend(InvalidInput(typed.at(s.id, "name"), "A slot needs a name.", "1 to 40 letters.") for s in nameless)
    claimed: dict[int, str] = {}
    for d in typed.day_types:
        faults.extend(_day_type_faults(typed, d, claimed))
    if faults:
        raise InvalidInputs(faults)


def _day_type_faults(typed: EaterInput, d: DayTypeInput, claimed: dict[int, str]) -> Iterator[InvalidInput]:
    if not 1 <= len(d.name.strip()) <= 40:
        yield InvalidInput(typed.at(d.id, "name"), "A kind of day needs a name.", "1 to 40 letters.")
    for weekday in d.weekdays:
        if weekday in claimed:
            problem = f"A weekday is already a “{claimed[weekday]}” day."
            yield InvalidInput(typed.at(d.id, "weekdays"), problem, "Tick it once.")
        claimed[weekday] = d.name
    try:
        DayTarget(d.energy_kcal, d.protein_floor_g, d.energy_band_pct)
    except InvalidInputs as found:
        for fault in found.faults:
            yield InvalidInput(typed.at(d.id, fault.field), fault.problem, fault.wanted)
    caution = low_energy_caution(d.energy_kcal)
    if caution and caution.needs_confirmation and not typed.clinician_confirmed:
        wanted = "Confirm below that a clinician gave this target."
        yield InvalidInput(typed.at(d.id, "energy_kcal"), caution.text, wanted)
