"""Ingredient lines against an answer key: how many are understood, and what is silently wrong. Printed.

`bench/lines.csv` holds 200 lines with every acceptable food, the grams a careful cook accepts, and whether a careful
program must ask. A line earns a point when it is right or rightly asked about, 0.4 when it is asked needlessly with a
right food among the first three, loses one for a wrong amount and two for a wrong food.

`python -m bench.lines`
"""

import csv
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from goodcrate.formats.compute_lines import LineOut, compute_lines

FIRST = 3
POINTS = {"wrong food": -2.0, "wrong amount": -1.0, "guessed": 0.0, "asks rightly": 1.0, "right": 1.0}
OFFERED = 0.4


@dataclass(frozen=True)
class Line:
    """One line with its answer key; `grams` is None where no amount can be said."""

    line: str
    keys: frozenset[str]
    grams: tuple[float, float] | None
    must_ask: bool


@dataclass(frozen=True)
class Judged:
    """One line judged; `is_offered` says whether a right food stands among the first three, None when there is none."""

    line: str
    verdict: str
    is_offered: bool | None

    @property
    def points(self) -> float:
        """What it earns."""
        if self.verdict == "asks needlessly":
            return OFFERED if self.is_offered else 0.0
        return POINTS[self.verdict]


def load_lines() -> list[Line]:
    """The lines of the answer key."""
    with open(Path(__file__).with_name("lines.csv"), encoding="utf-8-sig", newline="") as file:
        return [
            Line(
                row["line"],
                frozenset() if row["keys"] == "none" else frozenset(row["keys"].split("|")),
                (float(row["grams_min"]), float(row["grams_max"])) if row["grams_min"].strip() else None,
                row["must_ask"] == "yes",
            )
            for row in csv.DictReader(file)
        ]


def judge(row: Line, found: LineOut) -> Judged:
    """What an answer is worth."""
    offers = list(dict.fromkeys([*([found.key] if found.key else []), *found.offers]))[:FIRST]
    is_offered = bool(row.keys & set(offers)) if row.keys else None
    if found.asks:
        return Judged(row.line, "asks rightly" if row.must_ask else "asks needlessly", is_offered)
    if found.key not in row.keys:
        return Judged(row.line, "wrong food", is_offered)
    fits = not found.grams if row.grams is None else row.grams[0] <= (found.grams or -1) <= row.grams[1]
    if not fits:
        return Judged(row.line, "wrong amount", is_offered)
    return Judged(row.line, "guessed" if row.must_ask else "right", is_offered)


def report(judged: Sequence[Judged]) -> None:
    """Print the table."""
    counts = Counter(one.verdict for one in judged)
    asked = [one for one in judged if one.verdict.startswith("asks") and one.is_offered is not None]
    score = 100 * sum(one.points for one in judged) / len(judged)
    print(f"\nLines: {len(judged)} everyday ingredient lines, score {score:.1f}")
    for verdict in ("right", "asks rightly", "asks needlessly", "guessed", "wrong amount", "wrong food"):
        print(f"  {verdict:<18} {counts[verdict]:4}   {counts[verdict] / len(judged):6.1%}")
    print(
        f"  right food among the first three when asking: {sum(bool(one.is_offered) for one in asked)} of {len(asked)}"
    )


def main() -> None:
    """Understand the lines and print how it went."""
    rows = load_lines()
    found = compute_lines("\n".join(row.line for row in rows)).root
    report([judge(row, one) for row, one in zip(rows, found, strict=True)])


if __name__ == "__main__":
    main()
