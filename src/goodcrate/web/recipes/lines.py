"""Ingredient rows of the recipe form, read against the household's foods."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from operator import is_
from uuid import UUID

from goodcrate.core.foods.food import Food, check_facts
from goodcrate.core.foods.measures import FactMissing, TypedAmount, read_amount
from goodcrate.core.foods.weighed_amounts import Weighed, state_slip
from goodcrate.core.ground.amounts import MEASURES, read_number
from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import WORDS, Saying, say
from goodcrate.core.ground.writing import WRITING, short
from goodcrate.core.recipes.component import USES, PendingLine, flags_of
from goodcrate.services.foods.own_foods import Measuring
from goodcrate.services.recipes.recipe_input import LineInput
from goodcrate.web.figures import grams, plain
from goodcrate.web.recipes.line_form import LineFields, LineForm, LineNote, flag_words


@dataclass(frozen=True)
class ReadLines:
    """The lines of a component as read."""

    sure: tuple[LineInput, ...]
    pending: tuple[PendingLine, ...]


FACT_UNITS = {
    "density_g_per_ml": Saying("g in 100 ml"),
    "each_g": Saying("g each"),
    "pack_g": Saying("g a pack"),
    "serving_g": Saying("g a serving"),
    "refuse_pct": Saying("% waste"),
    "cooked_yield": Saying("g cooked from 1 g"),
}


_LARGEST_FACT = {"density_g_per_ml": 250.0, "refuse_pct": 100.0, "cooked_yield": 12.0}


def _read_fact(line: "LineForm", field_name: str) -> float:
    """What was typed about a food, in the unit it was asked in."""
    wanted = say("Type the {FACT_UNITS}.", FACT_UNITS=FACT_UNITS[line.fact_name])
    return read_number(line.fact, field_name, wanted, largest=_LARGEST_FACT.get(line.fact_name))


@dataclass(frozen=True)
class _ReadBefore:
    around: tuple[object, ...]
    input: LineInput
    note: LineNote


MOST_READ = 2048
"""Rows that are remembered as they were read."""
_READ: dict[tuple[object, ...], _ReadBefore] = {}


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
            if line.pasted and (line.doubt or line.food not in self.measuring.foods):
                doubt = line.doubt or say("no such food is known")
                pending.append(PendingLine(line.id, line.pasted, doubt, line.food, line.amount.strip()[:60]))
            elif (read := self.line(line, faults)) is not None:
                sure.append(read)
        return ReadLines(tuple(sure), tuple(pending))

    def line(self, line: LineForm, faults: list[InvalidInput]) -> LineInput | None:
        """A line as input; None, with a fault or a question noted, when it cannot be weighed yet.

        Of a recipe one row changes at a time: what was read of a row in the same words, of the same food, stands.
        """
        food = self.measuring.foods.get(line.food)
        if food is None or line.fact.strip() or food.key in self.facts:
            return self._read(line, faults)
        asked = (*line.as_sent, food.key, self.servings, self.measuring.convention)
        partner = self.measuring.partners.get(food.key)
        around = (food, partner, self.measuring.table, WRITING.get(), WORDS.get())
        known = _READ.get(asked)
        if known is not None and all(map(is_, known.around, around)):
            self.notes[line.id] = known.note
            return known.input
        faults_before = len(faults)
        read = self._read(line, faults)
        if read is not None and len(faults) == faults_before:
            if len(_READ) >= MOST_READ:
                _READ.clear()
            _READ[asked] = _ReadBefore(around, read, self.notes[line.id])
        return read

    def _read(self, line: LineForm, faults: list[InvalidInput]) -> LineInput | None:
        place = f"line-{line.id}-amount"
        food = self.measuring.foods.get(line.food)
        if food is None:
            faults.append(InvalidInput(place, say("This food is not known any more."), say("Remove the line.")))
            return None
        measure = line.measure if line.measure in MEASURES else "weighed"
        if line.flags.is_to_taste and not line.amount.strip():
            self.notes[line.id] = LineNote(
                working=say("counts nothing until an amount is typed"), flags=flag_words(line)
            )
            use = line.use if line.use in USES else ""
            return LineInput(UUID(line.id), line.food, 0.0, "eye", use=use, is_to_taste=True)
        try:
            typed = read_amount(line.amount, place)
            food = self._taught(line, food, faults)
            weighed = self.measuring.weigh(typed, food, measure=measure, field=place)
        except FactMissing as missing:
            unit = FACT_UNITS[missing.fact]
            self.notes[line.id] = LineNote(ask=missing.ask, ask_unit=unit, fact_name=missing.fact)
            if not line.fact.strip():
                faults.append(InvalidInput(f"line-{line.id}-fact", missing.ask, say("Type the {unit}.", unit=unit)))
            return None
        except InvalidInput as fault:
            faults.append(fault)
            return None
        typed_uptake = bool(line.uptake.strip())  # the model is asked only when there is something to read
        uptake = LineFields.partly(line, f"line-{line.id}-", faults).uptake if typed_uptake else None
        self.notes[line.id] = self._note(typed, weighed, food, line)
        amount = weighed.amount
        is_plain = typed.kind in (None, "mass") and amount.measure == measure and not typed.state
        own_error = None if is_plain and typed.low == typed.high else amount.standard_error_g
        kept_text = None if typed.kind is None and own_error is None else typed.text[:60]
        return LineInput(
            UUID(line.id),
            line.food,
            amount.grams,
            amount.measure,
            kept_text,
            own_error,
            uptake=1.0 if uptake is None else uptake,
            use=line.use if line.use in USES else "",
            **flags_of(line.flags),
        )

    def _taught(self, line: LineForm, food: Food, faults: list[InvalidInput]) -> Food:
        """The food with what was typed about it in this form."""
        if line.fact.strip() and line.fact_name in FACT_UNITS:
            field_name = f"line-{line.id}-fact"
            try:
                value = _read_fact(line, field_name)
                taught = value / 100 if line.fact_name == "density_g_per_ml" else value
                learned: Document = {line.fact_name: taught}
                wrong = [f for f in check_facts(replace(food, **learned)) if f.field == line.fact_name]
                if wrong:
                    unit = FACT_UNITS[line.fact_name]
                    raise InvalidInput(
                        field_name, say("{value} {unit} is out of range.", value=short(value), unit=unit)
                    )
                self.facts.setdefault(food.key, {})[line.fact_name] = taught
            except InvalidInput as fault:
                faults.append(fault)
        known: Document = dict(self.facts.get(food.key, {}))
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
            slip_amount=say("{grams} g cooked", grams=grams(amount.grams).replace(",", "")) if slip else "",
        )
