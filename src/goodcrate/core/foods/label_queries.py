"""What on a label cannot be, and what does not fit together: its likeliest cause, and a ready correction."""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import hypot, sqrt

from goodcrate.core.foods.food import ENERGY_TOLERANCE_KCAL, energy_from_macros_kcal, is_apart
from goodcrate.core.foods.label_figures import (
    APART,
    FIBRE,
    INSIDE,
    KJ_PER_KCAL,
    PER_100_ML,
    PRINTED,
    SODIUM_SHARE_OF_SALT,
    Printed,
    per_100_g,
    plain,
    read_basis,
    read_printed,
)
from goodcrate.core.ground.amounts import read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import ENERGY_FACTORS_KCAL_PER_G, KEYS, NUTRIENTS, Composition
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short, shown


@dataclass(frozen=True, slots=True)
class Correction:
    """One ready correction: the label's fields to change, and how that reads."""

    words: str
    changes: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Query:
    """Something on the label that does not fit together. The cook decides; nothing is changed by itself."""

    field: str
    problem: str
    cause: str
    corrections: tuple[Correction, ...] = ()


def impossible(
    figures: Mapping[str, float], errors: Mapping[str, float], printed: Mapping[str, Printed]
) -> Iterable[InvalidInput]:
    """What no food can be, with room for the label's own rounding (twice its standard error)."""

    def slack(*keys: str) -> float:
        return 0.05 + 2 * hypot(*(errors.get(key, 0.0) for key in keys))

    def at(target: str) -> str:
        if target == "sodium_mg" and "sodium_mg" not in printed:
            return "salt_g"
        if target == "energy_kcal" and "energy_kcal" not in printed:
            return "energy_kj"
        return target

    for key in ("protein_g", "fat_g", "carbohydrate_g", "fibre_g", "alcohol_g", "polyols_g", "sugars_g"):
        if figures.get(key, 0) > 100 + slack(key):
            yield InvalidInput(
                key,
                say("{figures} g in 100 g is not possible.", figures=shown(figures[key])),
                say("Look at the basis above, or for a typing slip."),
            )
            return
    if figures.get("energy_kcal", 0) > 902 + slack("energy_kcal"):
        yield InvalidInput(
            at("energy_kcal"),
            say("{figures} kcal per 100 g is more than pure fat holds.", figures=shown(figures["energy_kcal"])),
            say("Look at the basis above, or whether kJ were typed as kcal."),
        )
    if figures.get("sodium_mg", 0) > 40_000:
        yield InvalidInput(
            at("sodium_mg"),
            say("{figures} mg of sodium per 100 g is more than pure salt holds.", figures=shown(figures["sodium_mg"])),
            say("Look whether mg of sodium were typed as g of salt."),
        )
        return
    for n in NUTRIENTS:
        in_a_gram = {"mg": 1000, "µg": 1_000_000}.get(n.unit[:2])
        if in_a_gram and figures.get(n.key, 0) > 100 * in_a_gram:
            words = say(
                "{figures} {unit} of {label} in 100 g is more than 100 g.",
                figures=shown(figures[n.key]),
                unit=n.unit,
                label=n.label,
            )
            yield InvalidInput(n.key, words, say("Look at the unit, and at the basis above."))
            return
    yield from _parts_above_wholes(figures, slack)


def _parts_above_wholes(figures: Mapping[str, float], slack: Callable[..., float]) -> Iterable[InvalidInput]:
    """Parts that are more than what they are part of, and figures that come to more than 100 g together."""
    for part, whole, word in (
        ("sugars_g", "carbohydrate_g", "carbohydrate"),
        ("polyols_g", "carbohydrate_g", "carbohydrate"),
        ("fibre_g", "carbohydrate_g", "carbohydrate"),
        ("saturated_g", "fat_g", "fat"),
    ):
        if part in figures and whole in figures and figures[part] > figures[whole] + slack(part, whole):
            name = PRINTED[part][0].removeprefix("of which ")
            told = {"part_g": shown(figures[part], 1), "whole_g": shown(figures[whole], 1), "name": name, "word": word}
            said = say("{part_g} g of {name} is more than the {whole_g} g of {word} it is part of.", **told)
            misread = say("One of the two is misread.")
            yield InvalidInput(part, said, misread if part != "fibre_g" else say("Fibre is listed apart, then."))
    yield from _over_100_g(figures, slack)


