"""Which container a box goes into: as many as there are, none twice at a time, and as little air as can be."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ortools.graph.python.min_cost_flow import SimpleMinCostFlow

from goodcrate.core.recipes.vessels import ASSUMED_G_PER_ML, BOX, MEAL_BOX_ML, STANDS_FREEZER, Vessel, holds_g

WITHOUT = 1_000_000
"""What a box without a container costs in the sum: more than any air, so that as many as can be get one."""
APART_ML = 250
"""A part that shares a compartment with another counts like so much air: our own weight."""


@dataclass(frozen=True, slots=True)
class ToPack:
    """What one box holds: grams of food in so many parts, frozen or not, from when until when (comparable). What is
    kept apart `is_small`: it may go into a pot that is too small for a meal."""

    key: str
    grams: float
    parts: int = 1
    is_frozen: bool = False
    since: float = 0.0
    until: float = 0.0
    is_small: bool = False


@dataclass(frozen=True, slots=True)
class Packing:
    """The container of each box by key, and the boxes for which none is left or none is large enough."""

    by_key: Mapping[str, Vessel]
    without: tuple[str, ...] = ()
    too_large: tuple[str, ...] = ()


def apart_key(placing_key: str, component_key: str) -> str:
    """What is kept apart of a meal, as a box of its own."""
    return f"{placing_key}/{component_key}"


def fits(box: ToPack, container: Vessel) -> bool:
    """Whether a box can go into a container: room, and the freezer where it is frozen (unless nobody said). No meal
    goes into one that is too small for any."""
    if container.volume_ml < MEAL_BOX_ML and not box.is_small:
        return False
    stands = container.stands is None or STANDS_FREEZER in container.stands
    return box.grams <= holds_g(container) and (stands or not box.is_frozen)


def pack_into(boxes: Sequence[ToPack], vessels: Iterable[Vessel]) -> Packing:
    """Give boxes containers, those that are packed at one time together, the earliest first; one is free again when
    its meal is eaten. As many of them as can be get one; among those ways it is the one with the least air in whole ml,
    where each part without a compartment of its own counts like `APART_ML` of air.

    Boxes that no container is large enough for are named apart from those for which there are too few.
    """
    kinds = [v for v in vessels if v.kind == BOX]
    given: dict[str, Vessel] = {}
    without: list[str] = []
    too_large = [box.key for box in boxes if kinds and not any(fits(box, kind) for kind in kinds)]
    taken: list[tuple[float, str]] = []
    for since in sorted({box.since for box in boxes}):
        now = [box for box in boxes if box.since == since and box.key not in too_large]
        taken = [(until, key) for until, key in taken if until > since]
        used = [key for _, key in taken]
        free = [(kind, kind.count - used.count(kind.key)) for kind in kinds]
        chosen = _matched(now, free)
        given.update(chosen)
        taken += [(box.until, chosen[box.key].key) for box in now if box.key in chosen]
        without += [box.key for box in now if kinds and box.key not in chosen]
    return Packing(given, tuple(without), tuple(too_large))


def _matched(boxes: Sequence[ToPack], free: Sequence[tuple[Vessel, int]]) -> dict[str, Vessel]:
    """The cheapest way to give each box a container of its own: a flow, exact."""
    flow = SimpleMinCostFlow()
    source, sink, first_kind = 0, len(boxes) + len(free) + 1, len(boxes) + 1
    arcs: dict[int, tuple[str, Vessel]] = {}
    for n, box in enumerate(boxes, 1):
        flow.add_arc_with_capacity_and_unit_cost(source, n, 1, 0)
        flow.add_arc_with_capacity_and_unit_cost(n, sink, 1, WITHOUT)
        for k, (kind, count) in enumerate(free):
            if count > 0 and fits(box, kind):
                cost = round(kind.volume_ml - box.grams / ASSUMED_G_PER_ML)
                cost = max(0, cost) + APART_ML * max(0, box.parts - kind.compartments)
                arcs[flow.add_arc_with_capacity_and_unit_cost(n, first_kind + k, 1, cost)] = (box.key, kind)
    for k, (_, count) in enumerate(free):
        flow.add_arc_with_capacity_and_unit_cost(first_kind + k, sink, max(0, count), 0)
    flow.set_node_supply(source, len(boxes))
    flow.set_node_supply(sink, -len(boxes))
    if not boxes or flow.solve() != flow.OPTIMAL:
        return {}
    return {key: kind for arc, (key, kind) in arcs.items() if flow.flow(arc)}
