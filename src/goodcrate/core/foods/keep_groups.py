"""The tables of guidance: how long each kind of food keeps, and which core temperature makes it safe.

The figures are public guidance (`keeping.csv`, `cook-temps.csv`, each row with its source). A printed use-by date and
the local food authority overrule them.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class KeepGroup:
    """One row of `keeping.csv`: days in the fridge by cautious and by usual guidance, months in the freezer.

    `freezable` is yes, poor or no; `reheat_c` a core temperature in °C, None for what is eaten cold. `keeps_dry` is
    what stands in the cupboard: it takes no place in the fridge.
    """

    key: str
    fridge_days_cautious: int
    fridge_days_usual: int
    freezer_months: int | None
    freezable: str
    thaw: str
    reheat_c: float | None
    cool_rule: str
    why: str
    source: str
    keeps_dry: bool = False

    @property
    def label(self) -> str:
        """Its name as a cook reads it."""
        return self.key.replace("_", " ")


@dataclass(frozen=True, slots=True)
class CoreTemperature:
    """One row of `cook-temps.csv`: a safe core temperature in °C with how long it must hold, and who says so."""

    kind: str
    core_c: float
    hold: str
    source: str
    note: str

    @property
    def label(self) -> str:
        """The kind as a cook reads it."""
        return self.kind.replace("_", " ")
