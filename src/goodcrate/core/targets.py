"""What an eater should get on a day, and how a day stands against it."""

from dataclasses import dataclass
from enum import StrEnum

from goodcrate.core.amounts import round_half_up
from goodcrate.core.errors import InvalidInput, InvalidInputs

DEFAULT_ENERGY_BAND_PCT = 3.0
LOWEST_ENERGY_KCAL, HIGHEST_ENERGY_KCAL = 500.0, 8000.0
HIGHEST_PROTEIN_G = 400.0
CONFIRM_BELOW_KCAL, WARN_BELOW_WOMEN_KCAL, WARN_BELOW_MEN_KCAL = 1000.0, 1200.0, 1500.0


@dataclass(frozen=True, slots=True)
class DayTarget:
    """A day's energy as a band around a value, and its protein floor.

    Raises:
        InvalidInputs: naming every figure outside its range.
    """

    energy_kcal: float
    protein_floor_g: float
    energy_band_pct: float = DEFAULT_ENERGY_BAND_PCT

    def __post_init__(self) -> None:
        faults = []
        if not LOWEST_ENERGY_KCAL <= self.energy_kcal <= HIGHEST_ENERGY_KCAL:
            faults.append(
                InvalidInput(
                    "energy_kcal",
                    f"{self.energy_kcal:,.0f} kcal a day is outside what we compute.",
                    f"Give {LOWEST_ENERGY_KCAL:,.0f} to {HIGHEST_ENERGY_KCAL:,.0f} kcal.",
                )
            )
        if not 0 <= self.protein_floor_g <= HIGHEST_PROTEIN_G:
            faults.append(
                InvalidInput(
                    "protein_floor_g",
                    f"{self.protein_floor_g:,.0f} g of protein a day is outside what we compute.",
                    f"Give 0 to {HIGHEST_PROTEIN_G:,.0f} g.",
                )
            )
        if not 0.5 <= self.energy_band_pct <= 25:
            faults.append(
                InvalidInput("energy_band_pct", f"±{self.energy_band_pct:g} % is no useful band.", "Give 0.5 to 25 %.")
            )
        if not faults and self.protein_floor_g * 4 > self.energy_kcal:
            faults.append(
                InvalidInput(
                    "protein_floor_g",
                    f"{self.protein_floor_g:,.0f} g of protein alone is {self.protein_floor_g * 4:,.0f} kcal.",
                    f"At most {self.energy_kcal / 4:,.0f} g fits into {self.energy_kcal:,.0f} kcal.",
                )
            )
        if faults:
            raise InvalidInputs(faults)

    @property
    def energy_low_kcal(self) -> float:
        """Lower edge of the energy band."""
        return self.energy_kcal * (1 - self.energy_band_pct / 100)

    @property
    def energy_high_kcal(self) -> float:
        """Upper edge of the energy band."""
        return self.energy_kcal * (1 + self.energy_band_pct / 100)


class Standing(StrEnum):
    """Where a total lies against its band or floor."""

    INSIDE = "inside"
    SHORT = "short"
    OVER = "over"


@dataclass(frozen=True, slots=True)
class Judgement:
    """A total against its target: where it lies, and by how much in the target's unit.

    Inside a band `by` is signed from the middle; short or over it is the distance to the nearest edge, positive.
    """

    standing: Standing
    by: float


def judge_energy(total_kcal: float, target: DayTarget) -> Judgement:
    """A day's energy against its band; the edges belong to the band. Whole kcal decide, as they are shown."""
    low, high, total = map(round_half_up, (target.energy_low_kcal, target.energy_high_kcal, total_kcal))
    if total < low:
        return Judgement(Standing.SHORT, low - total)
    if total > high:
        return Judgement(Standing.OVER, total - high)
    return Judgement(Standing.INSIDE, total - target.energy_kcal)


def judge_protein(total_g: float, target: DayTarget) -> Judgement:
    """A day's protein against its floor; more than the floor is inside. Whole grams decide, as they are shown."""
    short = target.protein_floor_g - round_half_up(total_g)
    if short > 0:
        return Judgement(Standing.SHORT, short)
    return Judgement(Standing.INSIDE, round_half_up(total_g) - target.protein_floor_g)


def still_lacking(total_kcal: float, total_protein_g: float, target: DayTarget) -> tuple[float, float]:
    """What a day lacks to the middle of its band (kcal) and to its protein floor (g); 0 where it is there."""
    return max(0.0, target.energy_kcal - total_kcal), max(0.0, target.protein_floor_g - total_protein_g)


@dataclass(frozen=True, slots=True)
class Caution:
    """One line of care, with its source; `needs_confirmation` when it may not be passed over in silence."""

    text: str
    source: str
    needs_confirmation: bool = False


_LOW_ENERGY_SOURCE = "Harvard Health Publishing on very low energy intakes; follow your own clinician"


def low_energy_caution(energy_kcal: float) -> Caution | None:
    """The caution for a low daily energy target, or None.

    Floors: 1,200 kcal for women, 1,500 for men; under 1,000 kcal an explicit confirmation is asked for.
    """
    if energy_kcal < CONFIRM_BELOW_KCAL:
        return Caution(
            "Under 1,000 kcal a day belongs in the hands of a doctor or registered dietitian. "
            "We keep such a target only when they gave it, and never plan to it by ourselves.",
            _LOW_ENERGY_SOURCE,
            needs_confirmation=True,
        )
    if energy_kcal < WARN_BELOW_WOMEN_KCAL:
        return Caution(
            "Under 1,200 kcal a day: please set this with a doctor or registered dietitian.", _LOW_ENERGY_SOURCE
        )
    if energy_kcal < WARN_BELOW_MEN_KCAL:
        return Caution(
            "Under 1,500 kcal a day is low for men: please set this with a doctor or registered dietitian.",
            _LOW_ENERGY_SOURCE,
        )
    return None
