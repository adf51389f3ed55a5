"""What ends up in each box: a batch's record and its planned portions, through the pot, to grams and nutrients."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import sqrt

from goodcrate.core.cook.batch_record import (
    BY_EYE,
    COUNTED,
    COUNTED_IN,
    REST,
    BatchRecord,
    CookedState,
    Weighing,
    cooked_state,
    settled,
)
from goodcrate.core.ground.amounts import amount_of, reading_error_g
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.portion.division import BoxTarget, DivisionProblem, divide, divide_with_one
from goodcrate.core.week.placings import PlannedPortion

PLANNED, DIVIDED, WEIGHED = "planned", "divided", "weighed"


@dataclass(frozen=True, slots=True)
class BoxPortion:
    """One component in one box: grams, how they were established, and the nutrients in them.

    `stage` is `planned` (pot not weighed yet), `divided` (grams to fill) or `weighed` (grams that are in). Of a box for
    nobody yet `placing_key` is the box's own key, and it has no target. `pieces` is how many it gets of a batch that is
    divided by count; `how` is how a weighed box's grams are known. `room_g` is what of this component its container
    takes, None where no container is known.
    """

    placing_key: str
    grams: float
    target_g: float
    stage: str
    tally: Tally
    pieces: int = 0
    how: str = ""
    room_g: float | None = None


@dataclass(frozen=True, slots=True)
class BatchOutcome:
    """A batch with its portions, in the order of the plan, and what is left in the pot in g when all are filled.
    `spare` are the portions in boxes that are for nobody yet; `rest_g` is what was tasted, thrown away or kept, in g.

    Everything weighed in is boxes + spare + rest + what is left, whenever it is asked.
    """

    state: CookedState
    portions: tuple[BoxPortion, ...]
    remainder_g: float
    spare: tuple[BoxPortion, ...] = ()
    rest_g: Mapping[str, float] = field(default_factory=dict)
    piece_g: float | None = None

    @property
    def packed_g(self) -> float:
        """Grams in boxes that are weighed."""
        return sum(p.grams for p in (*self.portions, *self.spare) if p.stage == WEIGHED)

    @property
    def left_g(self) -> float:
        """Grams not packed yet: the pot (or what is expected of it) less the weighed boxes."""
        return self.state.available_g - self.packed_g - sum(self.rest_g.values())

    def even_share_g(self, portion: BoxPortion) -> float:
        """What a box would hold if every box took its planned share of this pot."""
        return portion.target_g * self.state.pot_share


def batch_outcome(
    record: BatchRecord, planned: Sequence[PlannedPortion], doubt_key: str, rooms_g: Mapping[str, float] | None = None
) -> BatchOutcome:
    """Divide a batch over its planned portions as far as its log has come.

    Before the pot is weighed, each portion is its exact share of what is expected. Afterwards the weighed net is
    divided in whole grams (by count: in whole pieces of their average weight), boxes already weighed stay as they are,
    and the rest is divided again over the others. What went into boxes for nobody yet, was tasted, thrown away or kept
    is taken off first. `doubt_key` prefixes the portions' own sources of doubt; `rooms_g` says by placing how much of
    this component its container takes.

    Raises:
        InvalidInputs: when the boxes weighed so far hold more than the pot gave.
    """
    rooms = rooms_g or {}
    state = cooked_state(record)
    last = settled(record.log)
    target_sum = sum(p.grams for p in planned)
    scale = state.expected_g / target_sum if target_sum > 0 else 0.0
    targets = {p.placing_key: p.grams * scale for p in planned}
    filled = {p.placing_key: event for p in planned if (event := last.get(p.placing_key)) is not None}
    rest_g = {k.removeprefix(REST): e.net_g or 0.0 for k, e in last.items() if k.startswith(REST)}
    known = {*targets, *record.pots, *(line.key for line in record.lines), *(REST + kind for kind in rest_g)}
    spare = {key: event for key, event in last.items() if key not in known}
    gone_g = sum(e.net_g or 0.0 for e in spare.values()) + sum(rest_g.values())
    to_divide_g = None if state.pot_g is None else max(0.0, round(state.pot_g - gone_g, 1))
    piece_g = state.pot_g / record.pieces if state.pot_g and record.pieces else None
    cut = _Cut(targets, {})
    if to_divide_g is not None:
        pot = _Pot(to_divide_g, piece_g, record.short_for, record.step_g)
        cut = _cut(pot, targets, filled, rooms)

    def portion(key: str, grams: float, stage: str, event: Weighing | None) -> BoxPortion:
        how = "" if event is None else event.how
        pieces = cut.pieces.get(key, 0) if event is None else event.pieces
        error_g = (
            0.0
            if stage == PLANNED
            else _error_g(grams, COUNTED if piece_g and event is None else how, pieces, record.piece_kind)
        )
        tally = state.batch.portion(grams, f"{doubt_key}:{key}", error_g)
        return BoxPortion(
            key, grams, targets.get(key, 0.0), stage, tally, pieces=pieces, how=how, room_g=rooms.get(key)
        )

    open_stage = PLANNED if to_divide_g is None else DIVIDED
    portions = tuple(
        portion(p.placing_key, cut.grams[p.placing_key], open_stage, None)
        if (event := filled.get(p.placing_key)) is None or to_divide_g is None
        else portion(p.placing_key, event.net_g or 0.0, WEIGHED, event)
        for p in planned
    )
    spares = tuple(portion(key, event.net_g or 0.0, WEIGHED, event) for key, event in spare.items())
    return BatchOutcome(state, portions, cut.remainder_g, spares, rest_g, piece_g=piece_g)


@dataclass(frozen=True)
class _Pot:
    """What there is to divide in g, what a piece weighs where it is counted, and whose box takes what is missing."""

    net_g: float
    piece_g: float | None
    short_for: str | None
    step_g: int = 1


@dataclass(frozen=True)
class _Cut:
    """Grams and pieces by placing, and what stays in the pot in g."""

    grams: Mapping[str, float]
    pieces: Mapping[str, int]
    remainder_g: float = 0.0


def _cut(pot: _Pot, targets: Mapping[str, float], filled: Mapping[str, Weighing], rooms: Mapping[str, float]) -> _Cut:
    """The boxes' grams, those that are filled as they are. By count the unit is a piece instead of a gram."""
    unit_g = pot.piece_g or 1.0
    filled_g = {key: event.net_g or 0.0 for key, event in filled.items()}
    if not targets or pot.net_g <= 0:
        grams = {key: filled_g.get(key, 0.0) for key in targets}
        return _Cut(grams, {}, max(0.0, pot.net_g - sum(grams.values())))

    def in_units(key: str) -> float | None:
        if key not in filled:
            return None
        return filled_g[key] if pot.piece_g is None else float(filled[key].pieces or round(filled_g[key] / unit_g))

    boxes = tuple(
        BoxTarget(key, max(round(target_g / unit_g, 3), 0.001), _room(rooms.get(key), unit_g), in_units(key))
        for key, target_g in targets.items()
    )
    whole = pot.net_g if pot.piece_g is None else float(round(pot.net_g / unit_g))
    if whole <= 0:
        return _Cut({key: filled_g.get(key, 0.0) for key in targets}, {}, pot.net_g)
    problem = DivisionProblem(whole, boxes, pot.step_g if pot.piece_g is None else 1)
    one = pot.short_for if pot.short_for in targets else None
    division = divide(problem) if one is None else divide_with_one(problem, one)
    if pot.piece_g is None:
        return _Cut({fill.key: fill.grams for fill in division.boxes}, {}, division.remainder_g)
    # what is not packed weighs what the packed boxes leave: nothing is lost to their rounding
    left = sum(fill.grams for fill in division.boxes if not fill.was_filled) + division.remainder_g
    left_g = max(0.0, pot.net_g - sum(filled_g.values()))
    each_g = left_g / left if left > 0 else 0.0
    pieces = {fill.key: round(fill.grams) for fill in division.boxes}
    grams = {fill.key: filled_g.get(fill.key, fill.grams * each_g) for fill in division.boxes}
    return _Cut(grams, pieces, division.remainder_g * each_g if left > 0 else left_g)


def pieces_g(pieces: int, left_g: float, piece_g: float) -> float:
    """What so many pieces of what is left in the pot weigh, in g to 0.1; all that is left when they are all of them."""
    there = max(1, round(left_g / piece_g))
    return round(left_g, 1) if pieces == there else round(pieces * left_g / there, 1)


def _room(room_g: float | None, unit_g: float) -> float | None:
    return None if room_g is None else max(0.0, room_g / unit_g)


def _error_g(grams: float, how: str, pieces: int, kind: str) -> float:
    """The standard error of a box's grams by how they are known: the scale's, or the measure's usual share. Of pieces
    each is off by itself, so that several together are less off than each."""
    measures = {COUNTED: COUNTED_IN[kind][1], BY_EYE: "eye"}
    if how not in measures:
        return reading_error_g()
    return amount_of(grams, measures[how]).standard_error_g / sqrt(max(1, pieces if how == COUNTED else 1))
