"""Cooking as it was recorded: planned amounts beside weighed ones, and what the pot then holds.

Weighings are an append-only log. The last one of each subject counts; one without a weight takes out
the subject's earlier ones, which stay in the log.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from goodcrate.core.ground.amounts import LARGEST_LINE_G, LARGEST_POT_G, Amount, amount_of
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import round_half_up, shown
from goodcrate.core.recipes.component import LATER_USES, IngredientLine
from goodcrate.core.recipes.recipe import Batch, batch_of

COOKED_DOWN, TAKEN_OUT = "cooked_down", "taken_out"
SHORTFALLS: Mapping[str, str] = {COOKED_DOWN: Saying("cooked down"), TAKEN_OUT: Saying("some taken out")}
"""Why a pot weighs less than was expected, in words."""
"""Why a pot weighs less than expected: water left it (same nutrients, fewer grams), or food did (same density)."""
SHORTFALL_SHARE = 0.02
"""A pot more than 2 % under its expected weight is asked about: our own threshold, above scale and spoon noise."""


SMALLEST_COOKED_SHARE = 0.3
"""A pot under 30 % of its expected weight did not cook down to that: our line, beyond jam and reduced stock."""


ON_SCALE, COUNTED, BY_EYE = "on_scale", "counted", "eye"
"""How what is in a box is known, where nobody typed grams: the scale itself said it, pieces (or scoops) were counted,
or a share of the pan was poured."""
PIECE, SCOOP, HANDFUL = "piece", "scoop", "handful"
COUNTED_IN: Mapping[str, tuple[str, str]] = {
    PIECE: (Saying("piece"), "count"),
    SCOOP: (Saying("scoop"), "volume"),
    HANDFUL: (Saying("handful"), "eye"),
}
"""What a pot can be counted in, in words, and the measure whose usual error each of them has (`MEASURES`)."""
STEPS_G = (1, 5)
"""The steps a pot is divided in: to the gram, or as a scale of 5 g shows it."""
REST = "rest:"
"""What became of what is left in the pots is written down under this and how: `rest:tasted`."""
TASTED, THROWN, PANTRY = "tasted", "thrown", "pantry"
RESTS: Mapping[str, str] = {
    TASTED: Saying("tasted or eaten by the pot"),
    THROWN: Saying("thrown away"),
    PANTRY: Saying("put by, a food of the pantry now"),
}
"""What becomes of what no box takes, in words."""

BY_SPOON, LEFT_OUT, AS_PLANNED, SWAPPED = "by_spoon", "left_out", "as_planned", "swapped"
"""How an ingredient's weight is known where no scale said it: counted in spoons, not put in, said to be in as planned,
or something else went in for it."""


@dataclass(frozen=True, slots=True)
class Weighing:
    """One event of the log: the net weight of a subject in g, or None to take out what was weighed before.

    `how` is how it is known, empty off a scale; counted by spoon it was so many tea- and tablespoons, and a box divided
    by count got so many pieces.
    """

    subject: str
    net_g: float | None
    shortfall: str | None = None
    how: str = ""
    teaspoons: int = 0
    tablespoons: int = 0
    pieces: int = 0


def settled(log: Iterable[Weighing]) -> dict[str, Weighing]:
    """What counts at the end of the log, by subject; `log` is in the order it was written."""
    last: dict[str, Weighing] = {}
    for event in log:
        if event.net_g is None:
            last.pop(event.subject, None)
        else:
            last[event.subject] = event
    return last


def net_weight_g(gross_g: float, tare_g: float, field: str = "gross_g") -> float:
    """Net = gross − tare, in g to 0.1.

    Raises:
        InvalidInput: when the vessel weighs as much as vessel and food together, or a weight is absurd.
    """
    if tare_g < 0:
        said = say("An empty vessel cannot weigh less than 0 g.")
        raise InvalidInput("tare_g", said, say("Give its weight in grams."))
    gross, tare = shown(gross_g), shown(tare_g)
    if gross_g > LARGEST_POT_G:
        said = say("{gross} g is more than a home pot.", gross=gross)
        raise InvalidInput(field, said, say("At most {most} g.", most=shown(LARGEST_POT_G)))
    net = round_half_up(gross_g - tare_g, 1)
    if net <= 0:
        said = say("{gross} g with food is no more than the empty vessel’s {tare} g.", gross=gross, tare=tare)
        raise InvalidInput(field, said, say("Weigh the full vessel, or mend the tare."))
    return net


POT = "pot"
"""The one pot of a batch nobody has started."""


@dataclass(frozen=True, slots=True)
class BatchRecord:
    """A batch as planned and as logged.

    `lines` carry planned amounts; `planned_cooked_g` is what they should weigh when cooked, `planned_error_g` its
    standard error, None where nobody kept one. `pots` are what it was
    cooked in: trays beside each other, or one pot filled again. Subjects of the log are the lines' keys, those of the
    pots, the placings' keys for their boxes, the keys of boxes that are for nobody yet, and what became of the rest
    (`REST`). Lines that were not planned have 0 g; `went_in_for` is by such a line the one whose place it took.
    `pieces` is what the whole pot was counted as (of `piece_kind`), None when it is divided by weight; `short_for`
    the placing whose box takes what is missing or over, None when all share it. It is divided
    in steps of `step_g`. `marks` say by eater's id how their boxes are known from the others.
    """

    lines: tuple[IngredientLine, ...]
    planned_cooked_g: float
    log: tuple[Weighing, ...] = ()
    pots: tuple[str, ...] = (POT,)
    planned_error_g: float | None = None
    went_in_for: Mapping[str, str] = field(default_factory=dict)
    pieces: int | None = None
    piece_kind: str = PIECE
    short_for: str | None = None
    step_g: int = 1
    marks: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class CookedState:
    """Where a batch stands: its actual lines, what it should weigh now, what it does weigh, and the batch to portion.

    `expected_error_g` is the standard error of what it should weigh, None where it is not known.
    `pots_g` are the pots' net weights in their order, None where one is not weighed yet; `pot_g` is their sum, None
    until all of them are; `available_g` is what there is to divide.
    """

    lines: tuple[IngredientLine, ...]
    weighed_keys: frozenset[str]
    expected_g: float
    pot_g: float | None
    shortfall: str | None
    batch: Batch
    pots_g: tuple[float | None, ...] = (None,)
    expected_error_g: float | None = None

    @property
    def not_in_yet(self) -> tuple[IngredientLine, ...]:
        """What is to be put in and nobody said anything of; what is for the night before a meal, its day or at packing
        is not among them."""
        return tuple(line for line in self.lines if goes_in_now(line) and line.key not in self.weighed_keys)

    @property
    def available_g(self) -> float:
        """Grams to divide: the weighed pot, else the expected one."""
        return self.expected_g if self.pot_g is None else self.pot_g

    @property
    def pot_share(self) -> float:
        """What there is to divide as a share of what was expected; 1 before the pot is weighed."""
        return self.available_g / self.expected_g if self.expected_g > 0 else 1.0


def cooked_state(record: BatchRecord) -> CookedState:
    """Work out a batch from its plan and its log.

    Weighed ingredients replace planned ones, and the expected cooked weight follows them at the planned yield.
    A pot that lost water holds all nutrients in fewer grams; from one that was eaten from or spilt, the boxes get
    fewer grams of the same density.
    """
    last = settled(record.log)
    planned_g = sum(line.kept_g for line in record.lines)
    lines = tuple(
        line if (event := last.get(line.key)) is None else replace(line, amount=_went_in(line, event))
        for line in record.lines
    )
    actual_g = sum(line.kept_g for line in lines)
    grown = actual_g / planned_g if planned_g > 0 else 1.0
    expected_g = record.planned_cooked_g * grown
    error_g = None if record.planned_error_g is None else record.planned_error_g * grown
    pots_g = tuple(last[pot].net_g if pot in last else None for pot in record.pots)
    pot_g = None if None in pots_g else sum(net_g for net_g in pots_g if net_g is not None)
    shortfall = next((e.shortfall for e in reversed(last.values()) if e.subject in record.pots and e.shortfall), None)
    at_density_of = expected_g if pot_g is None or (shortfall == TAKEN_OUT and pot_g < expected_g) else pot_g
    weighed = frozenset(line.key for line in record.lines if line.key in last)
    batch = batch_of(lines, at_density_of)
    return CookedState(lines, weighed, expected_g, pot_g, shortfall, batch, pots_g=pots_g, expected_error_g=error_g)


def goes_in_now(line: IngredientLine) -> bool:
    """Whether a planned line is put in while its batch is cooked."""
    return line.amount.grams > 0 and not line.is_poured_off and line.use not in LATER_USES


def _went_in(line: IngredientLine, event: Weighing) -> Amount:
    if event.net_g is None or event.how == AS_PLANNED:
        return line.amount
    return amount_of(event.net_g, "volume" if event.how == BY_SPOON else "weighed")


def needs_shortfall_answer(pot_g: float, expected_g: float) -> bool:
    """Whether to ask why the pot is lighter than expected, for the boxes differ by the answer."""
    return pot_g < expected_g * (1 - SHORTFALL_SHARE)


def check_shortfall(answer: str | None, pot_g: float, expected_g: float) -> str | None:
    """The answer to keep with a pot's weighing: needed when it is light, dropped when it is not.

    Raises:
        InvalidInput: when an answer is needed and missing, none of the two, or out of all reason.
    """
    if not needs_shortfall_answer(pot_g, expected_g):
        return None
    if answer == COOKED_DOWN and pot_g < SMALLEST_COOKED_SHARE * expected_g:
        raise InvalidInput(
            "gross_g",
            say(
                "{pot_g} g is far less than the {expected_g} g expected: no pot cooks down so far.",
                pot_g=shown(pot_g),
                expected_g=shown(expected_g),
            ),
            say("Weigh it again, or say that some was eaten, spilt or left."),
        )
    if answer not in (COOKED_DOWN, TAKEN_OUT):
        raise InvalidInput(
            "shortfall",
            say("The pot is {expected_g} g lighter than expected.", expected_g=shown(expected_g - pot_g)),
            say("Say whether it cooked down, or some was eaten, spilt or left."),
        )
    return answer


def check_lines(amounts_g: Sequence[tuple[str, float]]) -> None:
    """Refuse weights no ingredient of a home kitchen has.

    Raises:
        InvalidInputs: naming each line with a weight that is negative or above 10 kg.
    """
    faults = [
        InvalidInput(
            key,
            say("{grams} g is not possible.", grams=shown(grams, 1)),
            say("Give 0 to {LARGEST_LINE_G} g.", LARGEST_LINE_G=shown(LARGEST_LINE_G)),
        )
        for key, grams in amounts_g
        if not 0 <= grams <= LARGEST_LINE_G
    ]
    if faults:
        raise InvalidInputs(faults)
