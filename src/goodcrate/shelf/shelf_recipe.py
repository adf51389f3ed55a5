"""A recipe of the shelf as a plain value, written as a table."""

from typing import NamedTuple


class ShelfLine(NamedTuple):
    """One ingredient in g; `use` and `fate` as in the recipe form."""

    food: str
    grams: float
    measure: str = "weighed"
    use: str = ""
    fate: str = ""


class ShelfComponent(NamedTuple):
    """One component: its lines, what it is made in, and how it is kept."""

    name: str
    lines: tuple[ShelfLine, ...]
    vessel: str = ""
    keep_group: str = ""
    container: str = ""
    texture: str = ""
    reheat: str = ""


class ShelfStep(NamedTuple):
    """One step: what, of which component (by place, -1 for all), with what, minutes, whether hands are busy.

    `after` are places of steps from 1, `degrees` an oven range in °C, `core` a row of the core temperatures, `look` the
    minutes after which it is looked at.
    """

    text: str
    component: int
    equipment: str
    minutes: float
    hands: bool
    after: tuple[int, ...] = ()
    degrees: tuple[float, float] | None = None
    core: str = ""
    look: float | None = None


class ShelfRecipe(NamedTuple):
    """One recipe; `key` is its word for ever, so that taking it twice makes one."""

    key: str
    name: str
    servings: float
    tags: tuple[str, ...]
    note: str
    components: tuple[ShelfComponent, ...]
    steps: tuple[ShelfStep, ...] = ()


COOL = "Spread out to cool, lids off, then into the fridge"


def lines_of(text: str) -> tuple[ShelfLine, ...]:
    """Lines written as `food grams [measure [use [fate]]]`, separated by commas; `-` leaves a word empty."""
    lines = []
    for words in (part.split() for part in text.split(",") if part.strip()):
        measure, use, fate = (["" if w == "-" else w for w in words[2:]] + ["", "", ""])[:3]
        lines.append(ShelfLine(words[0], float(words[1]), measure or "weighed", use, fate))
    return tuple(lines)


def part(
    name: str, lines: str, vessel: str = "", keep: str = "", container: str = "", texture: str = "", reheat: str = ""
) -> ShelfComponent:
    """A component from its lines in words, see `lines_of`."""
    return ShelfComponent(name, lines_of(lines), vessel, keep, container, texture=texture, reheat=reheat)
