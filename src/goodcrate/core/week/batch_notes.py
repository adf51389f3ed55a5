"""What a planned batch means at stove and shop: vessels, whole pieces and packs, the least it can be, what is over."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import ceil, floor

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.filling_vessels import filling
from goodcrate.core.recipes.scaling import is_discrete
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.core.week.placings import PlannedBatch
from goodcrate.core.week.week_problem import WHOLE_SHARE

VESSEL, MINIMUM, PIECES, PACK = "vessel", "minimum", "pieces", "pack"


@dataclass(frozen=True, slots=True)
class BatchNote:
    """One thing to know of a batch. `surplus_portions` are mean portions more than the week eats, if made so."""

    kind: str
    sentence: str
    surplus_g: float = 0.0
    surplus_portions: float = 0.0


def batch_notes(component: Component, plan: PlannedBatch, vessels: Sequence[Vessel]) -> tuple[BatchNote, ...]:
    """Everything to know of a planned batch before it is cooked, in the order it matters."""
    return (*_vessel_notes(component, plan, vessels), *_piece_notes(component, plan), *_pack_notes(component, plan))


def _over(plan: PlannedBatch, factor: float) -> tuple[float, float]:
    """Grams and mean portions more when a batch is cooked at `factor` instead."""
    more_g = plan.cooked_g * (factor / plan.factor - 1) if plan.factor > 0 else 0.0
    each = plan.cooked_g / len(plan.portions) if plan.portions else 0.0
    return more_g, more_g / each if each > 0 else 0.0


def _vessel_notes(component: Component, plan: PlannedBatch, vessels: Sequence[Vessel]) -> Iterable[BatchNote]:
    made = component.times(plan.factor)
    put = filling(made, expected_cooked_weight(made).grams, vessels)
    if put is None or put.fits:
        return
    if not put.is_too_little:
        yield BatchNote(VESSEL, put.sentence)
        return
    more_g, more = _over(plan, plan.factor * put.least_ml / put.volume_ml)
    yield BatchNote(MINIMUM, put.sentence, more_g, more)


def _piece_notes(component: Component, plan: PlannedBatch) -> Iterable[BatchNote]:
    for line in component.lines:
        each = line.food.each_g if line.amount.measure == "count" else line.food.pack_g
        if not is_discrete(line) or not each:
            continue
        pieces = line.amount.grams * plan.factor / each
        if abs(pieces - round(pieces)) <= WHOLE_SHARE * pieces:
            continue
        whole = max(1, ceil(pieces))
        more_g, more = _over(plan, plan.factor * whole / pieces)
        name = line.food.each_name or line.food.name.split(",")[0].lower()
        if line.food.group == "egg":
            name = "egg" if whole == 1 else "eggs"
        told = {"pieces": shown(pieces, 1), "name": name, "whole": whole, "more_g": shown(more_g)}
        words = say("{pieces} {name} asked for: {whole} whole ones make {more_g} g more", **told)
        yield BatchNote(PIECES, f"{words}, {_portions(more)}.", more_g, more)


def _portions(more: float) -> str:
    if more < 0.95:
        return say("{more} % of a portion", more=shown(more * 100))
    return say("{more} portions: freeze them, or place them in a gap", more=shown(more, 1))


def _pack_notes(component: Component, plan: PlannedBatch) -> Iterable[BatchNote]:
    for line in component.lines:
        pack = line.food.pack_g
        if pack is None or is_discrete(line) or keeps_open(line.food.keep_group):
            continue
        packs = line.amount.grams * plan.factor / pack
        left = (ceil(packs - WHOLE_SHARE) - packs) * pack
        if left < max(10.0, WHOLE_SHARE * pack) or floor(packs + WHOLE_SHARE) == packs:
            continue
        name = line.food.name.split(",")[0].lower()
        yield BatchNote(
            PACK,
            say(
                "{packs} of {name} ({pack} g): {left} g stay in an open one.",
                packs=_of_packs(packs),
                name=name,
                pack=shown(pack),
                left=shown(left),
            ),
        )


def _of_packs(packs: float) -> str:
    return say("Little of a pack") if packs < 0.05 else say("{packs} packs", packs=shown(packs, 1))


def keeps_open(keep_group: str) -> bool:
    """Whether what is left of a pack keeps: nobody minds an open bag of rice."""
    return keep_group in ("pantry", "dried_spice", "fat", "nuts", "hard_veg", "whole_fruit", "frozen_veg", "bread")
