"""How a component is cooked, read from its steps or as the cook says.

Each line has its own way through the pot: the barley is boiled and drained, the beetroot of the same component is
roasted. A step means the foods it names, and all of the component when it names none.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import replace

from goodcrate.core.foods.food import must_be_cooked
from goodcrate.core.foods.numbers import PLAIN, WORDED, number_of
from goodcrate.core.ground.find import head_of, words_of
from goodcrate.core.recipes.component import UNCOOKED_USES, Component, IngredientLine, step_heats
from goodcrate.core.recipes.cooking import (
    ABSORBED,
    BAKED,
    DRAINED,
    DRIED,
    FRIED,
    NOT_COOKED,
    RAW,
    ROASTED,
    SIMMERED,
    SOAKED,
    WET_WAYS,
    Cooking,
    Spell,
)
from goodcrate.core.recipes.evaporation import USUAL_MINUTES
from goodcrate.core.recipes.steps import LONGEST_STEP, Step

_WET = re.compile(r"\b(simmer|boil|swell|poach|steam|blanch|stew|brais|cook|tender|soft|bubbl)", re.IGNORECASE)
_IN_WATER = re.compile(r"\b(boil|poach|blanch|steam)", re.IGNORECASE)
_IN_SAUCE = re.compile(r"\b(simmer|stew|brais|sauce)", re.IGNORECASE)
_DRY_PAN = re.compile(r"\b(fry|fried|brown|sear|saut|sweat|toast|griddl|glaze)", re.IGNORECASE)
_SWELLS = re.compile(r"\b(boiling water|hot water|hot stock|swell|steep)", re.IGNORECASE)
_SOAKS = re.compile(r"\b(soak|overnight)", re.IGNORECASE)
_DRAINS = re.compile(r"\b(drain|strain)|\bpour(?:\s+\w+){0,4}\s+(?:off|away)\b", re.IGNORECASE)
_OF_FAT = re.compile(r"\bfat\b", re.IGNORECASE)
_IN_BRACKETS = re.compile(r"\([^)]*\)")
_IN_LOTS = re.compile(r"\bin (two|three|four|five|six) (?:lots|batches|goes)\b", re.IGNORECASE)
_LID = re.compile(r"\b(lids?|cover(?:ed)?|foil)\b", re.IGNORECASE)
_OPEN = re.compile(r"\b(uncover|without (?:a |the )?lid|lids? off|no lid)", re.IGNORECASE)
_REDUCES = re.compile(r"\b(reduc|boil(?:s|ed)? down|cook(?:s|ed)? down|thicken)", re.IGNORECASE)
_ROASTS = re.compile(r"\b(roast|grill|crisp|char)", re.IGNORECASE)
_DRIES = re.compile(r"\b(dehydrat|dry (?:in|at|for|until)|dried out)", re.IGNORECASE)
_THEN_ADDS = re.compile(r"[,;.]?\s+(?:then\s+)?(?:add|stir in|pour in)\b", re.IGNORECASE)
_WATER = re.compile(r"\bwater\b", re.IGNORECASE)
LONGEST_AMOUNT = 40
"""Letters before the word “water” in which its amount is looked for."""
_TIMES_WATER = re.compile(r"\b(twice|double|three times|four times)\b[^.;,]{0,20}\bwater\b", re.IGNORECASE)
_TIMES = {"twice": 2.0, "double": 2.0, "three times": 3.0, "four times": 4.0}
_SO_MUCH_WATER = re.compile(
    rf"(?P<number>{PLAIN}|{WORDED})\s*(?P<unit>ml|cl|dl|litres?|liters?|l|g|kg)\s+(?:of\s+)?(?:\w+\s+)?water\b",
    re.IGNORECASE,
)
_GRAMS = {"ml": 1.0, "cl": 10.0, "dl": 100.0, "g": 1.0, "kg": 1000.0}
_BINDS = frozenset({"dairy", "egg", "condiment", "drink"})
BATTER_SHARE = 0.2
"""With a fifth of wet or binding things it is one dish in the oven, not pieces on a tray: our line."""


def cooking_of(component: Component, steps: Sequence[Step]) -> Cooking:
    """How a component is cooked: as the cook says (`cooked_as`), else as its own steps say."""
    if component.cooked_as == RAW:
        return Cooking(is_chosen=True)
    own = [s for s in steps if s.component_key in ("", component.key)]
    told = _Told(component)
    for step in own:
        told.take(step)
    if component.cooked_as:
        return told.as_chosen(component.cooked_as)
    return told.cooking()


class _Told:
    """What the steps of a component tell, taken in one after the other."""

    def __init__(self, component: Component) -> None:
        self.component = component
        self.lines = [
            x for x in component.lines if not x.is_discarded and x.use not in UNCOOKED_USES | {"night_before"}
        ]
        self.heads = {x.key: head_of(_IN_BRACKETS.sub("", x.food.name)) for x in self.lines}
        self.fats = {x.key for x in self.lines if x.food.group == "fat"}
        self.ways: dict[str, str] = {}
        self.soaked: set[str] = set()
        self.drained: set[str] = set()
        self.swelled: set[str] = set()
        self.in_pot: set[str] = set()
        self.spells: list[Spell] = []
        self.water_g = 0.0

    def take(self, step: Step) -> None:
        """One step more."""
        step = replace(step, text=step.text[:LONGEST_STEP])
        text = step.text
        swells = not step.heats and bool(_SWELLS.search(text)) and self._is_meant(step)
        if not swells and not step_heats(step, self.component):
            if _SOAKS.search(text) and self._is_meant(step):
                self._soak(step)
            self._drain(text)
            return
        if step.equipment in ("oven", "air_fryer"):
            self._bake(step)
        elif step.equipment == "hob" and _DRY_PAN.search(text) and not _wet_words(text):
            self._fry(step)
        else:
            self._boil(step, swells=swells)
        self._drain(text)

    def _is_meant(self, step: Step) -> bool:
        return step.component_key == self.component.key or self.component.is_alone or bool(self._named(step.text))

    def _named(self, text: str) -> set[str]:
        """The lines a text names; none when it names only the fat that something is done in."""
        said = set(words_of(text))
        named = {key for key, head in self.heads.items() if said & head}
        return named if named - self.fats else set()

    def _soak(self, step: Step) -> None:
        keys = self._named(step.text) or {x.key for x in self.lines}
        for key in keys:
            self.ways.setdefault(key, SOAKED)
        if _DRAINS.search(step.text):
            self.soaked |= keys

    def _fry(self, step: Step) -> None:
        first, *then = _THEN_ADDS.split(step.text, maxsplit=1)
        keys = self._named(first) or {x.key for x in self.lines}
        self.in_pot |= keys | (self._named(then[0]) if then else set())
        self._go(keys, FRIED)
        self._spell("fry", step, keys)

    def _bake(self, step: Step) -> None:
        keys = self._named(step.text)
        keys = keys | self.in_pot if keys else {x.key for x in self.lines}
        self.in_pot |= keys
        if _DRIES.search(step.text):
            way, rate = DRIED, ""
        elif _wet_words(step.text) and self._binding_share(keys) >= BATTER_SHARE:
            way, rate = SIMMERED, "lid"
        elif not _ROASTS.search(step.text) and self._binding_share(keys) >= BATTER_SHARE:
            way, rate = BAKED, "lid" if _is_under_lid(step.text) else "bake"
        else:
            keys = self._named(step.text) or keys
            way, rate = ROASTED, "roast"
        self._go(keys, way)
        if rate:
            self._spell(rate, step, keys)

    def _boil(self, step: Step, *, swells: bool) -> None:
        keys = self._named(step.text)
        is_in_plain_water = (
            _IN_WATER.search(step.text) and not _IN_SAUCE.search(step.text) and not self._holds_its_water(keys)
        )
        keys = keys | self.in_pot if keys and not is_in_plain_water else keys or {x.key for x in self.lines}
        is_drained = _is_drained(step.text)
        keys |= {
            x.key for x in self.lines if (_is_water(x) if is_drained else x.food.is_liquid) and x.key not in self.ways
        }
        self.in_pot |= keys
        self._go(keys, DRAINED if is_in_plain_water else SIMMERED)
        if swells:
            self.swelled |= keys
        self.water_g += self._water_in(step.text, keys)
        if not is_drained:
            has_lid = swells or step.equipment in ("rice_cooker", "microwave")
            self._spell("lid" if has_lid else _lid_of(step.text), step, keys)

    def _holds_its_water(self, keys: set[str]) -> bool:
        """Whether what is boiled takes up its water, or the list holds it."""
        inside = [x for x in self.lines if x.key in keys or not keys]
        return any(x.food.is_liquid for x in self.lines) or any((x.food.cooked_yield or 1) > 1 for x in inside)

    def _water_in(self, text: str, keys: set[str]) -> float:
        """Grams of water that a step names and the list does not hold."""
        if any(_is_water(x) for x in self.lines):
            return 0.0
        for place in _WATER.finditer(text):
            before = text[max(0, place.start() - LONGEST_AMOUNT) : place.end()]
            if times := _TIMES_WATER.search(before):
                dry = sum(x.kept_g for x in self.lines if x.key in keys and (x.food.cooked_yield or 1) > 1)
                return dry * _TIMES[times[1].lower()]
            if so_much := _SO_MUCH_WATER.search(before):
                return number_of(so_much["number"].lower()) * _GRAMS.get(so_much["unit"].lower(), 1000.0)
        return 0.0

    def _binding_share(self, keys: Iterable[str]) -> float:
        inside = [x for x in self.lines if x.key in keys]
        whole = sum(max(0.0, x.kept_g) for x in inside) or 1.0
        return sum(max(0.0, x.kept_g) for x in inside if _is_binding(x)) / whole

    def _spell(self, rate: str, step: Step, keys: Iterable[str]) -> None:
        minutes = USUAL_MINUTES[rate] if step.duration_min is None else step.duration_min
        if lots := _IN_LOTS.search(step.text):
            minutes /= number_of(lots[1].lower())
        self.spells.append(Spell(rate, minutes, frozenset(keys)))

    def _go(self, keys: Iterable[str], way: str) -> None:
        """Lines go another way; that they were boiled and drained before is kept."""
        for key in keys:
            if self.ways.get(key) == DRAINED and way != DRAINED:
                self.drained.add(key)
            self.ways[key] = way

    def _drain(self, text: str) -> None:
        """What was boiled and is drained, in the same step or a later one; pouring off fat or a soak is no draining."""
        if not _is_drained(text):
            return
        water = {x.key for x in self.lines if _is_water(x)}
        for key in (self._named(text) or set(self.ways)) | water:
            if self.ways.get(key) == SIMMERED:
                self.ways[key] = DRAINED

    def cooking(self) -> Cooking:
        """What was told, as a value."""
        if not self.ways:
            return NOT_COOKED
        soaked, swelled, drained = frozenset(self.soaked), frozenset(self.swelled), frozenset(self.drained)
        return Cooking(dict(self.ways), soaked, swelled, drained, tuple(self.spells), self.water_g)

    def as_chosen(self, way: str) -> Cooking:
        """The same times, with the cook's word for all that can be meant."""
        meant = [x.key for x in self.lines if self.ways.get(x.key) or way != ROASTED or must_be_cooked(x.food)]
        keys = frozenset(meant or [x.key for x in self.lines])
        rate = {SIMMERED: "simmer", ABSORBED: "lid", BAKED: "bake", ROASTED: "roast", FRIED: "fry"}.get(way, "")
        spells = tuple(s for s in self.spells if s.rate != "fry" or way == FRIED)
        if rate and not spells:
            spells = (Spell(rate, USUAL_MINUTES[rate], keys),)
        ways = {x.key: way for x in self.lines} if way in WET_WAYS else dict.fromkeys(keys, way)
        soaked, swelled = frozenset(self.soaked), frozenset(self.swelled)
        return Cooking(ways, soaked, swelled, spells=spells, told_water_g=self.water_g, is_chosen=True)


def _is_water(line: IngredientLine) -> bool:
    return line.food.key.startswith("water")


def _is_drained(text: str) -> bool:
    return bool(_DRAINS.search(text)) and not _OF_FAT.search(text) and not _SOAKS.search(text)


def _wet_words(text: str) -> bool:
    """Whether it is said to cook in a liquid; what is fried until soft is not."""
    found = {word.lower() for word in _WET.findall(text)}
    return bool(found - {"soft", "tender"}) or (bool(found) and not _DRY_PAN.search(text))


def _lid_of(text: str) -> str:
    if _REDUCES.search(text):
        return "reduce"
    if _OPEN.search(text):
        return "open"
    return "lid" if _LID.search(text) else "simmer"


def _is_under_lid(text: str) -> bool:
    return bool(_LID.search(text)) and not _OPEN.search(text)


def _is_binding(line: IngredientLine) -> bool:
    food = line.food
    return (
        food.group in _BINDS
        or food.is_liquid
        or food.cooks_like in ("flour", "flakes")
        or food.state in ("canned_whole", "canned_drained")
        or food.key.startswith("tomatoes_canned")
    )
