"""What the words of a step suggest: minutes, equipment, heat, whether the cook is needed."""

import re

from goodcrate.core.foods.numbers import PLAIN, number_of
from goodcrate.core.ground.writing import celsius_of
from goodcrate.core.recipes.steps import LONGEST_STEP, LONGEST_STEP_MIN, Step

_TIME = rf"(?:{PLAIN}|an?|half an?|one|two|three|four|five|six|eight|ten|twelve)"
_HOURS, _MINUTES = r"(?:hours?|hrs?|h)\b", r"(?:minutes?|mins?|min)\b"
_DURATION = re.compile(
    rf"(?<![\d.,])(?P<low>{_TIME})(?:\s{{0,3}}(?:-|–|to|or)\s{{0,3}}(?P<high>{_TIME}))?\s{{0,3}}-?"
    rf"(?:(?P<hours>{_HOURS})(?:\s{{0,3}}(?:and|,)?\s{{0,3}}(?P<more>{PLAIN})\s{{0,3}}{_MINUTES})?"
    r"(?P<half>\s+and\s+a\s+half)?"
    rf"|{_MINUTES})",
    re.IGNORECASE,
)
"""“35 min”, “45 to 55 minutes”, “4½ hours”, “1 1/2 hours”, “1 hour 30 minutes”, “an hour and a half”."""


def minutes_in(text: str) -> float | None:
    """The minutes a step's words give: of a range the longer time, of several the first; None when they give none."""
    found = _DURATION.search(text[:LONGEST_STEP])
    if found is None:
        return None
    value = number_of((found["high"] or found["low"]).lower())
    if not found["hours"]:
        return value
    more = number_of(found["more"]) if found["more"] else 0.0
    return (value + (0.5 if found["half"] else 0.0)) * 60 + more


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


_DEGREES = re.compile(r"(\d{2,3})\s{0,3}°\s{0,3}([CF])", re.IGNORECASE)


def guess_step(key: str, text: str, minutes: float | None = None, after: tuple[str, ...] = ()) -> Step:
    """A step from its words alone: equipment, minutes, temperature and whether hands are busy, as the words suggest.

    `minutes` overrides what stands in the text. Of a range the longer time counts. All of it is a guess to
    be looked over.
    """
    text = text[:LONGEST_STEP]
    minutes = minutes_in(text) if minutes is None else minutes
    if minutes is not None and not 0 < minutes <= LONGEST_STEP_MIN:
        minutes = None
    equipment = next((name for name, words in _WITH if re.search(words, text, re.IGNORECASE)), "")
    degrees = _DEGREES.search(text)
    heat_c = celsius_of(float(degrees[1]), degrees[2]) if degrees else 0.0
    low = heat_c if equipment == "oven" and 30 <= heat_c <= 300 else None
    by_itself = bool(_BY_ITSELF.search(text)) and (minutes or 0) >= 5
    return Step(key, text, "", equipment, minutes, not by_itself, low_c=low, high_c=low, core_kind="", after=after)