def _over_100_g(figures: Mapping[str, float], slack: Callable[..., float]) -> Iterable[InvalidInput]:
    parts = ("protein_g", "fat_g", "carbohydrate_g", "alcohol_g")
    whole_g = sum(figures.get(key, 0.0) for key in parts) + figures.get("sodium_mg", 0.0) * 2.5 / 1000
    if whole_g > 100 + 1 + slack(*parts):
        yield InvalidInput(
            "protein_g",
            say("Protein, fat, carbohydrate, alcohol and salt come to {whole_g} g in 100 g.", whole_g=shown(whole_g)),
            say("Look at the basis above, or for a typing slip."),
        )


def two_ways(typed: Mapping[str, str], printed: Mapping[str, Printed]) -> list[Query]:
    """The same thing printed in two units should agree: kcal with kJ, salt with sodium."""
    queries = []
    kcal, kj = printed.get("energy_kcal"), printed.get("energy_kj")
    if kcal is not None and kj is not None:
        from_kj = kj.value / KJ_PER_KCAL
        if abs(kcal.value - from_kj) > max(2.0, 0.03 * max(kcal.value, from_kj)):
            fixes = [
                Correction(
                    say("Take {from_kj} kcal, from the kJ", from_kj=shown(from_kj)), {"energy_kcal": plain(from_kj)}
                ),
                Correction(say("Take the {typed} kcal, drop the kJ", typed=kcal.typed), {"energy_kj": ""}),
            ]
            queries.append(
                Query(
                    "energy_kj",
                    say(
                        "{typed} kJ are {from_kj} kcal, but {typed2} kcal stand there too.",
                        typed=kj.typed,
                        from_kj=shown(from_kj),
                        typed2=kcal.typed,
                    ),
                    say("One of the two is misread."),
                    tuple(fixes),
                )
            )
    salt, sodium = printed.get("salt_g"), printed.get("sodium_mg")
    if salt is not None and sodium is not None:
        from_salt = salt.value * 1000 * SODIUM_SHARE_OF_SALT
        if abs(from_salt - sodium.value) > max(40.0, 0.1 * max(from_salt, sodium.value)):
            queries.append(
                Query(
                    "sodium_mg",
                    say(
                        "{typed} g of salt hold {from_salt} mg of sodium, not {typed2}.",
                        typed=salt.typed,
                        from_salt=shown(from_salt),
                        typed2=sodium.typed,
                    ),
                    say("One of the two is misread, or sodium was typed as salt."),
                    (
                        Correction(
                            say("Take {from_salt} mg, from the salt", from_salt=shown(from_salt)),
                            {"sodium_mg": plain(from_salt)},
                        ),
                        Correction(say("Drop the salt, keep the sodium"), {"salt_g": ""}),
                    ),
                )
            )
    return queries


def odd_piece(typed: Mapping[str, str], each_g: float | None) -> list[Query]:
    """Pieces so light that count and grams may have changed places."""
    if each_g is None or each_g >= 0.2:
        return []
    return [
        Query(
            "pieces",
            say("One piece would weigh {each_g} g.", each_g=shown(each_g, 2)),
            say("Pieces and grams may have changed places."),
            (Correction(say("Swap them"), {"pieces": typed.get("basis_g", ""), "basis_g": typed.get("pieces", "")}),),
        )
    ]


def energy_query(
    typed: Mapping[str, str], composition: Composition, computed: float | None, basis_g: float | None
) -> list[Query]:
    """The label check: printed energy against protein, fat, carbohydrate, fibre, polyols and alcohol."""
    stated = composition.get("energy_kcal")
    if stated is None or computed is None or not is_apart(stated, computed):
        return []
    if abs(stated - computed) <= _hidden_by_rounding(typed, composition, basis_g):
        return []
    field = "energy_kcal" if typed.get("energy_kcal", "").strip() else "energy_kj"
    causes = _likely_causes(typed, composition, stated, computed, basis_g)
    told = {"stated": shown(stated), "computed": shown(computed)}
    problem = say("The label’s energy is {stated} kcal per 100 g; its figures make {computed} kcal.", **told)
    if not causes:
        return [Query(field, problem, say("No single slip explains it. Compare each figure with the label."))]
    likeliest = say("Likeliest: {cause}", cause=causes[0][0])
    return [Query(field, problem, likeliest, tuple(c for _, c in causes[:3] if c.changes))]


