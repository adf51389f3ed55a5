"""What to change next week, each worked out from the week that was: by how much, and why."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from goodcrate.core.ground.writing import round_half_up
from goodcrate.core.review.learned import DishFate

YIELD, SMALLER, FREEZE, RICHER, OTHER_SESSION, ROOM, VESSEL, PACK, MINUTES = (
    "yield",
    "smaller",
    "freeze",
    "richer",
    "session",
    "room",
    "vessel",
    "pack",
    "minutes",
)
"""A learned yield; less of a dish that was not finished; the last boxes of one that grew too old frozen; a dish with
more of what is low; a dish in another session;
another length of a session; a bigger vessel; a larger pack; minutes of a step."""
KINDS = (SMALLER, FREEZE, RICHER, YIELD, OTHER_SESSION, ROOM, VESSEL, PACK, MINUTES)
"""In the order in which they are told: first what was thrown away and what somebody lacks."""
MOST_TOLD = 6
TELL_YIELD = 0.02
"""A yield nearer than that to what the recipe expects is the scale and the day: our line."""
LEFT_SHARE = 0.15
"""A dish of which an eater left no more is as large as it should be: our line."""
LEAST_SHARE = 0.5
"""No portion is halved further than that at once: our line."""
ROOM_STEP_MIN, TELL_ROOM_MIN = 15, 20


@dataclass(frozen=True, slots=True)
class Proposal:
    """Something to do otherwise: `key` names it for good, `title` what, `why` from what it was worked out. Of a kind
    those that weigh most come first: g that were left, or how far off a figure is as a share."""

    key: str
    kind: str
    title: str
    why: str
    weight: float = 0.0


def in_order(proposals: Iterable[Proposal]) -> list[Proposal]:
    """The few that are told, in their order."""
    return sorted(proposals, key=lambda p: (KINDS.index(p.kind), -p.weight, p.title, p.key))[:MOST_TOLD]


def better_yield(expects: float, learned: float) -> bool:
    """Whether a learned yield is worth taking into a recipe that expects another (both cooked g per g weighed in)."""
    return expects > 0 and learned > 0 and abs(learned / expects - 1) >= TELL_YIELD


def smaller_by(fate: DishFate) -> float | None:
    """By what to multiply an eater's portions of a dish so that they are what was eaten of them; None where enough was
    eaten. Steps of 5 %; never less than half, also where none of it was."""
    if fate.eaten_share >= 1 - LEFT_SHARE:
        return None
    return max(LEAST_SHARE, round_half_up(20 * fate.eaten_share) / 20)


PROTEIN_LESS_G = 3.0
"""So much less protein in a slot is none: our line."""
MOST_DAYS = 3
"""A dish is proposed for so many days at most: our line."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A dish that could stand in a slot: what a serving holds of the nutrient that is low, in its unit, kcal, and g of
    protein; whether the week cooks it anyway."""

    key: str
    nutrient: float
    kcal: float
    protein_g: float = 0.0
    is_there: bool = False


def richest(
    candidates: Iterable[Candidate], now: Candidate, kcal: float, least_more: float
) -> tuple[str, float] | None:
    """Which dish brings most of what is low for the energy a slot has, and how much more a day; None where none brings
    `least_more` more. One that the week cooks anyway comes first. Dishes that would need less than half or more than
    twice a serving do not suit, nor those with less protein."""
    here, protein_g = (v * kcal / now.kcal if now.kcal > 0 else 0.0 for v in (now.nutrient, now.protein_g))
    found = []
    for one in candidates:
        servings = kcal / one.kcal if one.kcal > 0 else 0.0
        more = one.nutrient * servings - here
        keeps_protein = one.protein_g * servings >= protein_g - PROTEIN_LESS_G
        if 0.5 <= servings <= 2.0 and more >= least_more and keeps_protein and one.key != now.key:
            found.append((one.is_there, more, one.key))
    best = max(found, default=None)
    return None if best is None else (best[2], best[1])


def room_for(took_min: Sequence[int], has_min: int) -> int | None:
    """How long a session should be planned by how long such a one took, in steps of a quarter of an hour; None where
    it is near enough."""
    if not took_min:
        return None
    wanted = -(-max(took_min) // ROOM_STEP_MIN) * ROOM_STEP_MIN
    return wanted if abs(wanted - has_min) >= TELL_ROOM_MIN else None


def to_relieve(over: Sequence[int]) -> tuple[int, int] | None:
    """Of a week's sessions by how much each ran over its room (min), the one to take a dish from and the one after it
    to give it to; None where none ran over, or no later one had so much room left."""
    for (n, first), (m, second) in pairwise(enumerate(over)):
        if first >= TELL_ROOM_MIN and second <= -first:
            return n, m
    return None


@dataclass(frozen=True, slots=True)
class PackOffer:
    """A pack in g with its price in the household's money."""

    grams: float
    price: float

    @property
    def per_g(self) -> float:
        """What a gram costs in it."""
        return self.price / self.grams


MOST_WEEKS = 8
"""A pack that lasts longer is not proposed: our line."""
SAVES_SHARE = 0.1


def larger_pack(bought: PackOffer, others: Iterable[PackOffer], week_g: float) -> PackOffer | None:
    """A larger pack that costs at least a tenth less for its grams and is used up within eight weeks like this one, the
    cheapest for its grams; None without one."""
    suiting = [
        p
        for p in others
        if p.grams > bought.grams
        and week_g > 0
        and p.grams <= MOST_WEEKS * week_g
        and p.per_g <= (1 - SAVES_SHARE) * bought.per_g
    ]
    return min(suiting, key=lambda p: (p.per_g, p.grams), default=None)
