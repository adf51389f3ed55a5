"""Labels: from what is printed on a pack to figures per 100 g, with the working, its doubt and what looks wrong.

A label states its figures on one of five bases, in kcal or kJ, as salt or sodium, with fibre inside carbohydrate or
listed apart. What was typed is kept as text; `read_label` derives the rest and never changes a figure in silence:
what cannot be is a fault, what does not fit together is a query with its likeliest cause and a ready correction.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import hypot, sqrt

from goodcrate.core.foods.food import ENERGY_TOLERANCE_KCAL, energy_from_macros_kcal, is_apart
from goodcrate.core.ground.amounts import read_grams, read_number, shown
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import (
    BY_KEY,
    ENERGY_FACTORS_KCAL_PER_G,
    KEYS,
    LARGEST_PER_100_G,
    NUTRIENTS,
    Composition,
)
from goodcrate.core.ground.typed import bounded

KJ_PER_KCAL = 4.184
SODIUM_SHARE_OF_SALT = 1 / 2.5
"""Regulation (EU) No 1169/2011, Annex I: salt = sodium × 2.5."""
ETHANOL_G_PER_ML = 0.789
"""Density of ethanol at 20 °C: per cent by volume × 0.789 = g per 100 ml."""
TRACE_G = 0.5
"""What “traces” of fat, carbohydrate, sugars, fibre or protein may be at most in 100 g or ml: European Commission
guidance on tolerances for nutrient values on labels (December 2012), the rounding rules."""

PER_100_G, PER_100_ML, PER_SERVING, PER_PACK, PER_PIECES = "100g", "100ml", "serving", "pack", "pieces"
BASES: Mapping[str, str] = {
    PER_100_G: "per 100 g",
    PER_100_ML: "per 100 ml",
    PER_SERVING: "per serving",
    PER_PACK: "per pack",
    PER_PIECES: "per piece or pieces",
}
APART, INSIDE = "apart", "inside"
FIBRE: Mapping[str, str] = {APART: "listed apart from carbohydrate", INSIDE: "counted inside carbohydrate"}

PRINTED: Mapping[str, tuple[str, str]] = {
    "energy_kj": ("energy", "kJ"),
    "energy_kcal": ("energy", "kcal"),
    "fat_g": ("fat", "g"),
    "saturated_g": ("of which saturated", "g"),
    "carbohydrate_g": ("carbohydrate", "g"),
    "sugars_g": ("of which sugars", "g"),
    "polyols_g": ("of which polyols", "g"),
    "fibre_g": ("fibre", "g"),
    "protein_g": ("protein", "g"),
    "salt_g": ("salt", "g"),
    "sodium_mg": ("sodium", "mg"),
    "alcohol_g": ("alcohol", "g"),
    "alcohol_pct": ("alcohol by volume", "%"),
    **{key: (BY_KEY[key].label, BY_KEY[key].unit) for key in KEYS[KEYS.index("potassium_mg") :]},
}
"""Everything a label may print: field → word, unit."""
FACTS = ("basis", "basis_g", "basis_ml", "pieces", "fibre", "density", "serving_g")
FIELDS = (*FACTS, *PRINTED)


@dataclass(frozen=True, slots=True)
class LabelLine:
    """One printed figure on its way: what was typed, what happens to it, and the figure per 100 g with its error."""

    key: str
    name: str
    typed: str
    working: str
    per_100_g: float | None
    standard_error: float
    unit: str


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


@dataclass(frozen=True, slots=True)
class _Printed:
    """A printed figure in its unit: its value and standard error on the label's own basis."""

    typed: str
    value: float
    error: float
    upper: bool = False


