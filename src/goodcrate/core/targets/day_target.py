"""What an eater should get on a day, and how a day stands against it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import round_half_up, short, shown

DEFAULT_ENERGY_BAND_PCT = 3.0
LOWEST_ENERGY_KCAL, HIGHEST_ENERGY_KCAL = 500.0, 8000.0
HIGHEST_PROTEIN_G = 400.0


BANDED: Mapping[str, tuple[str, str, float]] = {
    "fat_g": (Saying("fat"), "g", 400.0),
    "carbohydrate_g": (Saying("carbohydrate"), "g", 1200.0),
    "net_carbohydrate_g": (Saying("net carbohydrate"), "g", 1200.0),
    "fibre_g": (Saying("fibre"), "g", 150.0),
    "sodium_mg": (Saying("sodium"), "mg", 10_000.0),
}
"""What a day may have a band for besides energy and protein: word, unit, and the most we take."""


@dataclass(frozen=True, slots=True)
class NutrientBand:
    """From `low` to `high` of a nutrient a day, in its unit; None is open on that side.

    Raises:
        InvalidInput: for a nutrient that takes no band, or ends that cannot be.
    """

    key: str
    low: float | None = None
    high: float | None = None

    def __post_init__(self) -> None:
        if self.key not in BANDED:
            raise InvalidInput(
                self.key, say("“{key}” takes no band.", key=self.key), say("One of {BANDED}.", BANDED=", ".join(BANDED))
            )
        word, unit, most = BANDED[self.key]
        ends = [end for end in (self.low, self.high) if end is not None]
        if any(not 0 <= end <= most for end in ends) or (len(ends) == 2 and ends[0] > ends[1]):
            raise InvalidInput(
                self.key,
                say("That is no band of {word}.", word=word),
                say("From less to more, 0 to {most} {unit}.", most=shown(most), unit=unit),
            )

    @property
    def words(self) -> str:
        """Such as “fibre at least 30 g”."""
        word, unit, _ = BANDED[self.key]
        low, high = (None if end is None else short(end, grouped=True) for end in (self.low, self.high))
        ends = (
            f"{low}–{high}"
            if low and high
            else say("at least {low}", low=low)
            if low
            else say("up to {high}", high=high)
        )
        return f"{word} {ends} {unit}"


@dataclass(frozen=True, slots=True)
class DayTarget:
    """A day's energy as a band around a value, its protein floor, and any other bands it has.

    Raises:
        InvalidInputs: naming every figure outside its range.
    """

    energy_kcal: float
    protein_floor_g: float
    energy_band_pct: float = DEFAULT_ENERGY_BAND_PCT
    bands: tuple["NutrientBand", ...] = ()

    def _out_of_range(self) -> list[InvalidInput]:
        faults = []
        if not LOWEST_ENERGY_KCAL <= self.energy_kcal <= HIGHEST_ENERGY_KCAL:
            faults.append(
                InvalidInput(
                    "energy_kcal",
                    say("{energy_kcal} kcal a day is outside what we compute.", energy_kcal=shown(self.energy_kcal)),
                    say(
                        "Give {LOWEST_ENERGY_KCAL} to {HIGHEST_ENERGY_KCAL} kcal.",
                        LOWEST_ENERGY_KCAL=shown(LOWEST_ENERGY_KCAL),
                        HIGHEST_ENERGY_KCAL=shown(HIGHEST_ENERGY_KCAL),
                    ),
                )
            )
        if not 0 <= self.protein_floor_g <= HIGHEST_PROTEIN_G:
            faults.append(
                InvalidInput(
                    "protein_floor_g",
                    say(
                        "{protein_floor_g} g of protein a day is outside what we compute.",
                        protein_floor_g=shown(self.protein_floor_g),
                    ),
                    say("Give 0 to {HIGHEST_PROTEIN_G} g.", HIGHEST_PROTEIN_G=shown(HIGHEST_PROTEIN_G)),
                )
            )
        if not 0.5 <= self.energy_band_pct <= 25:
            faults.append(
                InvalidInput(
                    "energy_band_pct",
                    say("±{energy_band_pct} % is no useful band.", energy_band_pct=short(self.energy_band_pct)),
                    say("Give {short} to 25 %.", short=short(0.5)),
                )
            )
        return faults

    def __post_init__(self) -> None:
        faults = self._out_of_range()
        if not faults and self.protein_floor_g * 4 > self.energy_kcal:
            faults.append(
                InvalidInput(
                    "protein_floor_g",
                    say(
                        "{protein_floor_g} g of protein alone is {protein_floor_g2} kcal.",
                        protein_floor_g=shown(self.protein_floor_g),
                        protein_floor_g2=shown(self.protein_floor_g * 4),
                    ),
                    say(
                        "At most {energy_kcal} g fits into {energy_kcal2} kcal.",
                        energy_kcal=shown(self.energy_kcal / 4),
                        energy_kcal2=shown(self.energy_kcal),
                    ),
                )
            )
        if faults:
            raise InvalidInputs(faults)

    @property
    def energy_low_kcal(self) -> float:
        """Lower edge of the energy band."""
        return energy_band(self.energy_kcal, self.energy_band_pct)[0]

    @property
    def energy_high_kcal(self) -> float:
        """Upper edge of the energy band."""
        return energy_band(self.energy_kcal, self.energy_band_pct)[1]


def energy_band(energy_kcal: float, band_pct: float) -> tuple[float, float]:
    """Lower and upper edge of a band of ± so many % around a day's energy, in kcal."""
    return energy_kcal * (1 - band_pct / 100), energy_kcal * (1 + band_pct / 100)


