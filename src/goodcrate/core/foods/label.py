"""Labels: from what is printed on a pack to figures per 100 g, with the working, its doubt and what looks wrong.

A label states its figures on one of five bases, in kcal or kJ, as salt or sodium, with fibre inside carbohydrate or
listed apart. What was typed is kept as text; `read_label` derives the rest and never changes a figure in silence:
what cannot be is a fault, what does not fit together is a query with its likeliest cause and a ready correction.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from goodcrate.core.foods.food import energy_from_macros_kcal
from goodcrate.core.foods.label_figures import (
    APART,
    FIBRE,
    LabelLine,
    per_100_g,
    prints_no_fibre,
    read_basis,
    read_printed,
)
from goodcrate.core.foods.label_queries import Correction, Query, energy_query, impossible, odd_piece, two_ways
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import KEYS, LARGEST_PER_100_G, Composition
from goodcrate.core.ground.typed import bounded
from goodcrate.core.ground.wording import say


@dataclass(frozen=True, slots=True)
class LabelReading:
    """A label understood as far as it goes. `faults` must be mended before a food can be made of it."""

    composition: Composition
    lines: tuple[LabelLine, ...]
    queries: tuple[Query, ...]
    faults: tuple[InvalidInput, ...]
    basis_words: str
    basis_g: float | None = None
    each_g: float | None = None
    macro_energy_kcal: float | None = None


def read_label(typed: Mapping[str, str]) -> LabelReading:
    """Read a label as typed: texts by the names in `FIELDS`, absent or empty ones unknown.

    Faults are collected, never raised, so that what is right already shows while somebody types.
    """
    faults: list[InvalidInput] = []
    typed = _bounded(typed, faults)
    printed = read_printed(typed, faults)
    basis_g, words, each_g = read_basis(typed, faults)
    convention = typed.get("fibre", "").strip() or APART
    if convention not in FIBRE:
        faults.append(
            InvalidInput(
                "fibre",
                say("“{convention}” is no way to list fibre.", convention=convention),
                say("Choose apart or inside."),
            )
        )
        convention = APART
    factor = None if basis_g is None else 100 / basis_g
    figures, errors, lines = per_100_g(printed, factor, words, convention, typed)
    at_least = frozenset({"carbohydrate_g"} if prints_no_fibre(printed, convention) else ())
    queries: list[Query] = []
    composition = Composition(tuple([None] * len(KEYS)))
    macro_energy = None
    if factor is not None:
        faults.extend(impossible(figures, errors, printed))
        is_readable = max(figures.values(), default=0) <= LARGEST_PER_100_G
        if is_readable and all(fault.field in ("energy_kcal", "energy_kj") for fault in faults):
            composition = Composition(
                tuple(figures.get(key) for key in KEYS), tuple(errors.get(key, 0.0) for key in KEYS), at_least
            )
            macro_energy = energy_from_macros_kcal(composition)
            queries = [*two_ways(typed, printed), *energy_query(typed, composition, macro_energy, basis_g)]
            queries.extend(odd_piece(typed, each_g))
    return LabelReading(
        composition,
        tuple(lines),
        tuple(queries),
        tuple(faults),
        words,
        basis_g,
        each_g=each_g,
        macro_energy_kcal=macro_energy,
    )


def _bounded(typed: Mapping[str, str], faults: list[InvalidInput]) -> dict[str, str]:
    """What was typed, without what is too long for a figure."""
    kept = dict(typed)
    for field, text in typed.items():
        try:
            kept[field] = bounded(text, field)
        except InvalidInput as fault:
            faults.append(fault)
            kept[field] = ""
    return kept


def with_changes(typed: Mapping[str, str], correction: Correction) -> dict[str, str]:
    """The label's fields after a correction was taken."""
    return {**typed, **correction.changes}