def read_label(typed: Mapping[str, str]) -> LabelReading:
    """Read a label as typed: texts by the names in `FIELDS`, absent or empty ones unknown.

    Faults are collected, never raised, so that what is right already shows while somebody types.
    """
    faults: list[InvalidInput] = []
    typed = _bounded(typed, faults)
    printed = _read_printed(typed, faults)
    basis_g, words, each_g = _read_basis(typed, faults)
    convention = typed.get("fibre", "").strip() or APART
    if convention not in FIBRE:
        faults.append(InvalidInput("fibre", f"“{convention}” is no way to list fibre.", "Choose apart or inside."))
        convention = APART
    factor = None if basis_g is None else 100 / basis_g
    figures, errors, lines = _per_100_g(printed, factor, words, convention, typed)
    at_least = frozenset({"carbohydrate_g"} if _prints_no_fibre(printed, convention) else ())
    queries: list[Query] = []
    composition = Composition(tuple([None] * len(KEYS)))
    macro_energy = None
    if factor is not None:
        faults.extend(_impossible(figures, errors, printed))
        is_readable = max(figures.values(), default=0) <= LARGEST_PER_100_G
        if is_readable and all(fault.field in ("energy_kcal", "energy_kj") for fault in faults):
            composition = Composition(
                tuple(figures.get(key) for key in KEYS), tuple(errors.get(key, 0.0) for key in KEYS), at_least
            )
            macro_energy = energy_from_macros_kcal(composition)
            queries = [*_two_ways(typed, printed), *_energy_query(typed, composition, macro_energy, basis_g)]
            queries.extend(_odd_piece(typed, each_g))
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


def _prints_no_fibre(printed: Mapping[str, _Printed], convention: str) -> bool:
    """Whether carbohydrate is printed without its fibre, which is not printed either: the total is then a least."""
    return convention == APART and "carbohydrate_g" in printed and "fibre_g" not in printed


def _plain(value: float) -> str:
    """A whole number as a label's field takes it."""
    return shown(value, grouped=False)


def with_changes(typed: Mapping[str, str], correction: Correction) -> dict[str, str]:
    """The label's fields after a correction was taken."""
    return {**typed, **correction.changes}


_FIGURE = re.compile(r"(?P<less><|≤|less than|under)?\s*(?P<number>.+)", re.IGNORECASE)


def _read_printed(typed: Mapping[str, str], faults: list[InvalidInput]) -> dict[str, _Printed]:
    printed = {}
    for key, (name, unit) in PRINTED.items():
        text = typed.get(key, "").strip()
        if not text:
            continue
        try:
            printed[key] = _one_printed(key, name, unit, text)
        except InvalidInput as fault:
            faults.append(fault)
    return printed


def _one_printed(key: str, name: str, unit: str, text: str) -> _Printed:
    wanted = f"The {unit} printed beside {name}, such as 4.5 or <0.5."
    if text.lower().rstrip("s. ") in ("trace", "tr") and unit == "g":
        return _Printed(text, TRACE_G / 2, TRACE_G / sqrt(12), upper=True)
    bare = re.sub(rf"\s*{re.escape(unit)}$", "", text.replace("−", "-"), flags=re.IGNORECASE)
    found = _FIGURE.fullmatch(bare.strip())
    if found is None:
        raise InvalidInput(key, f"“{text[:30]}” is not a figure.", wanted)
    digits = found["number"].strip()
    value = read_number(digits, key, wanted, largest=999.0 if unit in ("g", "%") else None)
    if value < 0:
        raise InvalidInput(key, f"{name.capitalize()} cannot be negative.", wanted)
    if found["less"]:
        return _Printed(text, value / 2, value / sqrt(12), upper=True)
    return _Printed(text, value, 10.0 ** -_decimals(digits) / sqrt(12))


def _decimals(digits: str) -> int:
    """Printed decimals: the last digit's place is what the label was rounded to."""
    plain = re.sub(r"[\s'\u2009\u202f\u00a0]", "", digits)
    found = re.search(r"[.,](\d+)$", plain)
    return len(found[1]) if found else 0


