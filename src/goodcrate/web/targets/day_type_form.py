"""A kind of day on the eater form: as typed, and as the service takes it."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Annotated
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.ground.document import ReadDocument
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import LONGEST_NUMBER
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.targets.day_target import BANDED, NutrientBand
from goodcrate.core.targets.eater import DayType
from goodcrate.core.targets.target_ways import SHARE, TYPED, DayWay
from goodcrate.services.targets.household_eaters import DayTypeInput
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.figures import plain
from goodcrate.web.security import text
from goodcrate.web.targets.figures import figure, read_figure

WANTED = Saying("Such as 60–90, at least 30, or up to 2000.")
NAMED_BY_CORE = ("energy_change_pct", "meal_blocks", "split", "weekdays")
"""Where core names a fault that stands at several fields of the row."""


class DayTypeFields(Fields):
    """What is read of a kind of day besides its weekdays and bands; what the way of a target leaves open is empty."""

    name: str = ""
    energy_kcal: Annotated[float | None, maybe(figure("kcal"))] = None
    protein_floor_g: Annotated[float | None, maybe(figure("g"))] = None
    energy_band_pct: Annotated[float, figure("%")] = 0.0
    energy_way: str = TYPED
    change_pct: Annotated[float | None, maybe(figure("%"))] = None
    meals: Annotated[float | None, maybe(figure(""))] = None
    snacks: Annotated[float | None, maybe(figure(""))] = None
    protein_way: str = TYPED
    protein_value: Annotated[float | None, maybe(figure("g"))] = None
    fat_pct: Annotated[float | None, maybe(figure("%"))] = None
    carbohydrate_pct: Annotated[float | None, maybe(figure("%"))] = None

    @property
    def way(self) -> DayWay:
        """How the target is set."""
        return DayWay(
            self.energy_way,
            0.0,
            self.change_pct or 0.0,
            int(self.meals or 0),
            int(self.snacks or 0),
            self.protein_way,
            protein_g=0.0,
            protein_value=self.protein_value or 0.0,
            fat_pct=self.fat_pct,
            carbohydrate_pct=self.carbohydrate_pct,
        )


@dataclass
class DayTypeForm:
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

    @property
    def prefix(self) -> str:
        """What its fields' names begin with."""
        return f"day-{self.id}-"

    @property
    def fault_names(self) -> set[str]:
        """Where its faults can stand."""
        return DayTypeFields.names(self.prefix) | {self.prefix + name for name in (*BANDED, *NAMED_BY_CORE)}

    @classmethod
    def of_day_type(cls, d: DayType) -> "DayTypeForm":
        """A saved kind of day."""
        row = cls(str(d.id), d.name, weekdays=set(d.weekdays))
        for name in ("energy_kcal", "protein_floor_g", "energy_band_pct"):
            setattr(row, name, plain(getattr(d, name)))
        for name in ("change_pct", "meals", "snacks", "protein_value", "fat_pct", "carbohydrate_pct"):
            if (value := d.way.get(name)) not in (None, 0, 0.0):
                setattr(row, name, plain(float(value)).replace("-", "−"))
        row.energy_way, row.protein_way = d.energy_way, d.protein_way
        row.bands = {b.key: _band_text((b.low, b.high)) for b in d.bands if b.key not in _following(d.way)}
        return row

    @classmethod
    def of_post(cls, form: FormData, row_id: str) -> "DayTypeForm":
        """A row as it was sent."""
        row = cls(row_id)
        for name, typed in DayTypeFields.as_typed(form, row.prefix).items():
            setattr(row, name, typed)
        row.energy_way, row.protein_way = row.energy_way or TYPED, row.protein_way or TYPED
        row.weekdays = {
            int(v) for v in form.getlist(f"{row.prefix}weekdays") if isinstance(v, str) and v in set("0123456")
        }
        sent = {key: text(form, row.prefix + key) for key in BANDED}
        row.bands = {key: typed for key, typed in sent.items() if typed.strip()}
        return row

    def read(self, faults: list[InvalidInput]) -> DayTypeInput | None:
        """The row as input, with every fault at its field."""
        own: list[InvalidInput] = []
        read = DayTypeFields.partly(self, self.prefix, own)
        needed = (("energy_kcal", "kcal", read.energy_way), ("protein_floor_g", "g", read.protein_way))
        for name, unit, way in needed:
            if way == TYPED and not getattr(self, name).strip():
                own.append(
                    InvalidInput(
                        self.prefix + name, say("Nothing is typed here."), say("Give a number in {unit}.", unit=unit)
                    )
                )
        bands = []
        for key, typed in self.bands.items():
            try:
                bands.append(read_band(typed, key))
            except InvalidInput as fault:
                own.append(InvalidInput(self.prefix + key, fault.problem, fault.wanted))
        faults += own
        if own:
            return None
        energy, protein = read.energy_kcal or 0.0, read.protein_floor_g or 0.0
        weekdays = tuple(sorted(self.weekdays))
        return DayTypeInput(
            UUID(self.id), read.name, energy, protein, read.energy_band_pct, weekdays, way=read.way, bands=tuple(bands)
        )


def read_band(typed: str, key: str) -> NutrientBand:
    """“60–90”, “from 30”, “at least 30”, “up to 2,000”; one bare number is a floor, for sodium a ceiling.

    Raises:
        InvalidInput: when it is no band.
    """
    unit = BANDED[key][1]
    words = re.sub(rf"(?<=\d)\s*{unit}\b", "", typed[:LONGEST_NUMBER].lower())
    found = [read_figure(n.strip(), key, unit) for n in re.findall(r"\d[\d.,'\u2009\u202f ]*", words)]
    if len(found) == 2:
        return NutrientBand(key, *found)
    if len(found) != 1:
        raise InvalidInput(key, say("“{typed}” is no band.", typed=typed[:LONGEST_NUMBER]), WANTED)
    says_least = any(w in words for w in ("least", "from", "over", "≥", ">"))
    says_most = any(w in words for w in ("up", "most", "max", "under", "≤", "<"))
    is_most = says_most or (key == "sodium_mg" and not says_least)
    return NutrientBand(key, None, found[0]) if is_most else NutrientBand(key, found[0], None)


def _following(way: ReadDocument) -> frozenset[str]:
    """The bands that follow from a split: worked out anew each time, not typed."""
    has_split = way.get("fat_pct") is not None or way.get("carbohydrate_pct") is not None
    is_split = way.get("protein_way") == SHARE and has_split
    return frozenset({"fat_g", "net_carbohydrate_g"}) if is_split else frozenset()


def _band_text(ends: Sequence[float | None]) -> str:
    low, high = ends
    if low is not None and high is not None:
        return f"{plain(low)}–{plain(high)}"
    return say("at least {low}", low=plain(low)) if low is not None else say("up to {high}", high=plain(high or 0.0))
