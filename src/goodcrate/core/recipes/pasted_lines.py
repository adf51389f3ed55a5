"""A pasted list of ingredients, line by line as it stands."""

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say

MOST_LINES = 300
LONGEST_KEPT = 200
"""Letters of a line that is kept as it stands until it is understood; what is longer says so with an ellipsis."""


def split_lines(text: str) -> list[str]:
    """The lines of a text that hold anything, letter by letter without the space around them.

    Raises:
        InvalidInput: for more lines than a recipe holds.
    """
    lines = [line.strip() for line in text.splitlines()]
    lines = [line for line in lines if any(c.isalnum() for c in line)]
    if len(lines) > MOST_LINES:
        raise InvalidInput(
            "lines",
            say("{lines} lines are more than a recipe holds.", lines=len(lines)),
            say("At most {MOST_LINES}.", MOST_LINES=MOST_LINES),
        )
    return lines


def kept(line: str) -> str:
    """A line as it is kept: whole, or its beginning with a sign that more stood there."""
    return line if len(line) <= LONGEST_KEPT else f"{line[: LONGEST_KEPT - 1]}…"