def _read_basis(typed: Mapping[str, str], faults: list[InvalidInput]) -> tuple[float | None, str, float | None]:
    """The label's basis in g, in words, and the weight of one piece when it stands on a count."""
    basis = typed.get("basis", "").strip() or PER_100_G
    if basis not in BASES:
        faults.append(InvalidInput("basis", f"“{basis}” is no basis.", f"One of {', '.join(BASES)}."))
        return None, "", None
    try:
        if basis == PER_100_G:
            return 100.0, "per 100 g", None
        if basis == PER_PIECES:
            return _per_pieces(typed)
        if basis == PER_100_ML or (typed.get("basis_ml", "").strip() and not typed.get("basis_g", "").strip()):
            return _per_volume(typed, basis)
        grams = _basis_grams(typed, f"A {basis} weighs how much?")
    except InvalidInput as fault:
        faults.append(fault)
        return None, BASES[basis], None
    return grams, f"per {basis} of {grams:g} g", None


def _per_volume(typed: Mapping[str, str], basis: str) -> tuple[float, str, None]:
    ml, words = 100.0, "per 100 ml"
    if basis != PER_100_ML:
        volume = re.sub(r"\s*ml$", "", typed["basis_ml"].strip(), flags=re.IGNORECASE)
        ml = read_number(volume, "basis_ml", "Give millilitres.")
        if not 0 < ml <= 5000:
            raise InvalidInput("basis_ml", f"{ml:g} ml is no {basis}.", "Give the ml printed on the label.")
        words = f"per {basis} of {ml:g} ml"
    density = _density(typed)
    return ml * density, f"{words}, × {density:g} g per ml", None


def _density(typed: Mapping[str, str]) -> float:
    text = typed.get("density", "").strip()
    if not text:
        raise InvalidInput(
            "density", "Figures per ml need a density.", "Weigh 100 ml; water and most drinks weigh about 100 g."
        )
    grams = read_number(re.sub(r"\s*g$", "", text, flags=re.I), "density", "Give the grams of 100 ml.", largest=250)
    if not 2 <= grams <= 250:
        raise InvalidInput("density", f"100 ml weighing {grams:g} g is not possible.", "From 2 to 250 g.")
    return grams / 100


def _basis_grams(typed: Mapping[str, str], question: str) -> float:
    text = typed.get("basis_g", "").strip()
    if not text:
        raise InvalidInput("basis_g", question, "Give the grams printed beside it.")
    grams = read_grams(text, "basis_g", allow_zero=False, decimals=4)
    if grams > 5000:
        raise InvalidInput("basis_g", f"{shown(grams)} g is more than a pack holds.", "Give the grams printed.")
    return grams


def _per_pieces(typed: Mapping[str, str]) -> tuple[float | None, str, float | None]:
    count_text = re.sub(r"^(about|approx\.?|ca\.?|~)\s*", "", typed.get("pieces", "").strip(), flags=re.IGNORECASE)
    count = read_number(count_text, "pieces", "How many pieces?") if count_text else 1.0
    if not 0 < count <= 1000:
        raise InvalidInput("pieces", f"{count:g} pieces is not possible.", "From 1 to 1,000.")
    pieces = "1 piece" if count == 1 else f"about {count:g} pieces"
    grams = _basis_grams(typed, f"{pieces.capitalize()}: how many grams? Without them, weigh ten.")
    return grams, f"per {pieces} ({grams:g} g; the grams count)", grams / count