PRINTED_AS_0_KCAL = 5.0
"""Less than 5 kcal a serving may be printed as 0 (US 21 CFR 101.9(c)(1))."""


def _hidden_by_rounding(typed: Mapping[str, str], composition: Composition, basis_g: float | None) -> float:
    """How many kcal per 100 g the label's own rounding can hide on a small basis: half a digit of each figure."""
    if basis_g is None or basis_g >= 100:
        return 0.0
    if composition.get("energy_kcal") == 0:
        return PRINTED_AS_0_KCAL * 100 / basis_g
    factor = ENERGY_FACTORS_KCAL_PER_G
    per_g = {
        "energy_kcal": 1.0,
        "protein_g": factor["protein"],
        "fat_g": factor["fat"],
        "carbohydrate_g": factor["carbohydrate"],
    }
    errors: dict[str, float] = dict(zip(KEYS, composition.errors_per_100_g, strict=False))
    return sum(errors.get(key, 0.0) * sqrt(12) / 2 * times for key, times in per_g.items())


Cause = tuple[str, Correction]


def _of_polyols(composition: Composition, gap: float) -> Iterator[tuple[int, float, Cause]]:
    """What polyols explain of a gap: they are missing, or give no energy."""
    carbohydrate, sugars = composition.get("carbohydrate_g") or 0, composition.get("sugars_g") or 0
    room = carbohydrate - sugars - (composition.get("fibre_g") or 0)
    if gap < 0 and composition.get("polyols_g") is None and -gap <= 4 * room:
        if -gap <= 1.6 * room:
            cause = say(
                "polyols are missing: {shown} g of the carbohydrate would close the gap.", shown=shown(-gap / 1.6)
            )
        else:
            cause = say("polyols are missing, erythritol among them, which gives no energy.")
        yield 4, -gap, (cause, Correction(say("Type the polyols"), {}))
    if gap < 0 and (composition.get("polyols_g") or 0) * 2.4 >= -gap - ENERGY_TOLERANCE_KCAL:
        cause = say("some of the polyols is erythritol, which gives no energy. The label can be right as it is.")
        yield 1, -gap, (cause, Correction(say("It is erythritol"), {}))


def _likely_causes(
    typed: Mapping[str, str], composition: Composition, stated: float, computed: float, basis_g: float | None
) -> list[Cause]:
    """Single slips that would bring the label within tolerance, likeliest first.

    Whole-label causes (unit of energy, fibre convention, basis) come before single digits; of equals the one that
    closes the gap best. What cannot be computed from the label (alcohol, polyols not typed) is named last.
    """
    found: list[tuple[int, float, Cause]] = []

    def try_changes(rank: int, why: str, words: str, changes: Mapping[str, str]) -> None:
        after = _energies({**typed, **changes})
        if after is not None and not is_apart(*after) and (_gap(*after) <= 0.12 or abs(after[0] - after[1]) <= 3):
            found.append((rank, _gap(*after), (why, Correction(words, changes))))

    kcal, kj = typed.get("energy_kcal", "").strip(), typed.get("energy_kj", "").strip()
    if kcal and not kj:
        try_changes(
            0,
            say("{kcal} are kJ, typed as kcal.", kcal=kcal),
            say("They are kJ"),
            {"energy_kj": kcal, "energy_kcal": ""},
        )
    if kj and not kcal:
        try_changes(
            0, say("{kj} are kcal, typed as kJ.", kj=kj), say("They are kcal"), {"energy_kcal": kj, "energy_kj": ""}
        )
    convention = typed.get("fibre", "").strip() or APART
    if typed.get("fibre_g", "").strip():
        other = INSIDE if convention == APART else APART
        try_changes(
            1,
            say("fibre is {FIBRE} here.", FIBRE=FIBRE[other]),
            say("Fibre is {FIBRE}", FIBRE=FIBRE[other]),
            {"fibre": other},
        )
    for why, words, changes in _basis_slips(typed, stated, computed, basis_g):
        try_changes(2, why, words, changes)
    gap = stated - computed
    is_drink = typed.get("basis", "").strip() == PER_100_ML or bool(typed.get("basis_ml", "").strip())
    may_lack_alcohol = gap > 0 and not composition.get("alcohol_g") and gap / 7 <= 60 and not found
    if not found and not (is_drink and may_lack_alcohol):
        for why, words, changes in _digit_slips(typed):
            try_changes(3, why, words, changes)
    if may_lack_alcohol:
        cause = say("alcohol is missing: {gap} g in 100 g would close the gap.", gap=shown(gap / 7))
        found.append((2 if is_drink else 4, gap, (cause, Correction(say("Type the alcohol"), {}))))
    found += _of_polyols(composition, gap)
    return [cause for _, _, cause in sorted(found, key=lambda item: item[:2])]


