"""A label's figures: what is printed on which basis, and what that is per 100 g, with its working and its doubt."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from math import hypot, sqrt

from goodcrate.core.ground.amounts import read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import BY_KEY, KEYS
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import near, short, shown

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
    PER_100_G: Saying("per 100 g"),
    PER_100_ML: Saying("per 100 ml"),
    PER_SERVING: Saying("per serving"),
    PER_PACK: Saying("per pack"),
    PER_PIECES: Saying("per piece or pieces"),
}


APART, INSIDE = "apart", "inside"


FIBRE: Mapping[str, str] = {
    APART: Saying("listed apart from carbohydrate"),
    INSIDE: Saying("counted inside carbohydrate"),
}


PRINTED: Mapping[str, tuple[str, str]] = {
    "energy_kj": (Saying("energy"), "kJ"),
    "energy_kcal": (Saying("energy"), "kcal"),
    "fat_g": (Saying("fat"), "g"),
    "saturated_g": (Saying("of which saturated"), "g"),
    "carbohydrate_g": (Saying("carbohydrate"), "g"),
    "sugars_g": (Saying("of which sugars"), "g"),
    "polyols_g": (Saying("of which polyols"), "g"),
    "fibre_g": (Saying("fibre"), "g"),
    "protein_g": (Saying("protein"), "g"),
    "salt_g": (Saying("salt"), "g"),
    "sodium_mg": (Saying("sodium"), "mg"),
    "alcohol_g": (Saying("alcohol"), "g"),
    "alcohol_pct": (Saying("alcohol by volume"), "%"),
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
class Printed:
    """A printed figure in its unit: its value and standard error on the label's own basis."""

    typed: str
    value: float
    error: float
    upper: bool = False


def prints_no_fibre(printed: Mapping[str, Printed], convention: str) -> bool:
    """Whether carbohydrate is printed without its fibre, which is not printed either: the total is then a least."""
    return convention == APART and "carbohydrate_g" in printed and "fibre_g" not in printed


def plain(value: float) -> str:
    """A whole number as a label's field takes it."""
    return shown(value, grouped=False)


_FIGURE = re.compile(r"(?P<less><|≤|less than|under)?\s*(?P<number>.+)", re.IGNORECASE)


def read_printed(typed: Mapping[str, str], faults: list[InvalidInput]) -> dict[str, Printed]:
    """What stands on the label, by field; what cannot be read is added to the faults."""
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


def _one_printed(key: str, name: str, unit: str, text: str) -> Printed:
    wanted = say(
        "The {unit} printed beside {name}, such as {a} or <{b}.", unit=unit, name=name, a=short(4.5), b=short(0.5)
    )
    if text.lower().rstrip("s. ") in ("trace", "tr") and unit == "g":
        return Printed(text, TRACE_G / 2, TRACE_G / sqrt(12), upper=True)
    bare = re.sub(rf"\s*{re.escape(unit)}$", "", text.replace("−", "-"), flags=re.IGNORECASE)
    found = _FIGURE.fullmatch(bare.strip())
    if found is None:
        raise InvalidInput(key, say("“{text}” is not a figure.", text=text[:30]), wanted)
    digits = found["number"].strip()
    value = read_number(digits, key, wanted, largest=999.0 if unit in ("g", "%") else None)
    if value < 0:
        raise InvalidInput(key, say("{name} cannot be negative.", name=name.capitalize()), wanted)
    if found["less"]:
        return Printed(text, value / 2, value / sqrt(12), upper=True)
    return Printed(text, value, 10.0 ** -_decimals(digits) / sqrt(12))


def _decimals(digits: str) -> int:
    """Printed decimals: the last digit's place is what the label was rounded to."""
    plain = re.sub(r"[\s'\u2009\u202f\u00a0]", "", digits)
    found = re.search(r"[.,](\d+)$", plain)
    return len(found[1]) if found else 0


def read_basis(typed: Mapping[str, str], faults: list[InvalidInput]) -> tuple[float | None, str, float | None]:
    """The label's basis in g, in words, and the weight of one piece when it stands on a count."""
    basis = typed.get("basis", "").strip() or PER_100_G
    if basis not in BASES:
        known = say("One of {known}.", known=", ".join(BASES))
        faults.append(InvalidInput("basis", say("“{basis}” is no basis.", basis=basis), known))
        return None, "", None
    try:
        if basis == PER_100_G:
            return 100.0, say("per 100 g"), None
        if basis == PER_PIECES:
            return _per_pieces(typed)
        if basis == PER_100_ML or (typed.get("basis_ml", "").strip() and not typed.get("basis_g", "").strip()):
            return _per_volume(typed, basis)
        grams = _basis_grams(typed, say("A {basis} weighs how much?", basis=basis))
    except InvalidInput as fault:
        faults.append(fault)
        return None, BASES[basis], None
    return grams, say("per {basis} of {grams} g", basis=basis, grams=short(grams)), None


def _per_volume(typed: Mapping[str, str], basis: str) -> tuple[float, str, None]:
    ml, words = 100.0, say("per 100 ml")
    if basis != PER_100_ML:
        volume = re.sub(r"\s*ml$", "", typed["basis_ml"].strip(), flags=re.IGNORECASE)
        ml = read_number(volume, "basis_ml", say("Give millilitres."))
        if not 0 < ml <= 5000:
            raise InvalidInput(
                "basis_ml",
                say("{ml} ml is no {basis}.", ml=short(ml), basis=basis),
                say("Give the ml printed on the label."),
            )
        words = say("per {basis} of {ml} ml", basis=basis, ml=short(ml))
    density = _density(typed)
    return ml * density, say("{words}, × {density} g per ml", words=words, density=short(density)), None


