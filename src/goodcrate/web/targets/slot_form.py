"""A slot on the eater form: as typed, and as the service takes it."""

from dataclasses import dataclass
from datetime import time
from typing import Annotated
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.targets.slot import Slot
from goodcrate.services.targets.household_eaters import SlotInput
from goodcrate.web.fields import Fields, maybe, reads
from goodcrate.web.figures import plain
from goodcrate.web.targets.figures import figure

TICKS = ("eaten_cold", "travels", "no_reheat")


def time_of_day(typed: str, name: str) -> time:
    """A time of day; a keypad without a colon will do: 2100, 645, 6.45, 7.

    Raises:
        InvalidInput: when it is none.
    """
    hours, colon, minutes = typed.replace(".", ":").partition(":")
    if not colon and hours.isascii() and hours.isdigit() and len(hours) <= 4:
        hours, minutes = (hours[:-2], hours[-2:]) if len(hours) > 2 else (hours, "00")
    try:
        return time.fromisoformat(f"{hours.zfill(2)}:{minutes}").replace(tzinfo=None)
    except ValueError:
        raise InvalidInput(name, say("“{typed}” is no time of day.", typed=typed[:12]), say("Give 06:45.")) from None


class SlotFields(Fields):
    """What is read of a slot besides what is ticked."""

    name: str = ""
    at: Annotated[time | None, reads(time_of_day)] = None
    within_min: Annotated[float | None, maybe(figure("min"))] = None
    share_pct: Annotated[float | None, maybe(figure("%"))] = None


@dataclass
class SlotForm:
    """A row of the form as typed."""

    id: str
    name: str = ""
    at: str = ""
    eaten_cold: bool = False
    travels: bool = False
    no_reheat: bool = False
    within_min: str = ""
    share_pct: str = ""

    @property
    def prefix(self) -> str:
        """What its fields' names begin with."""
        return f"slot-{self.id}-"

    @property
    def is_blank(self) -> bool:
        """Whether nothing was typed: such a row is no slot."""
        return not self.name.strip() and not self.at.strip()

    @classmethod
    def of_slot(cls, s: Slot) -> "SlotForm":
        """A saved slot."""
        within, share = ("" if x is None else plain(x) for x in (s.within_min, s.share_pct))
        return cls(
            str(s.id), s.name, f"{s.at:%H:%M}", s.eaten_cold, s.travels, s.no_reheat, within_min=within, share_pct=share
        )

    @classmethod
    def of_post(cls, form: FormData, row_id: str) -> "SlotForm":
        """A row as it was sent."""
        row = cls(row_id)
        for name, typed in SlotFields.as_typed(form, row.prefix).items():
            setattr(row, name, typed)
        for name in TICKS:
            setattr(row, name, row.prefix + name in form)
        return row

    def read(self, faults: list[InvalidInput]) -> SlotInput | None:
        """The service's input; what cannot be read is added to the faults, and without a time there is none."""
        read = SlotFields.partly(self, self.prefix, faults)
        if read.at is None:
            return None
        return SlotInput(
            UUID(self.id),
            read.name,
            read.at,
            self.eaten_cold,
            self.travels,
            self.no_reheat,
            within_min=None if read.within_min is None else int(read.within_min),
            share_pct=read.share_pct,
        )
