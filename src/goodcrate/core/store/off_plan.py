"""Energy that somebody ate without knowing the food: typed as kcal, with or without protein, and widely in doubt."""

import re
from dataclasses import dataclass

from goodcrate.core.ground.nutrients import KEYS, Tally

FREE_ERROR = 0.25
"""The standard error of energy or protein that is guessed, as a share of it: our own, wide on purpose."""
MOST_KCAL, MOST_PROTEIN_G = 5000, 300
_FREE = re.compile(
    r"^(?P<what>.*?)[\s,;:]*\b(?:(?:about|around|~|≈)\s*)?(?P<kcal>\d{1,4}(?:[.,]\d)?)\s*kcal\b"
    r"(?:[\s,;:]*(?:and\s+)?(?P<protein>\d{1,3}(?:[.,]\d)?)\s*g(?:rams?)?\s*(?:of\s+)?protein)?\s*\.?$",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class FreeEnergy:
    """What was guessed: words for it (may be empty), kcal, and g of protein where somebody said so."""

    what: str
    kcal: float
    protein_g: float | None = None

    @property
    def tally(self) -> Tally:
        """Its nutrients: energy and protein with a wide doubt, all others not known."""
        figures = {"energy_kcal": self.kcal, "protein_g": self.protein_g}
        known = tuple([figures.get(key) or 0.0 for key in KEYS])
        unknown = tuple([0.0 if figures.get(key) is not None else 1.0 for key in KEYS])
        return Tally(0.0, known, unknown, {"off-plan": (tuple([k * FREE_ERROR for k in known]), 1.0)})


def read_free_energy(text: str) -> FreeEnergy | None:
    """“birthday cake, 350 kcal, 5 g protein”; None for a line that names no kcal, or more than anybody eats at once."""
    found = _FREE.match(" ".join(text.split()))
    if found is None:
        return None
    kcal = float(found["kcal"].replace(",", "."))
    protein = None if found["protein"] is None else float(found["protein"].replace(",", "."))
    if not 0 < kcal <= MOST_KCAL or (protein is not None and protein > MOST_PROTEIN_G):
        return None
    return FreeEnergy(found["what"].strip(), kcal, protein)