def _density(typed: Mapping[str, str]) -> float:
    text = typed.get("density", "").strip()
    if not text:
        raise InvalidInput(
            "density",
            say("Figures per ml need a density."),
            say("Weigh 100 ml; water and most drinks weigh about 100 g."),
        )
    grams = read_number(
        re.sub(r"\s*g$", "", text, flags=re.I), "density", say("Give the grams of 100 ml."), largest=250
    )
    if not 2 <= grams <= 250:
        raise InvalidInput(
            "density", say("100 ml weighing {grams} g is not possible.", grams=short(grams)), say("From 2 to 250 g.")
        )
    return grams / 100


def _basis_grams(typed: Mapping[str, str], question: str) -> float:
    text = typed.get("basis_g", "").strip()
    if not text:
        raise InvalidInput("basis_g", question, say("Give the grams printed beside it."))
    grams = read_grams(text, "basis_g", allow_zero=False, decimals=4)
    if grams > 5000:
        raise InvalidInput(
            "basis_g", say("{grams} g is more than a pack holds.", grams=shown(grams)), say("Give the grams printed.")
        )
    return grams


def _per_pieces(typed: Mapping[str, str]) -> tuple[float | None, str, float | None]:
    count_text = re.sub(r"^(about|approx\.?|ca\.?|~)\s*", "", typed.get("pieces", "").strip(), flags=re.IGNORECASE)
    count = read_number(count_text, "pieces", say("How many pieces?")) if count_text else 1.0
    if not 0 < count <= 1000:
        raise InvalidInput(
            "pieces",
            say("{count} pieces is not possible.", count=short(count)),
            say("From 1 to {shown}.", shown=shown(1000)),
        )
    pieces = "1 piece" if count == 1 else say("about {count} pieces", count=short(count))
    grams = _basis_grams(typed, say("{pieces}: how many grams? Without them, weigh ten.", pieces=pieces.capitalize()))
    return grams, say("per {pieces} ({grams} g; the grams count)", pieces=pieces, grams=short(grams)), grams / count


def per_100_g(
    printed: Mapping[str, Printed], factor: float | None, basis_words: str, convention: str, typed: Mapping[str, str]
) -> tuple[dict[str, float], dict[str, float], list[LabelLine]]:
    """Figures per 100 g with their errors, and a line of working for each printed one."""
    figures: dict[str, float] = {}
    errors: dict[str, float] = {}
    lines: list[LabelLine] = []
    scale = factor or 1.0
    by = "" if factor in (None, 1.0) else f" × 100 ÷ {near(100 / scale, 4)}"

    def put(key: str, value: float, error: float) -> None:
        if factor is not None and key not in figures:
            figures[key], errors[key] = value * scale, error * scale

    for key, p in printed.items():
        name, unit = PRINTED[key]
        as_typed = f"{short(p.value)}" if p.upper else p.typed.removesuffix(unit).strip()
        if key == "carbohydrate_g" and convention == APART and "fibre_g" not in printed:
            put("_available_g", p.value, p.error)
            lines.append(
                LabelLine(
                    key, name, p.typed, say("{as_typed} + fibre, unknown", as_typed=as_typed), None, 0.0, unit=unit
                )
            )
            continue
        converted = _converted(key, printed, typed, factor, convention)
        if converted is None:
            continue
        target, value, error, how = converted
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


def _converted(
    key: str, printed: Mapping[str, Printed], typed: Mapping[str, str], factor: float | None, convention: str
) -> tuple[str, float, float, str] | None:
    """A printed figure as the nutrient it is: its key, value, error, and how. None when another one says it better."""
    p = printed[key]
    how = say("half of {typed}", typed=p.typed.strip()) if p.upper else ""
    if key == "energy_kj":  # kcal as printed counts; `two_ways` compares them
        found = "energy_kcal", p.value / KJ_PER_KCAL, p.error / KJ_PER_KCAL, f"÷ {KJ_PER_KCAL}"
        return None if "energy_kcal" in printed else found
    if key == "salt_g":
        to_mg = 1000 * SODIUM_SHARE_OF_SALT
        return None if "sodium_mg" in printed else ("sodium_mg", p.value * to_mg, p.error * to_mg, "÷ 2.5, sodium")
    if key == "alcohol_pct":
        return None if "alcohol_g" in printed else ("alcohol_g", *_alcohol_g(p, typed, factor))
    if key == "carbohydrate_g" and convention == APART:
        fibre = printed["fibre_g"]
        return key, p.value + fibre.value, hypot(p.error, fibre.error), say("+ {value} fibre", value=short(fibre.value))
    return key, p.value, p.error, how


def _alcohol_g(p: Printed, typed: Mapping[str, str], factor: float | None) -> tuple[float, float, str]:
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
    return (
        p.value * scale,
        p.error * scale,
        say("% × {ETHANOL_G_PER_ML} g per ml", ETHANOL_G_PER_ML=short(ETHANOL_G_PER_ML)),
    )
