"""How a component fills the kitchen's vessels: how full, how often, how much at once."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import ceil

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.vessels import KINDS, ON_HEAT, Vessel, volume_ml


@dataclass(frozen=True, slots=True)
class Filling:
    """A batch in its vessel. `loads` are the millilitres of each filling; one when it fits."""

    vessel: Vessel
    volume_ml: float
    loads_ml: tuple[float, ...]
    is_too_little: bool
    least_ml: float
    sentence: str

    @property
    def fits(self) -> bool:
        """Whether it goes in at once and is enough for the vessel."""
        return len(self.loads_ml) == 1 and not self.is_too_little


def litres(ml: float) -> str:
    """Millilitres as a cook says them."""
    return f"{shown(ml / 1000, 1)} l" if ml >= 1000 else say("{ml} ml", ml=shown(round(ml, -1)))


def filling(component: Component, cooked_g: float, vessels: Iterable[Vessel]) -> Filling | None:
    """How a batch goes into the household's largest vessel of the component's kind; None when it names or has none.

    A batch that does not fit is split evenly over vessels of that size, at once when there are enough, else in turns.
    """
    mine = sorted((v for v in vessels if v.kind == component.vessel), key=lambda v: v.volume_ml, reverse=True)
    if not component.vessel or not mine or cooked_g <= 0:
        return None
    # The smallest that holds it in one filling, else the largest.
    needed = volume_ml(component, cooked_g)
    vessel = next((v for v in reversed(mine) if v.usable_ml >= needed), mine[0])
    least = max(vessel.minimum_ml, component.minimum_ml or 0.0)
    loads = max(1, ceil(needed / vessel.usable_ml - 1e-9))
    sentence = _words(vessel, needed, loads, least)
    return Filling(vessel, needed, (needed / loads,) * loads, needed < least, least, sentence)


def _words(vessel: Vessel, needed: float, loads: int, least: float) -> str:
    kind = KINDS[vessel.kind]
    if needed < least:
        return say(
            "{name} needs {least} to work, this is {needed}: make {least} and plan the {least2} left over.",
            name=vessel.name,
            least=litres(least),
            needed=litres(needed),
            least2=litres(least - needed),
        )
    if loads == 1:
        return say(
            "About {needed}, goes into {name} ({volume_ml}).",
            needed=litres(needed),
            name=vessel.name,
            volume_ml=litres(vessel.volume_ml),
        )
    each = litres(needed / loads)
    if loads <= vessel.count:
        return say(
            "Splits over {loads} {kind}s of {volume_ml}, {each} in each.",
            loads=loads,
            kind=kind,
            volume_ml=litres(vessel.volume_ml),
            each=each,
        )
    return say(
        "Your largest {kind} takes {usable_ml} in use, this is {needed}: {loads} fillings of {each}.",
        kind=kind,
        usable_ml=litres(vessel.usable_ml),
        needed=litres(needed),
        loads=loads,
        each=each,
    )


def largest_factor(component: Component, cooked_g: float, vessels: Sequence[Vessel]) -> float | None:
    """By how much a batch can grow and still go into the largest vessel of its kind at once; None without one."""
    mine = [v for v in vessels if v.kind == component.vessel]
    needed = volume_ml(component, cooked_g)
    if not mine or needed <= 0:
        return None
    return max(v.usable_ml for v in mine) / needed


def most_at_once_g(recipe: Recipe, vessels: Sequence[Vessel]) -> float | None:
    """The most of a dish one session can cook at once, in g of it in the boxes: its tightest component decides.

    A component goes into all vessels of its kind that are as large as the largest. What is blended or stirred is done
    in turns in a minute, and limits nothing. None when no vessel is known.
    """
    serving, most = serving_of(recipe), None
    for part in serving.parts:
        mine = [v for v in vessels if v.kind == part.component.vessel and v.kind in ON_HEAT]
        if not mine or part.grams <= 0 or part.expected.grams <= 0:
            continue
        largest = max(v.usable_ml for v in mine)
        room_ml = sum(v.usable_ml * v.count for v in mine if v.usable_ml >= largest - 1e-9)
        ml_per_g = volume_ml(part.component, part.expected.grams) / part.expected.grams
        holds_g = room_ml / ml_per_g * serving.tally.grams / part.grams
        most = holds_g if most is None else min(most, holds_g)
    return most
