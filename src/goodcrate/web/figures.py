"""Figures as pages word them, on `core.ground.writing`: which decimals, which unit, with how much doubt."""

from collections.abc import Iterable

from goodcrate.core.ground.nutrients import BY_KEY, Measured
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import MINUS, heat, heat_unit, many, plural_of, round_half_up, short, shown
from goodcrate.core.recipes.steps import Step
from goodcrate.core.targets.slot import Slot


def whole(value: float) -> str:
    """A whole number with thousands separated: 2,450."""
    return shown(value).replace("-", MINUS)


def at_least_one(value: float) -> str:
    """A doubt in whole units, never shown as none."""
    return whole(max(1.0, value))


def grams(value: float) -> str:
    """Grams as a cook reads them: tenths below 10 g, whole above."""
    return shown(value, 1) if 0 < abs(value) < 9.95 else whole(value)


def expected_weight(value: float, standard_error: float | None) -> str:
    """Grams still to be weighed with their doubt: “2,340 g ± 90”."""
    return f"{grams(value)} g {and_doubt(standard_error)}".strip()


def and_doubt(standard_error: float | None) -> str:
    """The doubt behind a figure, nothing where it is not known: “± 90”."""
    return f"± {at_least_one(standard_error)}" if standard_error else ""


def percent_signed(value: float) -> str:
    """A difference in % with its sign and one decimal: +0.4 %, −1.2 %."""
    return f"{'+' if round_half_up(value, 1) > 0 else ''}{number(value)} %"


def number(value: float, decimals: int = 1) -> str:
    """A number with so many decimals, thousands separated."""
    return shown(value, decimals).replace("-", MINUS)


def plain(value: float) -> str:
    """A number as it would be typed: 4, 0.75; no grouping."""
    return short(value)


def sentence(text: str) -> str:
    """Words with a capital at their start, the others as they are: 74 °C stays 74 °C."""
    said = str(text)  # in the reader’s language
    return said[:1].upper() + said[1:]


def full_sentence(text: str) -> str:
    """Words with a capital at their start and one sign at their end."""
    return f"{sentence(text)}{'' if str(text).endswith(('?', '!', '.')) else '.'}"


def percent(share: float) -> str:
    """A share of one as whole per cent, with a thin space."""
    return f"{whole(share * 100)} %"


def measured(amount: Measured, key: str, *, with_error: bool = True) -> str:
    """A nutrient with unit and doubt: “642 ± 14 kcal”, “at least 910 mg”, “unknown”."""
    nutrient = BY_KEY[key]
    if amount.is_unknown:
        return "unknown"
    text = number(amount.value, nutrient.decimals)
    step = 10.0**-nutrient.decimals
    if with_error and amount.standard_error >= step / 2:
        text += f" ± {number(amount.standard_error, nutrient.decimals)}"
    return f"{'at least ' if amount.is_at_least else ''}{text} {nutrient.unit}"


def conditions(slot: Slot) -> tuple[str, ...]:
    """What holds for a slot besides its time, in words: “cold”, “travels”, “within 20 min”, “30 %”."""
    said = (("cold", slot.eaten_cold), ("travels", slot.travels), (say("no reheating"), slot.no_reheat))
    within = say("within {within_min} min", within_min=slot.within_min) if slot.within_min else ""
    share = f"{plain(slot.share_pct)} %" if slot.share_pct else ""
    return tuple(words for words in (*(words for words, holds in said if holds), within, share) if words)


def oven_heat(step: Step) -> str:
    """The oven's heat of a step: “180 °C”, “170–190 °C”."""
    ends = (end for end in (step.low_c, step.high_c) if end is not None)
    return f"{'–'.join(dict.fromkeys(heat(end) for end in ends))} {heat_unit()}"


def from_to(values: Iterable[float]) -> str:
    """The least and the most of some grams: “300”, “280–340”."""
    ordered = sorted(values)
    return "–".join(dict.fromkeys(grams(end) for end in (ordered[0], ordered[-1])))


def counted(count: int, word: str) -> str:
    """A count with its word: “1 box”, “3 boxes”, “0 lines”."""
    return many(count, word, plural_of(word))
