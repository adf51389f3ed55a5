"""What ends up in each box: a batch's record and its planned portions, through the pot, to grams and nutrients."""

from collections.abc import Sequence
from dataclasses import dataclass

from goodcrate.core.cook.batch_record import BatchRecord, CookedState, cooked_state, settled
from goodcrate.core.ground.amounts import reading_error_g
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.portion.division import BoxTarget, Division, DivisionProblem, divide
from goodcrate.core.week.placings import PlannedPortion

PLANNED, DIVIDED, WEIGHED = "planned", "divided", "weighed"


@dataclass(frozen=True, slots=True)
class BoxPortion:
    """One component in one box: grams, how they were established, and the nutrients in them.

    `stage` is `planned` (pot not weighed yet), `divided` (grams to fill) or `weighed` (grams that are in). Of a box for
    nobody yet `placing_key` is the box's own key, and it has no target.
    """

    placing_key: str
    grams: float
    target_g: float
    stage: str
    tally: Tally


@dataclass(frozen=True, slots=True)
class BatchOutcome:
    """A batch with its portions, in the order of the plan, and what is left in the pot in g. `spare` are the portions
    in boxes that are for nobody yet."""

    state: CookedState
    portions: tuple[BoxPortion, ...]
    remainder_g: float
    division: Division | None
    spare: tuple[BoxPortion, ...] = ()

    @property
    def packed_g(self) -> float:
        """Grams in boxes that are weighed."""
        return sum(p.grams for p in (*self.portions, *self.spare) if p.stage == WEIGHED)

    @property
    def left_g(self) -> float:
        """Grams not packed yet: the pot (or what is expected of it) less the weighed boxes."""
        return self.state.available_g - self.packed_g

    def even_share_g(self, portion: BoxPortion) -> float:
        """What a box would hold if every box took its planned share of this pot."""
        return portion.target_g * self.state.pot_share


def batch_outcome(record: BatchRecord, planned: Sequence[PlannedPortion], doubt_key: str) -> BatchOutcome:
    """Divide a batch over its planned portions as far as its log has come.

    Before the pot is weighed, each portion is its exact share of what is expected. Afterwards the weighed net is
    divided in whole grams, boxes already weighed stay as they are, and the rest is divided again over the others.
    What was weighed into boxes for nobody yet is taken off first. `doubt_key` prefixes the portions' own sources of
    doubt.

    Raises:
        InvalidInputs: when the boxes weighed so far hold more than the pot gave.
    """
    state = cooked_state(record)
    last = settled(record.log)
    target_sum = sum(p.grams for p in planned)
    scale = state.expected_g / target_sum if target_sum > 0 else 0.0
    targets = {p.placing_key: p.grams * scale for p in planned}
    filled = {p.placing_key: event.net_g for p in planned if (event := last.get(p.placing_key)) is not None}
    known = {*targets, *record.pots, *(line.key for line in record.lines)}
    spare_g = {key: event.net_g or 0.0 for key, event in last.items() if key not in known}
    to_divide_g = None if state.pot_g is None else max(0.0, round(state.pot_g - sum(spare_g.values()), 1))

    division: Division | None = None
    grams = dict(targets)
    remainder = 0.0
    if to_divide_g and planned:
        boxes = tuple(
            BoxTarget(p.placing_key, max(round(targets[p.placing_key], 3), 0.001), filled_g=filled.get(p.placing_key))
            for p in planned
        )
        division = divide(DivisionProblem(to_divide_g, boxes))
        grams = {fill.key: fill.grams for fill in division.boxes}
        remainder = division.remainder_g
    elif to_divide_g is not None:
        grams = {p.placing_key: filled.get(p.placing_key) or 0.0 for p in planned}
        remainder = max(0.0, to_divide_g - sum(grams.values()))

    portions = []
    for p in planned:
        key = p.placing_key
        stage = PLANNED if to_divide_g is None else WEIGHED if key in filled else DIVIDED
        error = 0.0 if stage == PLANNED else reading_error_g()
        tally = state.batch.portion(grams[key], f"{doubt_key}:{key}", error)
        portions.append(BoxPortion(key, grams[key], targets[key], stage, tally))
    spare = tuple(
        BoxPortion(key, net_g, 0.0, WEIGHED, state.batch.portion(net_g, f"{doubt_key}:{key}", reading_error_g()))
        for key, net_g in spare_g.items()
    )
    return BatchOutcome(state, tuple(portions), remainder, division, spare)