def _per_100_g(
    printed: Mapping[str, _Printed], factor: float | None, basis_words: str, convention: str, typed: Mapping[str, str]
) -> tuple[dict[str, float], dict[str, float], list[LabelLine]]:
    """Figures per 100 g with their errors, and a line of working for each printed one."""
    figures: dict[str, float] = {}
    errors: dict[str, float] = {}
    lines: list[LabelLine] = []
    scale = factor or 1.0
    by = "" if factor in (None, 1.0) else f" × 100 ÷ {100 / scale:.4g}"

    def put(key: str, value: float, error: float) -> None:
        if factor is not None and key not in figures:
            figures[key], errors[key] = value * scale, error * scale

    for key, p in printed.items():
        name, unit = PRINTED[key]
        target, value, error, how = key, p.value, p.error, ""
        as_typed = f"{p.value:g}" if p.upper else p.typed.removesuffix(unit).strip()
        if p.upper:
            how = f"half of {p.typed.strip()}"
        if key == "energy_kj":
            target, value, error, how = "energy_kcal", p.value / KJ_PER_KCAL, p.error / KJ_PER_KCAL, f"÷ {KJ_PER_KCAL}"
            if "energy_kcal" in printed:
                continue  # kcal as printed counts; `_two_ways` compares them
        elif key == "salt_g":
            if "sodium_mg" in printed:
                continue
            to_mg = 1000 * SODIUM_SHARE_OF_SALT
            target, value, error, how = "sodium_mg", p.value * to_mg, p.error * to_mg, "÷ 2.5, sodium"
        elif key == "alcohol_pct":
            if "alcohol_g" in printed:
                continue
            value, error, how = _alcohol_g(p, typed, factor)
            target = "alcohol_g"
        elif key == "carbohydrate_g" and convention == APART:
            fibre, polyols = printed.get("fibre_g"), None
            if fibre is not None:
                value, error, how = p.value + fibre.value, hypot(p.error, fibre.error), f"+ {fibre.value:g} fibre"
            elif polyols is None:
                how = "+ fibre, unknown"
                put("_available_g", p.value, p.error)
                lines.append(LabelLine(key, name, p.typed, f"{as_typed} {how}", None, 0.0, unit=unit))
                continue
        put(target, value, error)
        out_unit = BY_KEY[target].unit
        working = " ".join(part for part in (as_typed, how) if part) + by
        lines.append(
            LabelLine(key, name, p.typed, working, figures.get(target), errors.get(target, 0.0), unit=out_unit)
        )
    if "_available_g" in figures:
        # Fibre is not printed, so total carbohydrate is only known from below: the printed figure is kept as the total
        # and fibre stays unknown. Energy from macros then lacks at most what fibre gives.
        figures["carbohydrate_g"], errors["carbohydrate_g"] = figures.pop("_available_g"), errors.pop("_available_g")
        lines = [
            LabelLine(
                x.key, x.name, x.typed, x.working + by, figures["carbohydrate_g"], errors["carbohydrate_g"], unit="g"
            )
            if x.key == "carbohydrate_g" and x.per_100_g is None
            else x
            for x in lines
        ]
    return figures, errors, lines


def _alcohol_g(p: _Printed, typed: Mapping[str, str], factor: float | None) -> tuple[float, float, str]:
    """Grams of alcohol on the label's basis from per cent by volume."""
    density = 1.0
    text = typed.get("density", "").strip()
    if text:
        try:
            density = _density(typed)
        except InvalidInput:
            density = 1.0
    per_100_g = ETHANOL_G_PER_ML / density
    scale = per_100_g / (factor or 1.0)
    return p.value * scale, p.error * scale, f"% × {ETHANOL_G_PER_ML:g} g per ml"


def _impossible(
    figures: Mapping[str, float], errors: Mapping[str, float], printed: Mapping[str, _Printed]
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
                f"{shown(figures[key])} g in 100 g is not possible.",
                "Look at the basis above, or for a typing slip.",
            )
            return
    if figures.get("energy_kcal", 0) > 902 + slack("energy_kcal"):
        yield InvalidInput(
            at("energy_kcal"),
            f"{shown(figures['energy_kcal'])} kcal per 100 g is more than pure fat holds.",
            "Look at the basis above, or whether kJ were typed as kcal.",
        )
    if figures.get("sodium_mg", 0) > 40_000:
        yield InvalidInput(
            at("sodium_mg"),
            f"{shown(figures['sodium_mg'])} mg of sodium per 100 g is more than pure salt holds.",
            "Look whether mg of sodium were typed as g of salt.",
        )
        return
    for n in NUTRIENTS:
        in_a_gram = {"mg": 1000, "µg": 1_000_000}.get(n.unit[:2])
        if in_a_gram and figures.get(n.key, 0) > 100 * in_a_gram:
            words = f"{shown(figures[n.key])} {n.unit} of {n.label} in 100 g is more than 100 g."
            yield InvalidInput(n.key, words, "Look at the unit, and at the basis above.")
            return
    for part, whole, word in (
        ("sugars_g", "carbohydrate_g", "carbohydrate"),
        ("polyols_g", "carbohydrate_g", "carbohydrate"),
        ("fibre_g", "carbohydrate_g", "carbohydrate"),
        ("saturated_g", "fat_g", "fat"),
    ):
        if part in figures and whole in figures and figures[part] > figures[whole] + slack(part, whole):
            name = PRINTED[part][0].removeprefix("of which ")
            yield InvalidInput(
                part,
                f"{shown(figures[part], 1)} g of {name} is more than the {shown(figures[whole], 1)} g of {word} "
                "it is part of.",
                "One of the two is misread." if part != "fibre_g" else "Fibre is listed apart, then.",
            )
    parts = ("protein_g", "fat_g", "carbohydrate_g", "alcohol_g")
    whole_g = sum(figures.get(key, 0.0) for key in parts) + figures.get("sodium_mg", 0.0) * 2.5 / 1000
    if whole_g > 100 + 1 + slack(*parts):
        yield InvalidInput(
            "protein_g",
            f"Protein, fat, carbohydrate, alcohol and salt come to {shown(whole_g)} g in 100 g.",
            "Look at the basis above, or for a typing slip.",
        )