def _gap(stated: float, computed: float) -> float:
    return abs(stated - computed) / max(stated, computed, 1.0)


def _energies(typed: Mapping[str, str]) -> tuple[float, float] | None:
    """Printed and computed energy per 100 g of a label as changed, or None when it cannot be."""
    faults: list[InvalidInput] = []
    printed = read_printed(typed, faults)
    basis_g, words, _ = read_basis(typed, faults)
    if faults or basis_g is None:
        return None
    convention = typed.get("fibre", "").strip() or APART
    figures, errors, _ = per_100_g(printed, 100 / basis_g, words, convention, typed)
    if any(impossible(figures, errors, printed)):
        return None
    composition = Composition(tuple(figures.get(key) for key in KEYS))
    stated, computed = composition.get("energy_kcal"), energy_from_macros_kcal(composition)
    return None if stated is None or computed is None else (stated, computed)


def _basis_slips(
    typed: Mapping[str, str], stated: float, computed: float, basis_g: float | None
) -> Sequence[tuple[str, str, dict[str, str]]]:
    """Energy read from another column than the rest: per 100 g beside per serving, or the reverse."""
    field = "energy_kcal" if typed.get("energy_kcal", "").strip() else "energy_kj"
    text = typed.get(field, "")
    slips = []
    if basis_g is not None and abs(basis_g - 100) > 1:
        energy = read_number(re.sub(r"[^\d.,]", "", text), field) * basis_g / 100
        slips.append(
            (
                say("the energy was read from the column per 100 g."),
                say("{energy} in the column typed here", energy=shown(energy)),
                {field: plain(energy)},
            )
        )
    serving = typed.get("serving_g", "").strip()
    if basis_g == 100 and serving:
        try:
            grams = read_grams(serving, "serving_g", allow_zero=False, decimals=4)
        except InvalidInput:
            return slips
        energy = read_number(re.sub(r"[^\d.,]", "", text), field) * 100 / grams
        slips.append(
            (
                say("the energy was read from the column per serving of {grams} g.", grams=short(grams)),
                say("{energy} per 100 g", energy=shown(energy)),
                {field: plain(energy)},
            )
        )
    return slips


def _digit_slips(typed: Mapping[str, str]) -> Iterable[tuple[str, str, dict[str, str]]]:
    """One figure with its decimal point astray, or two neighbouring digits swapped."""
    for key in ("energy_kcal", "energy_kj", "fat_g", "carbohydrate_g", "protein_g"):
        text = typed.get(key, "").strip()
        if not re.fullmatch(r"\d+([.,]\d+)?", text):
            continue
        value, name = float(text.replace(",", ".")), PRINTED[key][0]
        for other in (value / 10, value * 10):
            yield (
                say("a decimal point astray in {name}: {other}, not {text}.", name=name, other=short(other), text=text),
                f"{name.capitalize()} {short(other)}",
                {key: f"{short(other)}"},
            )
        for swapped in _with_two_swapped(text):
            words = say("two digits swapped in {name}: {swapped}, not {text}.", name=name, swapped=swapped, text=text)
            yield words, f"{name.capitalize()} {swapped}", {key: swapped}


def _with_two_swapped(figure: str) -> Iterable[str]:
    """A figure with two neighbouring digits the other way round."""
    for place in range(len(figure) - 1):
        a, b = figure[place], figure[place + 1]
        if a.isdigit() and b.isdigit() and a != b:
            yield figure[:place] + b + a + figure[place + 2 :]
