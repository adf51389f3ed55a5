"""View models of the SVG drawings: the box filled to scale, the beam of a day, the texture bar.

Percentages are of the drawing's width, so that one drawing serves every size without distorting its textures.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from goodcrate.core.ground.nutrients import KEYS, Tally, energy_by_source, main_energy_source
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import signed
from goodcrate.core.portion.week_outcome import BoxPart
from goodcrate.core.targets.day_target import (
    BANDED,
    DayTarget,
    Judgement,
    NutrientBand,
    Standing,
    banded_amount,
    judge_band,
    judge_energy,
    judge_protein,
)
from goodcrate.web.figures import plain, whole

FULL_BOX_G = 800.0
"""Grams that fill a drawn box to the brim, the same in every drawing, so that boxes can be compared by eye."""

TEXTURES = (
    ("protein", Saying("protein")),
    ("carbohydrate", Saying("starch and sugar")),
    ("fat", Saying("fat")),
    ("fibre", Saying("vegetables, water, fibre")),
)


@dataclass(frozen=True)
class Fill:
    """One compartment: where it stands (per cent of the width), its texture, and what it is."""

    x_pct: float
    width_pct: float
    texture: str
    name: str
    grams: float


@dataclass(frozen=True)
class BoxDrawing:
    """A box filled to scale: `level` is how full, 0 to 1 of `FULL_BOX_G`; compartments share its width by grams."""

    level: float
    fills: tuple[Fill, ...]

    def height(self, zone: float) -> float:
        """Height of the fill in a zone of so many pixels."""
        return round(self.level * zone, 1)

    def top(self, zone: float) -> float:
        """Where the fill starts, from the top of the zone."""
        return round(zone - self.height(zone), 1)


def texture_of(tally: Tally) -> str:
    """The texture of some food: what it mostly gives."""
    return main_energy_source(dict(zip(KEYS, tally.known, strict=True)), tally.grams)


def draw_box(parts: Sequence[BoxPart]) -> BoxDrawing:
    """Draw what is in a box; area is in proportion to grams."""
    whole_g = sum(part.grams for part in parts)
    fills, x = [], 0.0
    for part in parts:
        width = 100 * part.grams / whole_g if whole_g else 0.0
        fills.append(Fill(round(x, 1), round(width, 1), texture_of(part.tally), part.name, part.grams))
        x += width
    return BoxDrawing(min(1.0, whole_g / FULL_BOX_G), tuple(fills))


def draw_fill(grams: float, full_g: float, texture: str, name: str = "") -> BoxDrawing:
    """Draw a single compartment that is full at `full_g`."""
    return BoxDrawing(min(1.0, grams / full_g) if full_g > 0 else 0.0, (Fill(0, 100, texture, name, grams),))


@dataclass(frozen=True)
class Beam:
    """A total against its band: bracket from `low_pct` to `high_pct`, marker at `marker_pct`, and in words."""

    low_pct: float
    high_pct: float
    marker_pct: float
    standing: str
    words: str
    title: str
    is_floor: bool = False

    @property
    def width_pct(self) -> float:
        """How wide the bracket is."""
        return round(self.high_pct - self.low_pct, 1)

    @property
    def is_inside(self) -> bool:
        """The day keeps to its band or floor."""
        return self.standing == Standing.INSIDE


def _at(value: float, middle: float, reach: float) -> float:
    """Place on the beam: the middle of it is the target, its ends are `reach` away (as a share); clamped."""
    return round(min(98.0, max(2.0, 50 + 50 * (value / middle - 1) / reach)), 1) if middle > 0 else 50.0


def energy_words(judgement: Judgement) -> str:
    """A day's energy in words: “in band, −18”, “short by 96”, “over by 40” (kcal)."""
    if judgement.standing == Standing.INSIDE:
        return say("in band, {by}", by=signed(judgement.by))
    return say("{standing} by {by}", standing=judgement.standing, by=whole(judgement.by))


def at_least_words(judgement: Judgement, floor_g: float) -> str:
    """Protein against its floor in words: “at least 90 g”, “4 g short of 90 g”."""
    if judgement.standing == Standing.SHORT:
        return say("{by} g short of {floor} g", by=whole(judgement.by), floor=whole(floor_g))
    return say("at least {floor} g", floor=whole(floor_g))