def slot_share_kcal(energy_kcal: float, share_pct: float) -> float:
    """A slot's share of a day's energy, in kcal."""
    return energy_kcal * share_pct / 100


@dataclass(frozen=True, slots=True)
class WeekMean:
    """The mean over some days, kcal a day, beside the mean of those days' targets."""

    days: int
    kcal: float
    target_kcal: float

    @classmethod
    def of(cls, days: Sequence[tuple[float, float]]) -> "WeekMean":
        """From each day's energy and target, in kcal; at least one day."""
        return cls(len(days), sum(kcal for kcal, _ in days) / len(days), sum(t for _, t in days) / len(days))

    @property
    def by_pct(self) -> float:
        """How far the mean is from the targets' mean, in %."""
        return (self.kcal / self.target_kcal - 1) * 100


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


def banded_amount(tally: Tally, key: str, polyol_share: float) -> float:
    """The known part of a nutrient that may have a band, in its unit; net carbohydrate by the household's habit."""
    if key != "net_carbohydrate_g":
        return tally.amount(key).value
    return tally.net_carbohydrate(polyol_share).value


def banded_per_g(tally: Tally, polyol_share: float) -> dict[str, float]:
    """What a gram of some food holds of every nutrient that may have a band."""
    grams = max(tally.grams, 1.0)
    return {key: banded_amount(tally, key, polyol_share) / grams for key in BANDED}


def judge_band(total: float, band: NutrientBand) -> Judgement:
    """A day's nutrient against its band, in whole units as they are shown; inside, `by` is 0."""
    shown = round_half_up(total)
    if band.low is not None and shown < band.low:
        return Judgement(Standing.SHORT, band.low - shown)
    if band.high is not None and shown > band.high:
        return Judgement(Standing.OVER, shown - band.high)
    return Judgement(Standing.INSIDE, 0.0)


def still_lacking(total_kcal: float, total_protein_g: float, target: DayTarget) -> tuple[float, float]:
    """What a day lacks to the middle of its band (kcal) and to its protein floor (g); 0 where it is there."""
    return max(0.0, target.energy_kcal - total_kcal), max(0.0, target.protein_floor_g - total_protein_g)
