"""The eater form: what is typed, read into the service's input with every fault named at its field."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import time
from typing import Any
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.foods.food import ALLERGENS
from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import LONGEST_NUMBER, id_of, whole_of
from goodcrate.core.targets.cautions import CONDITIONS
from goodcrate.core.targets.day_target import BANDED, NutrientBand
from goodcrate.core.targets.eater import DayType, Eater
from goodcrate.core.targets.target_ways import SHARE, TYPED, DayWay
from goodcrate.services.targets.household_eaters import BodyInput, DayTypeInput, EaterInput, SlotInput
from goodcrate.services.week.weeks import new_id
from goodcrate.web.figures import plain
from goodcrate.web.security import text

NUMBERS = {
    "age_years": "years",
    "height_cm": "cm",
    "weight_kg": "kg",
    "meal_block_kcal": "kcal",
    "snack_block_kcal": "kcal",
}
DAY_FIELDS = (
    "name", "energy_kcal", "protein_floor_g", "energy_band_pct", "weekdays", "energy_way", "energy_change_pct",
    "change_pct", "meals", "snacks", "meal_blocks", "protein_way", "protein_value", "split", "fat_pct",
    "carbohydrate_pct",
)  # fmt: skip
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


@dataclass
class DayTypeFields:
    """A row of the form as typed."""

    id: str
    name: str = ""
    energy_kcal: str = ""
    protein_floor_g: str = ""
    energy_band_pct: str = "3"
    weekdays: set[int] = field(default_factory=set)
    energy_way: str = TYPED
    change_pct: str = ""
    meals: str = ""
    snacks: str = ""
    protein_way: str = TYPED
    protein_value: str = ""
    fat_pct: str = ""
    carbohydrate_pct: str = ""
    bands: dict[str, str] = field(default_factory=dict)

    @property
    def is_blank(self) -> bool:
        """Whether nothing was typed: such a row is no kind of day."""
        return not any(
            (self.name.strip(), self.energy_kcal.strip(), self.protein_floor_g.strip(), self.energy_way != TYPED)
        )

    @classmethod
    def of_day_type(cls, d: DayType) -> "DayTypeFields":
        """A saved kind of day."""
        way = d.way

        def typed(name: str) -> str:
            value = way.get(name)
            return "" if value in (None, 0, 0.0) else plain(float(value)).replace("-", "−")

        return cls(
            str(d.id),
            d.name,
            plain(d.energy_kcal),
            plain(d.protein_floor_g),
            plain(d.energy_band_pct),
            set(d.weekdays),
            energy_way=way.get("energy_way", TYPED),
            change_pct=typed("change_pct"),
            meals=typed("meals"),
            snacks=typed("snacks"),
            protein_way=way.get("protein_way", TYPED),
            protein_value=typed("protein_value"),
            fat_pct=typed("fat_pct"),
            carbohydrate_pct=typed("carbohydrate_pct"),
            bands={b.key: _band_text((b.low, b.high)) for b in d.bands if b.key not in _following(way)},
        )

    @classmethod
    def of_post(cls, form: FormData, row: str) -> "DayTypeFields":
        """A row as it was sent."""
        p = f"day-{row}"
        weekdays = {int(v) for v in form.getlist(f"{p}-weekdays") if isinstance(v, str) and v in "0123456" and v}
        names = ("change_pct", "meals", "snacks", "protein_value", "fat_pct", "carbohydrate_pct")
        return cls(
            row,
            text(form, f"{p}-name"),
            text(form, f"{p}-energy_kcal"),
            text(form, f"{p}-protein_floor_g"),
            text(form, f"{p}-energy_band_pct"),
            weekdays,
            energy_way=text(form, f"{p}-energy_way", TYPED),
            protein_way=text(form, f"{p}-protein_way", TYPED),
            bands={key: text(form, f"{p}-{key}")[:40] for key in BANDED if text(form, f"{p}-{key}").strip()},
            **{name: text(form, f"{p}-{name}")[:20] for name in names},
        )

    def read(self, faults: list[InvalidInput]) -> DayTypeInput | None:
        """The row as input, with every fault at its field."""
        p = f"day-{self.id}"
        bad = len(faults)

        def number(name: str, unit: str, value: str, empty: float | None = None) -> float:
            typed = value.strip().removesuffix(unit).strip().replace("−", "-")
            if not typed and empty is not None:
                return empty
            sign = -1 if typed.startswith("-") and name == "change_pct" else 1
            try:
                return sign * _figure(typed.lstrip("+-") if name == "change_pct" else typed, f"{p}-{name}", unit)
            except InvalidInput as fault:
                faults.append(fault)
                return 0.0

        from_typed = self.energy_way == TYPED
        energy = number("energy_kcal", "kcal", self.energy_kcal, None if from_typed else 0.0)
        protein = number("protein_floor_g", "g", self.protein_floor_g, None if self.protein_way == TYPED else 0.0)
        band = number("energy_band_pct", "%", self.energy_band_pct)
        change = number("change_pct", "%", self.change_pct, 0.0)
        meals, snacks = (number(n, "", getattr(self, n), 0.0) for n in ("meals", "snacks"))
        value = number("protein_value", "%" if self.protein_way == SHARE else "g", self.protein_value, 0.0)
        fat, carbohydrate = (
            number(n, "%", getattr(self, n)) if getattr(self, n).strip() else None
            for n in ("fat_pct", "carbohydrate_pct")
        )
        bands = tuple(b for b in (self._band(key, typed, faults) for key, typed in self.bands.items()) if b is not None)
        if len(faults) > bad:
            return None
        way = DayWay(
            self.energy_way,
            0.0,
            change,
            int(meals),
            int(snacks),
            self.protein_way,
            protein_g=0.0,
            protein_value=value,
            fat_pct=fat,
            carbohydrate_pct=carbohydrate,
        )
        return DayTypeInput(
            UUID(self.id), self.name, energy, protein, band, tuple(sorted(self.weekdays)), way=way, bands=bands
        )

    def _band(self, key: str, typed: str, faults: list[InvalidInput]) -> NutrientBand | None:
        """“60–90”, “from 30”, “at least 30”, “up to 2,000”; one bare number is a floor, for sodium a ceiling."""
        unit = BANDED[key][1]
        words = re.sub(rf"(?<=\d)\s*{unit}\b", "", typed[:LONGEST_NUMBER].lower())
        try:
            found = [_figure(n.strip(), key, unit) for n in re.findall(r"\d[\d.,'\u2009\u202f ]*", words)]
            if len(found) == 2:
                return NutrientBand(key, *found)
            if len(found) == 1:
                is_most = any(w in words for w in ("up", "most", "max", "under", "≤", "<")) or (
                    key == "sodium_mg" and not any(w in words for w in ("least", "from", "over", "≥", ">"))
                )
                return NutrientBand(key, None, found[0]) if is_most else NutrientBand(key, found[0], None)
            raise InvalidInput(key, f"“{typed}” is no band.", "Such as 60–90, at least 30, or up to 2000.")
        except InvalidInput as fault:
            faults.append(InvalidInput(f"day-{self.id}-{key}", fault.problem, fault.wanted))
            return None


def _following(way: Mapping[str, Any]) -> frozenset[str]:
    """The bands that follow from a split: worked out anew each time, not typed."""
    has_split = way.get("fat_pct") is not None or way.get("carbohydrate_pct") is not None
    is_split = way.get("protein_way") == SHARE and has_split
    return frozenset({"fat_g", "net_carbohydrate_g"}) if is_split else frozenset()


def _band_text(ends: Sequence[float | None]) -> str:
    low, high = ends
    if low is not None and high is not None:
        return f"{plain(low)}–{plain(high)}"
    return f"at least {plain(low)}" if low is not None else f"up to {plain(high or 0.0)}"


@dataclass
class SlotFields:
    """A row of the form as typed."""

    id: str
    name: str = ""
    at: str = ""
    eaten_cold: bool = False
    travels: bool = False
    no_reheat: bool = False
    within_min: str = ""
    share_pct: str = ""

    def read(self, faults: list[InvalidInput]) -> SlotInput | None:
        """The service's input; what cannot be read is added to the faults, and without a time there is none."""
        try:
            at = time.fromisoformat(self.at.strip().replace(".", ":").zfill(5))
        except ValueError:
            faults.append(InvalidInput(f"slot-{self.id}-at", f"“{self.at[:12]}” is no time of day.", "Give 06:45."))
            return None
        within, share = (
            typed_number(value, f"slot-{self.id}-{name}", unit, faults)
            for name, value, unit in (("within_min", self.within_min, "min"), ("share_pct", self.share_pct, "%"))
        )
        return SlotInput(
            UUID(self.id),
            self.name,
            at.replace(tzinfo=None),
            self.eaten_cold,
            self.travels,
            self.no_reheat,
            within_min=None if within is None else int(within),
            share_pct=share,
        )


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
    day_types: list[DayTypeFields] = field(default_factory=list)
    slots: list[SlotFields] = field(default_factory=list)
    sex: str = ""
    age_years: str = ""
    height_cm: str = ""
    weight_kg: str = ""
    activity: str = "light"
    conditions: set[str] = field(default_factory=set)
    was_asked: bool = False
    medical_notes: str = ""
    diet: str = ""
    meal_block_kcal: str = ""
    snack_block_kcal: str = ""
    extras: str = ""

    @classmethod
    def blank(cls) -> "EaterForm":
        """A new eater: one kind of day, and the usual four slots to change."""
        slots = [("breakfast", "07:00"), ("lunch", "12:30"), ("snack", "16:00"), ("dinner", "19:00")]
        return cls(
            str(new_id()),
            0,
            day_types=[DayTypeFields(str(new_id()), "every day", weekdays=set(range(7))), DayTypeFields(str(new_id()))],
            slots=[SlotFields(str(new_id()), name, at) for name, at in slots] + [SlotFields(str(new_id()))],
        )

    @classmethod
    def of_eater(cls, eater: Eater) -> "EaterForm":
        """A saved eater, with one blank row to add a kind of day and a slot."""
        slots = [
            SlotFields(
                str(s.id),
                s.name,
                f"{s.at:%H:%M}",
                s.eaten_cold,
                s.travels,
                s.no_reheat,
                within_min="" if s.within_min is None else str(s.within_min),
                share_pct=_plain(s.share_pct),
            )
            for s in eater.slots
        ]
        form = cls(
            str(eater.id),
            eater.version,
            eater.name,
            eater.about,
            eater.dislikes,
            eater.no_pork,
            allergens=set(eater.excluded_allergens),
            clinician_confirmed=any(d.clinician_confirmed for d in eater.day_types),
            day_types=[*map(DayTypeFields.of_day_type, eater.day_types), DayTypeFields(str(new_id()))],
            slots=[*slots, SlotFields(str(new_id()))],
        )
        for name in NUMBERS:
            setattr(form, name, _plain(getattr(eater, name)))
        form.sex, form.activity, form.diet = eater.sex, eater.activity, eater.diet
        form.conditions, form.was_asked = set(eater.conditions or ()), eater.conditions is not None
        form.medical_notes, form.extras = eater.medical_notes, "\n".join(extra.text for extra in eater.extras)
        return form

    @classmethod
    def of_post(cls, form: FormData, eater_id: str) -> "EaterForm":
        """The form as it was sent."""
        slots = [
            SlotFields(
                row,
                text(form, f"slot-{row}-name"),
                text(form, f"slot-{row}-at"),
                f"slot-{row}-eaten_cold" in form,
                f"slot-{row}-travels" in form,
                f"slot-{row}-no_reheat" in form,
                within_min=text(form, f"slot-{row}-within_min")[:8],
                share_pct=text(form, f"slot-{row}-share_pct")[:8],
            )
            for row in _rows(form, "slot")
        ]
        version = text(form, "version", "0")
        typed = cls(
            eater_id,
            whole_of(version) or 0,
            text(form, "name"),
            text(form, "about"),
            text(form, "dislikes"),
            "no_pork" in form,
            allergens={str(a) for a in form.getlist("allergens")} & ALLERGENS.keys(),
            clinician_confirmed="clinician_confirmed" in form,
            day_types=[DayTypeFields.of_post(form, row) for row in _rows(form, "day")],
            slots=slots,
        )
        for name in (*NUMBERS, "sex", "activity", "diet"):
            setattr(typed, name, text(form, name, getattr(typed, name))[:20])
        typed.conditions = {str(c) for c in form.getlist("conditions")} & CONDITIONS.keys()
        typed.was_asked = "was_asked" in form
        typed.medical_notes, typed.extras = text(form, "medical_notes")[:1000], text(form, "extras")[:2000]
        return typed

    def read(self) -> EaterInput:
        """The service's input.

        Raises:
            InvalidInputs: naming every field that cannot be read.
        """
        faults: list[InvalidInput] = []
        prefixes: dict[UUID, str] = {}
        day_types, slots = [], []
        for d in self.day_types:
            if d.is_blank:
                continue
            prefixes[UUID(d.id)] = f"day-{d.id}"
            read = d.read(faults)
            if read is not None:
                day_types.append(read)
        for s in self.slots:
            if not s.name.strip() and not s.at.strip():
                continue
            prefixes[UUID(s.id)] = f"slot-{s.id}"
            slot = s.read(faults)
            if slot is not None:
                slots.append(slot)
        numbers = {name: typed_number(getattr(self, name), name, unit, faults) for name, unit in NUMBERS.items()}
        if faults:
            raise InvalidInputs(faults)
        body = BodyInput(self.sex, numbers["age_years"], numbers["height_cm"], numbers["weight_kg"], self.activity)
        return EaterInput(
            UUID(self.id),
            self.name,
            tuple(day_types),
            tuple(slots),
            self.about[:160],
            tuple(self.allergens),
            no_pork=self.no_pork,
            dislikes=self.dislikes[:240],
            clinician_confirmed=self.clinician_confirmed,
            version=self.version,
            body=body,
            conditions=tuple(c for c in CONDITIONS if c in self.conditions) if self.was_asked else None,
            medical_notes=self.medical_notes,
            diet=self.diet,
            meal_block_kcal=numbers["meal_block_kcal"],
            snack_block_kcal=numbers["snack_block_kcal"],
            extras=self.extras,
            field_prefixes=prefixes,
        )

    def field_names(self) -> set[str]:
        """Every field a message can stand at."""
        names = {"name", "allergens", "extras", "conditions", "slots", "diet", "sex", "activity", *NUMBERS}
        for d in self.day_types:
            names |= {f"day-{d.id}-{n}" for n in (*DAY_FIELDS, *BANDED)}
        return names | {f"slot-{s.id}-{n}" for s in self.slots for n in ("name", "at", "within_min", "share_pct")}


