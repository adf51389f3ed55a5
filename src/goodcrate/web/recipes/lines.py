"""Ingredient rows of the recipe form: as typed, as read, and what is said at each."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.foods.food import Food, check_facts
from goodcrate.core.foods.measures import FactMissing, TypedAmount, read_amount
from goodcrate.core.foods.weighed_amounts import Weighed, state_slip
from goodcrate.core.ground.amounts import MEASURES, read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.recipe import USES, IngredientLine, PendingLine, flags_of
from goodcrate.services.foods.own_foods import Measuring
from goodcrate.services.recipes.pasting import MatchedLine
from goodcrate.services.recipes.recipe_input import LineInput
from goodcrate.services.week.weeks import new_id
from goodcrate.web.figures import grams, plain
from goodcrate.web.security import text


@dataclass
class LineForm:
    """One ingredient row as typed. `pasted` is the line it came from, `doubt` why that waits for a yes."""

    id: str
    food_key: str
    amount: str = ""
    measure: str = "weighed"
    fact: str = ""
    fact_name: str = ""
    uptake: str = ""
    use: str = ""
    is_discarded: bool = False
    is_optional: bool = False
    is_to_taste: bool = False
    is_poured_off: bool = False
    pasted: str = ""
    doubt: str = ""
    others: tuple[tuple[str, str], ...] = ()
    measure_was_sent: bool = True

    @property
    def has_flags(self) -> bool:
        """Whether anything but its amount is said about the line."""
        return bool(flag_words(self))

    @property
    def fate(self) -> str:
        """What becomes of it, as the form's choice."""
        return "poured" if self.is_poured_off else "out" if self.is_discarded else ""

    @classmethod
    def of_post(cls, form: FormData, line_id: str) -> "LineForm":
        """A row as it was sent."""
        p = f"line-{line_id}"
        fate = text(form, f"{p}-fate")
        return cls(
            line_id,
            text(form, f"{p}-food"),
            text(form, f"{p}-amount"),
            text(form, f"{p}-measure", "weighed"),
            text(form, f"{p}-fact"),
            text(form, f"{p}-fact-name"),
            uptake=text(form, f"{p}-uptake"),
            use=text(form, f"{p}-use"),
            is_discarded=fate == "out",
            is_optional=bool(text(form, f"{p}-optional")),
            is_to_taste=bool(text(form, f"{p}-taste")),
            is_poured_off=fate == "poured",
            pasted=text(form, f"{p}-pasted")[:200],
            doubt=text(form, f"{p}-doubt")[:200],
            measure_was_sent=f"{p}-measure" in form,
        )

    @classmethod
    def of_line(cls, x: IngredientLine) -> "LineForm":
        """A saved line."""
        return cls(
            x.key,
            x.food.key,
            "" if x.is_to_taste and x.amount.grams == 0 else x.amount.typed or plain(x.amount.grams),
            x.amount.measure,
            uptake="" if x.uptake == 1 else plain(x.uptake * 100),
            use=x.use,
            is_discarded=x.is_discarded,
            is_optional=x.is_optional,
            is_to_taste=x.is_to_taste,
            is_poured_off=x.is_poured_off,
        )

    @classmethod
    def of_pending(cls, p: PendingLine, others: Sequence[Food] = ()) -> "LineForm":
        """A line that is not understood yet."""
        return cls(
            p.key, p.food_key, p.amount, pasted=p.text, doubt=p.doubt, others=tuple((f.key, f.name) for f in others)
        )

    @classmethod
    def of_match(cls, matched: MatchedLine) -> "LineForm":
        """A row for a pasted line, with what it was taken for."""
        line = matched.line
        return cls(
            str(new_id()),
            matched.food.key if matched.food else "",
            matched.amount_text,
            is_optional=line.is_optional,
            is_to_taste=line.is_to_taste,
            pasted=line.text,
            doubt="; ".join(matched.doubts),
            others=tuple((food.key, food.name) for food in matched.others),
        )


