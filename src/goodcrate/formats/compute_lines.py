"""`crate compute lines`: ingredient lines understood, one a line of a text file."""

from pydantic import BaseModel, ConfigDict, Field, RootModel

from goodcrate.core.foods.line.reading import Understood
from goodcrate.core.recipes.pasted_lines import split_lines
from goodcrate.formats.line_words import line_reader


class LineOut(BaseModel):
    """One line, as it was understood."""

    model_config = ConfigDict(extra="forbid")

    line: str = Field(description="The line, letter by letter.")
    key: str | None = Field(description="The food it is taken for; null when none is known.")
    grams: float | None = Field(description="Edible grams in the state of that food; null when no amount can be said.")
    error_g: float | None = Field(description="Standard error of the grams.")
    flags: list[str] = Field(description="optional, to taste, on the day, night before.")
    asks: bool = Field(description="Whether a careful cook would ask.")
    why: str = Field(description="What it asks, in words; empty when it is sure.")
    offers: list[str] = Field(description="The foods it may mean, likeliest first: its own and the next three.")


class LinesResult(RootModel[list[LineOut]]):
    """Every line of the file that holds anything, in its order."""


def compute_lines(text: str, convention: str = "metric") -> LinesResult:
    """Understand the lines of a text.

    Raises:
        InvalidInput: for more lines than a recipe holds.
    """
    reader = line_reader(convention)
    return LinesResult([_out(line, reader.read(line)) for line in split_lines(text)])


def _out(line: str, found: Understood) -> LineOut:
    return LineOut(
        line=line,
        key=found.key,
        grams=found.grams,
        error_g=None if found.grams is None else round(found.error_g, 2),
        flags=list(found.flags),
        asks=bool(found.asks),
        why="; ".join(found.asks),
        offers=list(found.offers),
    )
