"""What a kitchen cooks with besides its vessels: hands, heat and machines, and how many of each."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import Saying, say

COOKS, BURNERS, OVENS, OVEN_SHELVES, OVEN_PREHEAT_MIN = "cooks", "burners", "ovens", "oven_shelves", "oven_preheat_min"


@dataclass(frozen=True, slots=True)
class EquipmentKind:
    """A kind of equipment: its words, the most a home has of it, the unit, and what steps call it ("" for none)."""

    words: str
    most: int
    unit: str = ""
    step: str = ""


EQUIPMENT_KINDS: Mapping[str, EquipmentKind] = {
    COOKS: EquipmentKind(Saying("People who cook"), 6),
    BURNERS: EquipmentKind(Saying("Hob burners"), 8, step="hob"),
    OVENS: EquipmentKind(Saying("Ovens"), 4, step="oven"),
    OVEN_SHELVES: EquipmentKind(Saying("Shelves in an oven"), 6),
    OVEN_PREHEAT_MIN: EquipmentKind(Saying("An oven preheats in"), 60, "min"),
    "microwaves": EquipmentKind(Saying("Microwaves"), 3, step="microwave"),
    "air_fryers": EquipmentKind(Saying("Air fryers"), 3, step="air_fryer"),
    "rice_cookers": EquipmentKind(Saying("Rice cookers"), 3, step="rice_cooker"),
    "blenders": EquipmentKind(Saying("Blenders"), 4, step="blender"),
    "cooling_places": EquipmentKind(Saying("Trays or racks to cool on"), 12, step="cooling"),
}


@dataclass(frozen=True, slots=True)
class Equipment:
    """How many there are, by kind. A kind that is not in `counts` was never said; 0 is none.

    Raises:
        InvalidInputs: naming each kind that is unknown, or whose number no home has.
    """

    counts: Mapping[str, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        faults = []
        for key, count in self.counts.items():
            kind = EQUIPMENT_KINDS.get(key)
            if kind is None:
                faults.append(
                    InvalidInput(
                        key,
                        say("We know no such equipment."),
                        say("One of {EQUIPMENT_KINDS}.", EQUIPMENT_KINDS=", ".join(EQUIPMENT_KINDS)),
                    )
                )
            elif not (1 if key == COOKS else 0) <= count <= kind.most:
                faults.append(
                    InvalidInput(
                        key, say("{count} is not possible.", count=count), say("Up to {most}.", most=kind.most)
                    )
                )
        if faults:
            raise InvalidInputs(faults)

    def of(self, key: str) -> int | None:
        """How many of a kind there are; None when nobody said."""
        return self.counts.get(key)

    def for_step(self, step_equipment: str) -> int | None:
        """How many steps that use this equipment can run at once; None when nobody said, or it is not counted."""
        key = next((key for key, kind in EQUIPMENT_KINDS.items() if kind.step == step_equipment), None)
        return None if not step_equipment or key is None else self.counts.get(key)
