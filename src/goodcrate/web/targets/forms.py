"""The eater form: what is typed, read into the service's input with every fault named at its field."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import time
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.amounts import read_number
from goodcrate.core.errors import InvalidInput, InvalidInputs
from goodcrate.core.foods import ALLERGENS
from goodcrate.db.targets import Eater
from goodcrate.services.targets import DayTypeInput, EaterInput, SlotInput
from goodcrate.services.week import new_id
from goodcrate.web.figures import plain
from goodcrate.web.security import text

WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


@dataclass
class DayTypeRow:
    """A row of the form as typed."""

    id: str
    name: str = ""
    energy_kcal: str = ""
    protein_floor_g: str = ""
    energy_band_pct: str = "3"
    weekdays: set[int] = field(default_factory=set)


@dataclass
class SlotRow:
    """A row of the form as typed."""

    id: str
    name: str = ""
    at: str = ""
    eaten_cold: bool = False
    travels: bool = False


@dataclass
class EaterForm:
    """The whole form as typed, ready to be shown again unchanged."""

    id: str
    version: int
    name: str = ""
    about: str = ""
    dislikes: str = ""
    no_pork: bool = False
    allergens: set[str] = field(default_factory=set)
    clinician_confirmed: bool = False
    day_types: list[DayTypeRow] = field(default_factory=list)
    slots: list[SlotRow] = field(default_factory=list)

    @classmethod
    def blank(cls) -> "EaterForm":
        """A new eater: one kind of day, and the usual four slots to change."""
        slots = [("breakfast", "07:00"), ("lunch", "12:30"), ("snack", "16:00"), ("dinner", "19:00")]
        return cls(
            str(new_id()), 0,
            day_types=[DayTypeRow(str(new_id()), "every day", weekdays=set(range(7))), DayTypeRow(str(new_id()))],
            slots=[SlotRow(str(new_id()), name, at) for name, at in slots] + [SlotRow(str(new_id()))],
        )  # fmt: skip

    @classmethod
    def of_eater(cls, eater: Eater) -> "EaterForm":
        """A saved eater, with one blank row to add a kind of day and a slot."""
        day_types = [
            DayTypeRow(str(d.id), d.name, plain(d.energy_kcal), plain(d.protein_floor_g), plain(d.energy_band_pct),
                       set(d.weekdays))
            for d in eater.day_types
        ]  # fmt: skip
        slots = [SlotRow(str(s.id), s.name, f"{s.at:%H:%M}", s.eaten_cold, s.travels) for s in eater.slots]
        return cls(
            str(eater.id), eater.version, eater.name, eater.about, eater.dislikes, eater.no_pork,
            set(eater.excluded_allergens), any(d.clinician_confirmed for d in eater.day_types),
            [*day_types, DayTypeRow(str(new_id()))], [*slots, SlotRow(str(new_id()))],
        )  # fmt: skip

    @classmethod
    def of_post(cls, form: FormData, eater_id: str) -> "EaterForm":
        """The form as it was sent."""
        day_types = [
            DayTypeRow(
                row, text(form, f"day-{row}-name"), text(form, f"day-{row}-energy_kcal"),
                text(form, f"day-{row}-protein_floor_g"), text(form, f"day-{row}-energy_band_pct"),
                {int(v) for v in form.getlist(f"day-{row}-weekdays") if isinstance(v, str) and v in "0123456" and v},
            )
            for row in _rows(form, "day")
        ]  # fmt: skip
        slots = [
            SlotRow(row, text(form, f"slot-{row}-name"), text(form, f"slot-{row}-at"), f"slot-{row}-eaten_cold" in form,
                    f"slot-{row}-travels" in form)
            for row in _rows(form, "slot")
        ]  # fmt: skip
        version = text(form, "version", "0")
        return cls(
            eater_id, int(version) if version.isdigit() else 0, text(form, "name"), text(form, "about"),
            text(form, "dislikes"), "no_pork" in form, {str(a) for a in form.getlist("allergens")} & ALLERGENS.keys(),
            "clinician_confirmed" in form, day_types, slots,
        )  # fmt: skip

    def read(self) -> EaterInput:
        """The service's input.

        Raises:
            InvalidInputs: naming every field that cannot be read.
        """
        faults: list[InvalidInput] = []
        prefixes: dict[UUID, str] = {}
        day_types, slots = [], []
        for d in self.day_types:
            if not any((d.name.strip(), d.energy_kcal.strip(), d.protein_floor_g.strip())):
                continue  # a row left blank
            numbers = {}
            for name, unit in (("energy_kcal", "kcal"), ("protein_floor_g", "g"), ("energy_band_pct", "%")):
                typed = getattr(d, name).strip().removesuffix(unit).strip()
                try:
                    numbers[name] = _figure(typed, f"day-{d.id}-{name}", unit)
                except InvalidInput as fault:
                    faults.append(fault)
            prefixes[UUID(d.id)] = f"day-{d.id}"
            if len(numbers) == 3:
                day_types.append(DayTypeInput(UUID(d.id), d.name, **numbers, weekdays=tuple(sorted(d.weekdays))))
        for s in self.slots:
            if not s.name.strip() and not s.at.strip():
                continue
            prefixes[UUID(s.id)] = f"slot-{s.id}"
            try:
                at = time.fromisoformat(s.at.strip().replace(".", ":").zfill(5))
            except ValueError:
                faults.append(InvalidInput(f"slot-{s.id}-at", f"“{s.at[:12]}” is no time of day.", "Give 06:45."))
                continue
            slots.append(SlotInput(UUID(s.id), s.name, at.replace(tzinfo=None), s.eaten_cold, s.travels))
        if faults:
            raise InvalidInputs(faults)
        return EaterInput(
            UUID(self.id), self.name, tuple(day_types), tuple(slots), self.about[:160], tuple(self.allergens),
            self.no_pork, self.dislikes[:240], self.clinician_confirmed, self.version, prefixes,
        )  # fmt: skip

    def field_names(self) -> set[str]:
        """Every field a message can stand at."""
        names = {"name", "allergens"}
        for d in self.day_types:
            names |= {
                f"day-{d.id}-{n}" for n in ("name", "energy_kcal", "protein_floor_g", "energy_band_pct", "weekdays")
            }
        return names | {f"slot-{s.id}-{n}" for s in self.slots for n in ("name", "at")}


def _figure(typed: str, field_name: str, unit: str) -> float:
    digits = typed.replace(",", "") if _is_thousands(typed) else typed
    return read_number(digits, field_name, f"Give a number in {unit}.")


def _is_thousands(typed: str) -> bool:
    """A day's “2,450” kcal can only be thousands: nobody is given two and a half kcal."""
    head, _, tail = typed.partition(",")
    return head.isdigit() and tail.isdigit() and len(tail) == 3 and len(head) <= 2


def _rows(form: Mapping[str, object], kind: str) -> list[str]:
    """Ids of the rows of one kind, in the order sent; anything that is no id is dropped."""
    rows: list[str] = []
    for key in form:
        parts = key.split("-")
        row = "-".join(parts[1:6])
        if parts[0] == kind and len(parts) == 7 and parts[6] == "name" and row not in rows:
            try:
                rows.append(str(UUID(row)))
            except ValueError:
                continue
    return rows
