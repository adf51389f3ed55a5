"""The eater form: what is typed, read into the service's input with every fault named at its field."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Annotated
from uuid import UUID

from pydantic import create_model
from starlette.datastructures import FormData

from goodcrate.core.foods.food import ALLERGENS
from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of, whole_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import body_height, body_weight
from goodcrate.core.targets.cautions import CONDITIONS
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.eater_facts import EATER_UNITS, EATER_WORDS, EaterFacts
from goodcrate.services.targets.household_eaters import EaterInput
from goodcrate.services.week.weeks import new_id
from goodcrate.web.field_kinds import words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.figures import plain
from goodcrate.web.targets.day_type_form import DayTypeForm
from goodcrate.web.targets.figures import body_figure
from goodcrate.web.targets.slot_form import SlotFields, SlotForm

USUAL_SLOTS = (("breakfast", "07:00"), ("lunch", "12:30"), ("snack", "16:00"), ("dinner", "19:00"))


class _OfAnEater(Fields):
    """What is read of an eater besides rows, ticks and facts."""

    name: str = ""
    extras: Annotated[str, words(2000)] = ""


_FACTS: Document = {
    **{name: (Annotated[str, words(longest)], "") for name, longest in EATER_WORDS.items()},
    **{name: (Annotated[float | None, maybe(body_figure(name, unit))], None) for name, unit in EATER_UNITS.items()},
}
EaterFields = create_model("EaterFields", __base__=_OfAnEater, **_FACTS)
"""The same with every fact that is a word or a number."""


@dataclass
class EaterForm:
    """The whole form as typed, ready to be shown again unchanged; `facts` by their names."""

    id: str
    version: int
    name: str = ""
    extras: str = ""
    no_pork: bool = False
    allergens: set[str] = field(default_factory=set)
    clinician_confirmed: bool = False
    day_types: list[DayTypeForm] = field(default_factory=list)
    slots: list[SlotForm] = field(default_factory=list)
    conditions: set[str] = field(default_factory=set)
    was_asked: bool = False
    facts: dict[str, str] = field(default_factory=lambda: _as_said(EaterFacts()))

    @classmethod
    def blank(cls) -> "EaterForm":
        """A new eater: one kind of day, and the usual four slots to change."""
        every_day = DayTypeForm(str(new_id()), say("every day"), weekdays=set(range(7)))
        slots = [SlotForm(str(new_id()), name, at) for name, at in USUAL_SLOTS]
        form = cls(str(new_id()), 0, day_types=[every_day], slots=slots)
        return form.with_room()

    def with_room(self) -> "EaterForm":
        """The same with one blank row to add a kind of day and a slot."""
        self.day_types.append(DayTypeForm(str(new_id())))
        self.slots.append(SlotForm(str(new_id())))
        return self

    @classmethod
    def of_eater(cls, eater: Eater) -> "EaterForm":
        """A saved eater, with room for one more kind of day and slot."""
        form = cls(
            str(eater.id),
            eater.version,
            eater.name,
            "\n".join(extra.text for extra in eater.extras),
            no_pork=eater.no_pork,
            allergens=set(eater.excluded_allergens),
            clinician_confirmed=any(d.clinician_confirmed for d in eater.day_types),
            day_types=[DayTypeForm.of_day_type(d) for d in eater.day_types],
            slots=[SlotForm.of_slot(s) for s in eater.slots],
            conditions=set(eater.conditions or ()),
            was_asked=eater.conditions is not None,
            facts=_as_said(eater),
        )
        return form.with_room()

    @classmethod
    def of_post(cls, form: FormData, eater_id: str) -> "EaterForm":
        """The form as it was sent."""
        typed = dict(EaterFields.as_typed(form))
        usual = _as_said(EaterFacts())
        return cls(
            eater_id,
            whole_of(str(form.get("version", "0"))) or 0,
            typed.pop("name"),
            typed.pop("extras"),
            no_pork="no_pork" in form,
            allergens={str(a) for a in form.getlist("allergens")} & ALLERGENS.keys(),
            clinician_confirmed="clinician_confirmed" in form,
            day_types=[DayTypeForm.of_post(form, row) for row in _rows(form, "day")],
            slots=[SlotForm.of_post(form, row) for row in _rows(form, "slot")],
            conditions={str(c) for c in form.getlist("conditions")} & CONDITIONS.keys(),
            was_asked="was_asked" in form,
            facts={name: said if name in form else usual[name] for name, said in typed.items()},
        )

    def readable(self, faults: list[InvalidInput]) -> Document:
        """Name, extras and facts as far as they can be read, by name."""
        return EaterFields.partly({**self.facts, "name": self.name, "extras": self.extras}, "", faults).model_dump()

    def read(self) -> EaterInput:
        """The service's input.

        Raises:
            InvalidInputs: naming every field that cannot be read.
        """
        faults: list[InvalidInput] = []
        days = [day for d in self.day_types if not d.is_blank and (day := d.read(faults)) is not None]
        slots = [slot for s in self.slots if not s.is_blank and (slot := s.read(faults)) is not None]
        said = self.readable(faults)
        if faults:
            raise InvalidInputs(faults)
        return EaterInput(
            id=UUID(self.id),
            day_types=tuple(days),
            slots=tuple(slots),
            excluded_allergens=tuple(self.allergens),
            no_pork=self.no_pork,
            clinician_confirmed=self.clinician_confirmed,
            version=self.version,
            conditions=tuple(c for c in CONDITIONS if c in self.conditions) if self.was_asked else None,
            field_prefixes=self._prefixes,
            **said,
        )

    @property
    def _prefixes(self) -> dict[UUID, str]:
        """How the fields of each row begin, for faults that are found later."""
        rows: list[DayTypeForm | SlotForm] = [*self.day_types, *self.slots]
        return {UUID(row.id): row.prefix.removesuffix("-") for row in rows}

    def field_names(self) -> set[str]:
        """Every field a message can stand at."""
        names = {"allergens", "conditions", "slots"} | EaterFields.names()
        for d in self.day_types:
            names |= d.fault_names
        return names.union(*(SlotFields.names(s.prefix) for s in self.slots))


SAID: Mapping[str, Callable[[float], str]] = {"weight_kg": body_weight, "height_cm": body_height}


def _as_said(eater: EaterFacts) -> dict[str, str]:
    """The facts that are words or numbers, as their fields show them."""
    numbers = {name: getattr(eater, name) for name in EATER_UNITS}
    words_of = {name: getattr(eater, name) for name in EATER_WORDS}
    return {
        **words_of,
        **{name: "" if value is None else SAID.get(name, plain)(value) for name, value in numbers.items()},
    }


def _rows(form: FormData, kind: str) -> list[str]:
    """Ids of the rows of one kind, in the order sent; anything that is no id is dropped."""
    rows: list[str] = []
    for key in form:
        parts = key.split("-")
        row = "-".join(parts[1:6])
        if parts[0] == kind and len(parts) == 7 and parts[6] == "name" and row not in rows:
            rows += [row] if id_of(row) else []
    return rows