def energy_beam(total_kcal: float, target: DayTarget, reach: float = 0.15) -> Beam:
    """The beam of a day's energy; its ends are 15 % away from the target, or further where its band is wide."""
    judgement = judge_energy(total_kcal, target)
    reach = max(reach, target.energy_band_pct * 1.25 / 100)
    return Beam(
        _at(target.energy_low_kcal, target.energy_kcal, reach),
        _at(target.energy_high_kcal, target.energy_kcal, reach),
        _at(total_kcal, target.energy_kcal, reach),
        judgement.standing,
        energy_words(judgement),
        say(
            "{total_kcal} kcal; the band is {energy_low_kcal} to {energy_high_kcal} kcal",
            total_kcal=whole(total_kcal),
            energy_low_kcal=whole(target.energy_low_kcal),
            energy_high_kcal=whole(target.energy_high_kcal),
        ),
    )


def protein_beam(total_g: float, target: DayTarget, reach: float = 0.4) -> Beam:
    """The beam of a day's protein above its floor; its ends are 40 % away from the floor."""
    judgement = judge_protein(total_g, target)
    floor = target.protein_floor_g
    words = say("{total_g} of {floor} g", total_g=whole(total_g), floor=whole(floor))
    if judgement.standing == Standing.SHORT:
        words = say("{by} g short", by=whole(judgement.by))
    return Beam(
        _at(floor, floor, reach),
        100.0,
        _at(total_g, floor, reach),
        judgement.standing,
        words,
        say("{total_g} g of protein; the floor is {floor} g", total_g=whole(total_g), floor=whole(floor)),
        is_floor=True,
    )


@dataclass(frozen=True)
class Share:
    """One stretch of a texture bar."""

    texture: str
    label: str
    x_pct: float
    width_pct: float
    kcal: float


SPOKEN = 8
"""So many stretches of a bar are spoken; a table beside it has them all."""


def shares_spoken(shares: Sequence[Share]) -> str:
    """A bar in words, for who does not see it."""
    said = ", ".join(f"{s.label} {whole(s.width_pct)} %" for s in shares[:SPOKEN])
    return say("{said} and {shares} more", said=said, shares=len(shares) - SPOKEN) if len(shares) > SPOKEN else said


def energy_bar(tally: Tally) -> tuple[Share, ...]:
    """Where the energy comes from, as stretches of a bar; alcohol is drawn with carbohydrate."""
    energy = energy_by_source(dict(zip(KEYS, tally.known, strict=True)))
    amounts = [
        ("protein", "protein", energy["protein"]),
        ("carbohydrate", "carbohydrate", energy["carbohydrate"] + energy["alcohol"]),
        ("fat", "fat", energy["fat"]),
        ("fibre", "fibre", energy["fibre"]),
    ]
    return tuple(_stretches(amounts))


def _stretches(amounts: Iterable[tuple[str, str, float]]) -> Iterable[Share]:
    parts = [part for part in amounts if part[2] > 0]
    whole_kcal, x = sum(kcal for _, _, kcal in parts), 0.0
    for texture, label, kcal in parts:
        width = 100 * kcal / whole_kcal
        yield Share(texture, label, round(x, 2), round(width, 2), kcal)
        x += width


@dataclass(frozen=True)
class BandLine:
    """Another nutrient of a day against its band, in words."""

    words: str
    is_inside: bool


def band_lines(total: Tally, bands: Iterable[NutrientBand], polyol_share: float) -> tuple[BandLine, ...]:
    """A day's other bands, each with what the day holds of it."""
    return tuple(_band_line(band, banded_amount(total, band.key, polyol_share)) for band in bands)


def _band_line(band: NutrientBand, amount: float) -> BandLine:
    word, unit, _ = BANDED[band.key]
    judged = judge_band(amount, band)
    wanted = f"{plain(band.low or 0)}–{plain(band.high or 0)}"
    if band.high is None:
        wanted = say("at least {low}", low=plain(band.low or 0))
    elif band.low is None:
        wanted = say("up to {high}", high=plain(band.high))
    is_inside = judged.standing == Standing.INSIDE
    stands = "" if is_inside else say(", {standing} by {by}", standing=judged.standing, by=whole(judged.by))
    told = {"word": word, "amount": whole(amount), "wanted": wanted, "unit": unit, "stands": stands}
    return BandLine(say("{word} {amount} of {wanted} {unit}{stands}", **told), is_inside)