def _plain(value: float | None) -> str:
    return "" if value is None else plain(value)


def typed_number(value: str, name: str, unit: str, faults: list[InvalidInput]) -> float | None:
    """A number as typed with or without its unit; None when empty, or not to be read, with the fault noted."""
    typed = value.strip().removesuffix(unit).strip()
    if not typed:
        return None
    try:
        return _figure(typed, name, unit)
    except InvalidInput as fault:
        faults.append(fault)
        return None


_RANGES = {"kcal": (100.0, None), "mg": (20.0, None), "g": (None, 999.0), "%": (None, 999.0), "kg": (None, 999.0),
           "cm": (None, 999.0), "years": (None, 999.0), "min": (None, 999.0), "": (None, 99.0)}  # fmt: skip
"""What a target's figure can be in its unit: a day's “2,450” kcal is thousands, nobody is given two and a half."""


def _figure(typed: str, field_name: str, unit: str) -> float:
    smallest, largest = _RANGES.get(unit, (None, None))
    return read_number(typed, field_name, f"Give a number in {unit}.", smallest=smallest, largest=largest)


def _rows(form: Mapping[str, object], kind: str) -> list[str]:
    """Ids of the rows of one kind, in the order sent; anything that is no id is dropped."""
    rows: list[str] = []
    for key in form:
        parts = key.split("-")
        row = "-".join(parts[1:6])
        if parts[0] == kind and len(parts) == 7 and parts[6] == "name" and row not in rows:
            rows += [row] if id_of(row) else []
    return rows
