"""What an eater should get on a day, and how a day stands against it."""

from collections.abc import Collection, Mapping, Sequence
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


LEAST_ROOM_PCT, MOST_ROOM_PCT = 1.0, 25.0
"""How far a single day of somebody judged on the week's mean may be off its bands, in %."""


def with_room(target: DayTarget, room_pct: float, on_mean: Collection[str] = ()) -> DayTarget:
    """What a single day must keep to when the mean of the week is what counts: its bands and its floor are so many %
    wider. Of the other bands only those that count on the mean (`on_mean`, by nutrient) are."""
    low, high = 1 - room_pct / 100, 1 + room_pct / 100
    bands = []
    for band in target.bands:
        ends = [None if band.low is None else band.low * low, None if band.high is None else band.high * high]
        most = BANDED[band.key][2]
        wider = NutrientBand(band.key, ends[0], None if ends[1] is None else min(ends[1], most))
        bands.append(wider if band.key in on_mean else band)
    return DayTarget(
        target.energy_kcal,
        round_half_up(target.protein_floor_g * low),
        max(target.energy_band_pct, room_pct),
        tuple(bands),
    )


@dataclass(frozen=True, slots=True)
class MeanTarget:
    """What the mean of some days must keep to: energy band in kcal a day, protein floor in g a day, and the bands that
    each of the days has, each in its unit a day."""

    energy_kcal: float
    energy_low_kcal: float
    energy_high_kcal: float
    protein_floor_g: float
    bands: tuple[NutrientBand, ...] = ()

    @classmethod
    def of(cls, days: Sequence[DayTarget]) -> "MeanTarget":
        """The mean of what each of the days would have to keep to by itself; at least one day."""
        by_key = [{band.key: band for band in day.bands} for day in days]
        bands = []
        for key in shared_bands(days):
            lows, highs = ([getattr(day[key], end) for day in by_key] for end in ("low", "high"))
            low, high = (None if None in ends else sum(ends) / len(days) for ends in (lows, highs))
            if low is not None or high is not None:
                bands.append(NutrientBand(key, low, high))
        energy, least, most, floor = (
            sum(getattr(day, name) for day in days) / len(days)
            for name in ("energy_kcal", "energy_low_kcal", "energy_high_kcal", "protein_floor_g")
        )
        return cls(energy, least, most, floor, tuple(bands))

    def judge(self, kcal: float, protein_g: float) -> tuple[Judgement, Judgement]:
        """The mean's energy against its band and its protein against its floor, in whole units as they are shown."""
        return (
            judge_amount(kcal, self.energy_low_kcal, self.energy_high_kcal, self.energy_kcal),
            judge_amount(protein_g, self.protein_floor_g, None, self.protein_floor_g),
        )

    def missed_bands(self, others: Mapping[str, float]) -> list[str]:
        """The nutrients, by their words, whose mean (in each one's unit) is outside its band."""
        outside = [b for b in self.bands if judge_band(others.get(b.key, 0.0), b).standing != Standing.INSIDE]
        return [str(BANDED[b.key][0]) for b in outside]


def shared_bands(days: Sequence[DayTarget]) -> tuple[str, ...]:
    """The nutrients for which each of some days has a band: those can be judged on the mean."""
    own = [{band.key for band in day.bands} for day in days]
    return tuple(key for key in BANDED if own and all(key in keys for keys in own))


@dataclass(frozen=True, slots=True)
class WeekMean:
    """The mean over some days, kcal and g of protein a day, beside the mean of those days' targets; and what it must
    keep to, for whoever is judged by it."""

    days: int
    kcal: float
    protein_g: float
    target_kcal: float
    wanted: MeanTarget | None = None

    @classmethod
    def of(cls, days: Sequence[tuple[float, float, float]], wanted: MeanTarget | None = None) -> "WeekMean":
        """From each day's energy (kcal), protein (g) and target (kcal); at least one day."""
        kcal, protein_g, target = (sum(day[n] for day in days) / len(days) for n in range(3))
        return cls(len(days), kcal, protein_g, target, wanted)

    @property
    def judged(self) -> tuple[Judgement, Judgement] | None:
        """Energy and protein against the mean's own band and floor; None where each day counts by itself."""
        return None if self.wanted is None else self.wanted.judge(self.kcal, self.protein_g)

    @property
    def by_pct(self) -> float:
        """How far the mean is from the targets' mean, in %."""
        return (self.kcal / self.target_kcal - 1) * 100


def judge_energy(total_kcal: float, target: DayTarget) -> Judgement:
    """A day's energy against its band; the edges belong to the band. Whole kcal decide, as they are shown."""
    return judge_amount(total_kcal, target.energy_low_kcal, target.energy_high_kcal, target.energy_kcal)


def judge_amount(total: float, low: float, high: float | None, middle: float) -> Judgement:
    """A total against its ends (None is open), all in one unit; whole units decide. Inside, `by` is from the middle."""
    shown = round_half_up(total)
    if shown < round_half_up(low):
        return Judgement(Standing.SHORT, round_half_up(low) - shown)
    if high is not None and shown > round_half_up(high):
        return Judgement(Standing.OVER, shown - round_half_up(high))
    return Judgement(Standing.INSIDE, shown - middle)


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