@dataclass(frozen=True)
class LineNote:
    """What is said at a line: the working of its amount, a fact to ask for, or a slip with its correction.

    `own_measure` is the measure the amount itself names (“2 tbsp”), whatever was chosen beside it.
    """

    working: str = ""
    ask: str = ""
    ask_unit: str = ""
    fact_name: str = ""
    slip: str = ""
    slip_amount: str = ""
    own_measure: str = ""
    flags: str = ""

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to say."""
        return not (self.working or self.ask or self.fact_name or self.slip or self.flags)


@dataclass(frozen=True)
class ReadLines:
    """The lines of a component as read."""

    sure: tuple[LineInput, ...]
    pending: tuple[PendingLine, ...]


FACT_UNITS = {
    "density_g_per_ml": "g in 100 ml",
    "each_g": "g each",
    "pack_g": "g a pack",
    "refuse_pct": "% waste",
    "cooked_yield": "g cooked from 1 g",
}


_LARGEST_FACT = {"density_g_per_ml": 250.0, "refuse_pct": 100.0, "cooked_yield": 12.0}


def _read_fact(line: "LineForm", field_name: str) -> float:
    """What was typed about a food, in the unit it was asked in."""
    wanted = f"Type the {FACT_UNITS[line.fact_name]}."
    return read_number(line.fact, field_name, wanted, largest=_LARGEST_FACT.get(line.fact_name))


def flag_words(line: LineForm) -> str:
    """What is said about a line besides its amount."""
    words = [USES[line.use]] if line.use in USES and line.use else []
    if line.is_discarded:
        words.append("taken out after cooking: counts nothing")
    elif line.is_poured_off:
        words.append("poured off: leaves with what it holds")
    elif line.uptake.strip():
        words.append(f"{line.uptake.strip().rstrip('% ')} % of it stays in the food")
    words += [word for word, on in (("optional", line.is_optional), ("to taste", line.is_to_taste)) if on]
    return " · ".join(words)


class LineReader:
    """Reads lines one by one; facts typed for a food count for its later lines too."""

    def __init__(self, measuring: Measuring, servings: float) -> None:
        self.measuring, self.servings = measuring, servings
        self.facts: dict[str, dict[str, float]] = {}
        self.notes: dict[str, LineNote] = {}

    def read(self, lines: Sequence[LineForm], faults: list[InvalidInput]) -> ReadLines:
        """Lines of one component: those that are understood, and pasted ones that wait for a yes, as they stand."""
        sure, pending = [], []
        for line in lines:
            if line.pasted and (line.doubt or line.food_key not in self.measuring.foods):
                doubt = line.doubt or "no such food is known"
                pending.append(PendingLine(line.id, line.pasted, doubt, line.food_key, line.amount.strip()[:60]))
            elif (read := self.line(line, faults)) is not None:
                sure.append(read)
        return ReadLines(tuple(sure), tuple(pending))

    def line(self, line: LineForm, faults: list[InvalidInput]) -> LineInput | None:
        """A line as input; None, with a fault or a question noted, when it cannot be weighed yet."""
        place = f"line-{line.id}-amount"
        food = self.measuring.foods.get(line.food_key)
        if food is None:
            faults.append(InvalidInput(place, "This food is not known any more.", "Remove the line."))
            return None
        measure = line.measure if line.measure in MEASURES else "weighed"
        if line.is_to_taste and not line.amount.strip():
            self.notes[line.id] = LineNote(working="counts nothing until an amount is typed", flags=flag_words(line))
            use = line.use if line.use in USES else ""
            return LineInput(UUID(line.id), line.food_key, 0.0, "eye", use=use, is_to_taste=True)
        try:
            typed = read_amount(line.amount, place)
            food = self._taught(line, food, faults)
            weighed = self.measuring.weigh(typed, food, measure=measure, field=place)
        except FactMissing as missing:
            unit = FACT_UNITS[missing.fact]
            self.notes[line.id] = LineNote(ask=missing.ask, ask_unit=unit, fact_name=missing.fact)
            if not line.fact.strip():
                faults.append(InvalidInput(f"line-{line.id}-fact", missing.ask, f"Type the {unit}."))
            return None
        except InvalidInput as fault:
            faults.append(fault)
            return None
        uptake = self._uptake(line, faults)
        self.notes[line.id] = self._note(typed, weighed, food, line)
        amount = weighed.amount
        is_plain = typed.kind in (None, "mass") and amount.measure == measure and not typed.state
        own_error = None if is_plain and typed.low == typed.high else amount.standard_error_g
        kept_text = None if typed.kind is None and own_error is None else typed.text[:60]
        return LineInput(
            UUID(line.id),
            line.food_key,
            amount.grams,
            amount.measure,
            kept_text,
            own_error,
            uptake=uptake,
            use=line.use if line.use in USES else "",
            **flags_of(line),
        )

    @staticmethod
    def _uptake(line: LineForm, faults: list[InvalidInput]) -> float:
        """The share that stays in the food, from per cent."""
        if not line.uptake.strip():
            return 1.0
        place = f"line-{line.id}-uptake"
        try:
            share = read_number(line.uptake.rstrip(" %"), place, "Per cent, from 0 to 100.", largest=100) / 100
            if not 0 <= share <= 1:
                raise InvalidInput(place, f"{share * 100:g} % cannot stay in the food.", "From 0 to 100 %.")
        except InvalidInput as fault:
            faults.append(fault)
            return 1.0
        return share

    def _taught(self, line: LineForm, food: Food, faults: list[InvalidInput]) -> Food:
        """The food with what was typed about it in this form."""
        if line.fact.strip() and line.fact_name in FACT_UNITS:
            field_name = f"line-{line.id}-fact"
            try:
                value = _read_fact(line, field_name)
                taught = value / 100 if line.fact_name == "density_g_per_ml" else value
                learned: dict[str, Any] = {line.fact_name: taught}
                wrong = [f for f in check_facts(replace(food, **learned)) if f.field == line.fact_name]
                if wrong:
                    raise InvalidInput(field_name, f"{value:g} {FACT_UNITS[line.fact_name]} is out of range.")
                self.facts.setdefault(food.key, {})[line.fact_name] = taught
            except InvalidInput as fault:
                faults.append(fault)
        known: dict[str, Any] = dict(self.facts.get(food.key, {}))
        return replace(food, **known) if known else food

    def _note(self, typed: TypedAmount, weighed: Weighed, food: Food, line: LineForm) -> LineNote:
        amount = weighed.amount
        slip = state_slip(amount, food, self.servings)
        says_more = weighed.was_converted or weighed.working != f"{plain(amount.grams)} g"
        error = f" ± {grams(amount.standard_error_g)}" if amount.standard_error_g >= 0.95 else ""
        working = f"{weighed.working} = {plain(amount.grams)} g{error}" if says_more else ""
        taught = line.fact_name if line.fact_name in self.facts.get(food.key, {}) else ""
        names_its_measure = typed.kind not in (None, "mass") or typed.is_by_eye or amount.measure != line.measure
        own = amount.measure if names_its_measure else ""
        return LineNote(
            working,
            own_measure=own,
            fact_name=taught,
            ask_unit=FACT_UNITS.get(taught, ""),
            slip=slip.sentence if slip else "",
            flags=flag_words(line),
            slip_amount=f"{grams(amount.grams).replace(',', '')} g cooked" if slip else "",
        )
