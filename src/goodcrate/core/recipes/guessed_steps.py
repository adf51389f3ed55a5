"""What the words of a step suggest: minutes, equipment, heat, whether the cook is needed."""

import re

from goodcrate.core.recipes.steps import LONGEST_STEP, LONGEST_STEP_MIN, Step

_DURATION = re.compile(
    r"(?<![\d.,])(\d{1,4}(?:[.,]\d{1,3})?)\s{0,3}(?:[–-]|to)?\s{0,3}(\d{1,4})?\s{0,3}"
    r"(hours?|hrs?|h|minutes?|mins?|min)\b",
    re.IGNORECASE,
)
"""Each part has a largest length: a line of digits is read in one go."""


_WITH: tuple[tuple[str, str], ...] = (
    ("oven", r"\b(bak|roast|oven|tray|gratin)"),
    ("microwave", r"\bmicrowav"),
    ("air_fryer", r"\bair.?fry"),
    ("rice_cooker", r"\brice cooker"),
    ("blender", r"\b(blend|blitz|pur[eé]e|liqui)"),
    ("fridge", r"\b(chill|fridge|refrigerat|overnight|marinat)"),
    ("cooling", r"\b(cool)"),
    ("hob", r"\b(simmer|boil|fry|brown|sear|saut|sweat|toast|poach|steam|reduce|melt|hob|pan\b|cook)"),
)


_BY_ITSELF = re.compile(
    r"\b(simmer|bak|roast|boil|cool|chill|rest|soak|overnight|marinat|oven|swell|leave|stand|steam)", re.IGNORECASE
)


_DEGREES = re.compile(r"(\d{2,3})\s{0,3}°\s{0,3}C", re.IGNORECASE)


def guess_step(key: str, text: str, minutes: float | None = None, after: tuple[str, ...] = ()) -> Step:
    """A step from its words alone: equipment, minutes, temperature and whether hands are busy, as the words suggest.

    `minutes` overrides what stands in the text. Of a range the longer time counts. All of it is a guess to
    be looked over.
    """
    text = text[:LONGEST_STEP]
    found = _DURATION.search(text)
    if minutes is None and found:
        unit = 60 if found[3].lower().startswith("h") else 1
        minutes = float((found[2] or found[1]).replace(",", ".")) * unit
    if minutes is not None and not 0 < minutes <= LONGEST_STEP_MIN:
        minutes = None
    equipment = next((name for name, words in _WITH if re.search(words, text, re.IGNORECASE)), "")
    degrees = _DEGREES.search(text)
    low = float(degrees[1]) if degrees and equipment == "oven" and 30 <= float(degrees[1]) <= 300 else None
    by_itself = bool(_BY_ITSELF.search(text)) and (minutes or 0) >= 5
    return Step(key, text, "", equipment, minutes, not by_itself, low_c=low, high_c=low, core_kind="", after=after)