def _two_ways(typed: Mapping[str, str], printed: Mapping[str, _Printed]) -> list[Query]:
    """The same thing printed in two units should agree: kcal with kJ, salt with sodium."""
    queries = []
    kcal, kj = printed.get("energy_kcal"), printed.get("energy_kj")
    if kcal is not None and kj is not None:
        from_kj = kj.value / KJ_PER_KCAL
        if abs(kcal.value - from_kj) > max(2.0, 0.03 * max(kcal.value, from_kj)):
            fixes = [Correction(f"Take {shown(from_kj)} kcal, from the kJ", {"energy_kcal": _plain(from_kj)}),
                     Correction(f"Take the {kcal.typed} kcal, drop the kJ", {"energy_kj": ""})]  # fmt: skip
            queries.append(
                Query(
                    "energy_kj",
                    f"{kj.typed} kJ are {shown(from_kj)} kcal, but {kcal.typed} kcal stand there too.",
                    "One of the two is misread.",
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
                    f"{salt.typed} g of salt hold {shown(from_salt)} mg of sodium, not {sodium.typed}.",
                    "One of the two is misread, or sodium was typed as salt.",
                    (
                        Correction(f"Take {shown(from_salt)} mg, from the salt", {"sodium_mg": _plain(from_salt)}),
                        Correction("Drop the salt, keep the sodium", {"salt_g": ""}),
                    ),
                )
            )
    return queries


def _odd_piece(typed: Mapping[str, str], each_g: float | None) -> list[Query]:
    """Pieces so light that count and grams may have changed places."""
    if each_g is None or each_g >= 0.2:
        return []
    return [
        Query("pieces", f"One piece would weigh {shown(each_g, 2)} g.", "Pieces and grams may have changed places.",
              (Correction("Swap them", {"pieces": typed.get("basis_g", ""), "basis_g": typed.get("pieces", "")}),))
    ]  # fmt: skip


