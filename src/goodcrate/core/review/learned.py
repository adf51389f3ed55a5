"""What a week taught: how exactly boxes were filled, what was finished and what was not, pots against their recipes."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import mean

from goodcrate.core.cook.batch_record import AS_PLANNED
from goodcrate.core.ground.wording import Saying, say

AGED = (Saying("too old"), Saying("spoilt"))
"""Reasons for throwing a box away that are about its age."""
WHOLE_SHARE = 0.98
"""A box of which so much was eaten was finished: what clings to it is no opinion. Our line."""


@dataclass(frozen=True, slots=True)
class FilledBox:
    """A box of a batch as it was weighed: what its even share of what was packed would have been, and what is in it,
    both in g. `how` is how its grams are known: read off a scale by the app, typed, counted or by eye."""

    how: str
    share_g: float
    actual_g: float


@dataclass(frozen=True, slots=True)
class Accuracy:
    """How exactly boxes were filled in one way: how many, the mean miss in g and as a share of the box, the largest
    miss in g (signed), and by how much they are filled too full on the mean, in g."""

    how: str
    boxes: int
    miss_g: float
    miss_share: float
    largest_g: float
    over_g: float


def even_shares(boxes: Sequence[tuple[str, float, float]]) -> list[FilledBox]:
    """The weighed boxes of one batch, each (how, planned g, actual g): what was packed in all, divided as planned."""
    planned, actual = sum(box[1] for box in boxes), sum(box[2] for box in boxes)
    if planned <= 0 or len(boxes) < 2:
        return []  # a single box has all there is
    return [FilledBox(how, share * actual / planned, grams) for how, share, grams in boxes]


def accuracy_of(boxes: Iterable[FilledBox]) -> list[Accuracy]:
    """By the way boxes were filled, the most used first. Boxes said to be filled as divided were read off no scale."""
    by_how: dict[str, list[FilledBox]] = {}
    for box in (b for b in boxes if b.how != AS_PLANNED):
        by_how.setdefault(box.how, []).append(box)
    found = []
    for how, own in by_how.items():
        misses = [box.actual_g - box.share_g for box in own]
        shares = [abs(miss) / box.share_g for miss, box in zip(misses, own, strict=True) if box.share_g > 0]
        largest = max(misses, key=abs)
        miss_g = mean(map(abs, misses))
        found.append(Accuracy(how, len(own), miss_g, mean(shares) if shares else 0.0, largest, over_g=mean(misses)))
    return sorted(found, key=lambda a: (-a.boxes, a.how))


@dataclass(frozen=True, slots=True)
class BoxFate:
    """A box of a dish that somebody had, and what became of it: g in it, g eaten, g thrown away, and why."""

    dish_key: str
    eater_key: str
    grams: float
    eaten_g: float
    thrown_g: float = 0.0
    why: str = ""

    @property
    def is_aged(self) -> bool:
        """Whether it was thrown away because it was kept too long: that says nothing of its size."""
        return self.thrown_g > 0 and self.why in {*map(str, AGED), *(say(str(why)) for why in AGED)}

    @property
    def is_finished(self) -> bool:
        """Whether all of it was eaten."""
        return self.grams > 0 and self.eaten_g >= WHOLE_SHARE * self.grams


@dataclass(frozen=True, slots=True)
class DishFate:
    """A dish of an eater over some boxes: how many, how many finished, g in them, g eaten, g thrown away; of these how
    many grew too old, with how many g."""

    dish_key: str
    eater_key: str
    boxes: int
    finished: int
    grams: float
    eaten_g: float
    thrown_g: float
    aged: int = 0
    aged_g: float = 0.0

    @property
    def eaten_share(self) -> float:
        """What was eaten of it, 0 to 1; boxes that grew too old say nothing of that."""
        there_g = self.grams - self.aged_g
        return self.eaten_g / there_g if there_g > 0 else 1.0

    @property
    def is_favourite(self) -> bool:
        """Finished each time, three times or more: our line."""
        return self.boxes >= 3 and self.finished == self.boxes

    @property
    def is_never_finished(self) -> bool:
        """Not finished once, of two boxes or more: our line."""
        return self.boxes >= 2 and self.finished == 0


def dish_fates(boxes: Iterable[BoxFate]) -> list[DishFate]:
    """Boxes by dish and eater, the least eaten first."""
    mine: dict[tuple[str, str], list[BoxFate]] = {}
    for box in boxes:
        mine.setdefault((box.dish_key, box.eater_key), []).append(box)
    found = [
        DishFate(
            dish,
            eater,
            len(own),
            finished=sum(box.is_finished for box in own),
            grams=sum(box.grams for box in own),
            eaten_g=sum(box.eaten_g for box in own),
            thrown_g=sum(box.thrown_g for box in own),
            aged=sum(box.is_aged for box in own),
            aged_g=sum(box.grams for box in own if box.is_aged),
        )
        for (dish, eater), own in mine.items()
    ]
    return sorted(found, key=lambda f: (f.eaten_share, f.dish_key, f.eater_key))


@dataclass(frozen=True, slots=True)
class SessionTime:
    """A prep session as its sheet had it and as it went, both in minutes from its beginning to its last step."""

    planned_min: int
    took_min: int

    @property
    def over_min(self) -> int:
        """How much longer it took; negative when it was over sooner."""
        return self.took_min - self.planned_min
