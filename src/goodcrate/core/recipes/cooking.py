"""The ways a component can be cooked: whether water comes in, stays or steams off."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from goodcrate.core.ground.wording import Saying

RAW, SOAKED, DRAINED, ABSORBED, SIMMERED = "raw", "soaked", "drained", "absorbed", "simmered"
FRIED, ROASTED, BAKED, DRIED = "fried", "roasted", "baked", "dried"
COOKED_AS: Mapping[str, str] = {
    RAW: Saying("not cooked"),
    SOAKED: Saying("soaked"),
    DRAINED: Saying("boiled in water and drained"),
    ABSORBED: Saying("cooked in water that it takes up"),
    SIMMERED: Saying("simmered in its own sauce"),
    FRIED: Saying("fried in the pan"),
    ROASTED: Saying("roasted on a tray"),
    BAKED: Saying("baked in a dish"),
    DRIED: Saying("dried"),
}
"""What a yield is for, in a cook's words."""
WET_WAYS = (DRAINED, ABSORBED, SIMMERED)


@dataclass(frozen=True, slots=True)
class Spell:
    """A time in the heat: by which of `STEAM_RATES` water leaves which lines, for so many minutes."""

    rate: str
    minutes: float
    line_keys: frozenset[str]


@dataclass(frozen=True, slots=True)
class Cooking:
    """The way of each line through the pot, and the times in which water steams off.

    `ways` has the last way of each line that is soaked or heated, by its key. `soaked` lines lie in water that is
    poured away before anything else, `drained` ones were boiled in water and drained before their last way, `swelled`
    ones get hot water poured over and no more heat. Steps that name their water ("in 600 ml water", "in twice its
    water") give `told_water_g`.
    """

    ways: Mapping[str, str] = field(default_factory=dict)
    soaked: frozenset[str] = frozenset()
    swelled: frozenset[str] = frozenset()
    drained: frozenset[str] = frozenset()
    spells: tuple[Spell, ...] = ()
    told_water_g: float = 0.0
    is_chosen: bool = False

    @property
    def is_heated(self) -> bool:
        """Whether anything of it meets heat."""
        return any(way not in (RAW, SOAKED) for way in self.ways.values())


NOT_COOKED = Cooking()