def _energy_query(
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
    problem = f"The label’s energy is {shown(stated)} kcal per 100 g; its figures make {shown(computed)} kcal."
    if not causes:
        return [Query(field, problem, "No single slip explains it. Compare each figure with the label.")]
    return [Query(field, problem, f"Likeliest: {causes[0][0]}", tuple(c for _, c in causes[:3] if c.changes))]


PRINTED_AS_0_KCAL = 5.0
"""Less than 5 kcal a serving may be printed as 0 (US 21 CFR 101.9(c)(1))."""


def _hidden_by_rounding(typed: Mapping[str, str], composition: Composition, basis_g: float | None) -> float:
    """How many kcal per 100 g the label's own rounding can hide on a small basis: half a digit of each figure."""
    if basis_g is None or basis_g >= 100:
        return 0.0
    if composition.get("energy_kcal") == 0:
        return PRINTED_AS_0_KCAL * 100 / basis_g
    factor = ENERGY_FACTORS_KCAL_PER_G
    per_g = {"energy_kcal": 1.0, "protein_g": factor["protein"], "fat_g": factor["fat"],
             "carbohydrate_g": factor["carbohydrate"]}  # fmt: skip
    errors: dict[str, float] = dict(zip(KEYS, composition.errors_per_100_g, strict=False))
    return sum(errors.get(key, 0.0) * sqrt(12) / 2 * times for key, times in per_g.items())


Cause = tuple[str, Correction]


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
        try_changes(0, f"{kcal} are kJ, typed as kcal.", "They are kJ", {"energy_kj": kcal, "energy_kcal": ""})
    if kj and not kcal:
        try_changes(0, f"{kj} are kcal, typed as kJ.", "They are kcal", {"energy_kcal": kj, "energy_kj": ""})
    convention = typed.get("fibre", "").strip() or APART
    if typed.get("fibre_g", "").strip():
        other = INSIDE if convention == APART else APART
        try_changes(1, f"fibre is {FIBRE[other]} here.", f"Fibre is {FIBRE[other]}", {"fibre": other})
    for why, words, changes in _basis_slips(typed, stated, computed, basis_g):
        try_changes(2, why, words, changes)
    gap = stated - computed
    carbohydrate, sugars = composition.get("carbohydrate_g") or 0, composition.get("sugars_g") or 0
    is_drink = typed.get("basis", "").strip() == PER_100_ML or bool(typed.get("basis_ml", "").strip())
    may_lack_alcohol = gap > 0 and not composition.get("alcohol_g") and gap / 7 <= 60 and not found
    if not found and not (is_drink and may_lack_alcohol):
        for why, words, changes in _digit_slips(typed):
            try_changes(3, why, words, changes)
    if may_lack_alcohol:
        cause = f"alcohol is missing: {shown(gap / 7)} g in 100 g would close the gap."
        found.append((2 if is_drink else 4, gap, (cause, Correction("Type the alcohol", {}))))
    room = carbohydrate - sugars - (composition.get("fibre_g") or 0)
    if gap < 0 and composition.get("polyols_g") is None and -gap <= 4 * room:
        if -gap <= 1.6 * room:
            cause = f"polyols are missing: {shown(-gap / 1.6)} g of the carbohydrate would close the gap."
        else:
            cause = "polyols are missing, erythritol among them, which gives no energy."
        found.append((4, -gap, (cause, Correction("Type the polyols", {}))))
    if gap < 0 and (composition.get("polyols_g") or 0) * 2.4 >= -gap - ENERGY_TOLERANCE_KCAL:
        cause = "some of the polyols is erythritol, which gives no energy. The label can be right as it is."
        found.append((1, -gap, (cause, Correction("It is erythritol", {}))))
    return [cause for _, _, cause in sorted(found, key=lambda item: item[:2])]


def _gap(stated: float, computed: float) -> float:
    return abs(stated - computed) / max(stated, computed, 1.0)


def _energies(typed: Mapping[str, str]) -> tuple[float, float] | None:
    """Printed and computed energy per 100 g of a label as changed, or None when it cannot be."""
    faults: list[InvalidInput] = []
    printed = _read_printed(typed, faults)
    basis_g, words, _ = _read_basis(typed, faults)
    if faults or basis_g is None:
        return None
    convention = typed.get("fibre", "").strip() or APART
    figures, errors, _ = _per_100_g(printed, 100 / basis_g, words, convention, typed)
    if any(_impossible(figures, errors, printed)):
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
                "the energy was read from the column per 100 g.",
                f"{shown(energy)} in the column typed here",
                {field: _plain(energy)},
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
                f"the energy was read from the column per serving of {grams:g} g.",
                f"{shown(energy)} per 100 g",
                {field: _plain(energy)},
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
                f"a decimal point astray in {name}: {other:g}, not {text}.",
                f"{name.capitalize()} {other:g}",
                {key: f"{other:g}"},
            )
        for place in range(len(text) - 1):
            a, b = text[place], text[place + 1]
            if a.isdigit() and b.isdigit() and a != b:
                other_text = text[:place] + b + a + text[place + 2 :]
                yield (
                    f"two digits swapped in {name}: {other_text}, not {text}.",
                    f"{name.capitalize()} {other_text}",
                    {key: other_text},
                )
