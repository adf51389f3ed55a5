"""The recipe form: typed components and lines, read with every fault at its field; what was typed is kept."""

from dataclasses import dataclass, field, replace
from typing import Any
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.amounts import LARGEST_POT_G, MEASURES, read_grams, read_number
from goodcrate.core.errors import InvalidInput
from goodcrate.core.foods import Food, check_facts
from goodcrate.core.measures import FactMissing, TypedAmount, Weighed, read_amount, state_slip
from goodcrate.core.recipes import USES, IngredientLine
from goodcrate.services.foods import Measuring
from goodcrate.services.pasting import MatchedLine
from goodcrate.services.recipe_input import ComponentInput, LineInput, RecipeInput
from goodcrate.services.recipes import RecipePage
from goodcrate.services.week import new_id
from goodcrate.web.figures import grams, plain
from goodcrate.web.pages import Faults
from goodcrate.web.security import text


@dataclass
class LineForm:
    """One ingredient row as typed."""

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
    pasted: str = ""
    doubt: str = ""
    others: tuple[tuple[str, str], ...] = ()

    @property
    def has_flags(self) -> bool:
        """Whether anything but its amount is said about the line."""
        return bool(self.uptake.strip() or self.use or self.is_discarded or self.is_optional or self.is_to_taste)


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


@dataclass(frozen=True)
class ReadRecipe:
    """A form as read: the input to compute and save, its faults by place, and what to say at each line."""

    input: RecipeInput
    faults: list[InvalidInput]
    notes: dict[str, LineNote]


FACT_UNITS = {"density_g_per_ml": "g in 100 ml", "each_g": "g each", "pack_g": "g a pack", "refuse_pct": "% waste",
              "cooked_yield": "g cooked from 1 g"}  # fmt: skip


@dataclass
class ComponentForm:
    """One component as typed."""

    id: str
    name: str = ""
    cooked: str = ""
    lines: list[LineForm] = field(default_factory=list)


@dataclass
class RecipeForm:
    """The whole form as typed, ready to be shown again unchanged."""

    id: str
    version: int = 0
    name: str = ""
    servings: str = "4"
    note: str = ""
    tags: str = ""
    components: list[ComponentForm] = field(default_factory=list)

    @classmethod
    def blank(cls) -> "RecipeForm":
        """A new recipe with one empty component."""
        return cls(str(new_id()), components=[ComponentForm(str(new_id()))])

    @staticmethod
    def pasted_line(matched: MatchedLine) -> LineForm:
        """A row for a pasted line, with what it was taken for."""
        line = matched.line
        return LineForm(
            str(new_id()), matched.food.key if matched.food else "", matched.amount_text, is_optional=line.is_optional,
            is_to_taste=line.is_to_taste, pasted=line.text, doubt="; ".join(matched.doubts),
            others=tuple((food.key, food.name) for food in matched.others),
        )  # fmt: skip

    @classmethod
    def of_page(cls, saved: RecipePage) -> "RecipeForm":
        """A saved recipe."""
        components = [
            ComponentForm(
                c.key, c.name, "" if c.cooked_g is None else plain(c.cooked_g),
                [_line_form(x) for x in c.lines],
            )
            for c in saved.recipe.components
        ]  # fmt: skip
        recipe = saved.recipe
        return cls(
            recipe.key, saved.version, recipe.name, plain(recipe.servings), saved.note, " ".join(saved.tags), components
        )

    @classmethod
    def of_post(cls, form: FormData, recipe_id: str) -> "RecipeForm":
        """The form as it was sent: components and lines in the order of the page."""
        components: list[ComponentForm] = []
        for key, value in form.multi_items():
            if not isinstance(value, str):
                continue
            if key == "component" and _is_id(value):
                name, cooked = text(form, f"component-{value}-name"), text(form, f"component-{value}-cooked")
                components.append(ComponentForm(value, name, cooked))
            elif key == "line" and _is_id(value) and components:
                prefix = f"line-{value}"
                components[-1].lines.append(
                    LineForm(
                        value, text(form, f"{prefix}-food"), text(form, f"{prefix}-amount"),
                        text(form, f"{prefix}-measure", "weighed"), text(form, f"{prefix}-fact"),
                        text(form, f"{prefix}-fact-name"), text(form, f"{prefix}-uptake"), text(form, f"{prefix}-use"),
                        bool(text(form, f"{prefix}-discarded")), bool(text(form, f"{prefix}-optional")),
                        bool(text(form, f"{prefix}-taste")), text(form, f"{prefix}-pasted")[:200],
                        text(form, f"{prefix}-doubt")[:200],
                    )
                )  # fmt: skip
        version = text(form, "version", "0")
        return cls(
            recipe_id, int(version) if version.isdigit() else 0, text(form, "name"), text(form, "servings"),
            text(form, "note")[:4000], text(form, "tags")[:200], components,
        )  # fmt: skip

    @property
    def food_keys(self) -> set[str]:
        """The foods of all lines."""
        return {x.food_key for c in self.components for x in c.lines}

    def read(self, measuring: Measuring) -> ReadRecipe:
        """What can be computed from the form, every fault, and the notes; lines that cannot be read are left out."""
        faults: list[InvalidInput] = []
        servings = self._servings(faults)
        reader = _LineReader(measuring, servings)
        components = []
        for c in self.components:
            cooked_g = None
            if c.cooked.strip():
                try:
                    cooked_g = read_grams(c.cooked, f"component-{c.id}-cooked", LARGEST_POT_G, allow_zero=False)
                except InvalidInput as fault:
                    faults.append(fault)
            lines = [line for line in (reader.line(x, faults) for x in c.lines) if line is not None]
            name = c.name.strip() or ("all of it" if len(self.components) == 1 else "")
            if not name and c.lines:
                faults.append(InvalidInput(f"component-{c.id}-name", "Each component needs a name.", "Such as “rice”."))
            if c.lines or len(self.components) == 1:
                components.append(ComponentInput(UUID(c.id), name, tuple(lines), cooked_g))
        tags = tuple(dict.fromkeys(self.tags.lower().replace(",", " ").split()))[:12]
        typed = RecipeInput(
            UUID(self.id), self.name.strip(), servings, tuple(components), self.note.strip(), tags, self.version,
            reader.facts,
        )  # fmt: skip
        return ReadRecipe(typed, faults, reader.notes)

    def _servings(self, faults: list[InvalidInput]) -> float:
        try:
            servings = read_number(self.servings, "servings", "Give how many servings this makes.")
            if not 0.5 <= servings <= 100:
                raise InvalidInput("servings", f"{servings:g} servings is not possible.", "Give 0.5 to 100.")
        except InvalidInput as fault:
            faults.append(fault)
            return 1.0
        return servings

    def faults_of(self, faults: list[InvalidInput]) -> Faults:
        """The faults by field; those the page has no field for become the general message."""
        known = {"name", "servings"}
        for c in self.components:
            known |= {f"component-{c.id}-name", f"component-{c.id}-cooked"}
            known |= {f"line-{x.id}-{part}" for x in c.lines for part in ("amount", "fact", "uptake", "doubt")}
        by_field = {f.field: f.message for f in faults if f.field in known}
        return Faults(by_field, " ".join(f.message for f in faults if f.field not in known))


def _line_form(x: IngredientLine) -> LineForm:
    return LineForm(
        x.key, x.food.key, x.amount.typed or plain(x.amount.grams), x.amount.measure,
        uptake="" if x.uptake == 1 else plain(x.uptake * 100), use=x.use, is_discarded=x.is_discarded,
        is_optional=x.is_optional, is_to_taste=x.is_to_taste,
    )  # fmt: skip


def _flag_words(line: LineForm) -> str:
    """What is said about a line besides its amount."""
    words = [USES[line.use]] if line.use in USES and line.use else []
    if line.is_discarded:
        words.append("taken out after cooking: counts nothing")
    elif line.uptake.strip():
        words.append(f"{line.uptake.strip().rstrip('% ')} % of it stays in the food")
    words += [word for word, on in (("optional", line.is_optional), ("to taste", line.is_to_taste)) if on]
    return " · ".join(words)


class _LineReader:
    """Reads lines one by one; facts typed for a food count for its later lines too."""

    def __init__(self, measuring: Measuring, servings: float) -> None:
        self.measuring, self.servings = measuring, servings
        self.facts: dict[str, dict[str, float]] = {}
        self.notes: dict[str, LineNote] = {}

    def line(self, line: LineForm, faults: list[InvalidInput]) -> LineInput | None:
        """A line as input; None, with a fault or a question noted, when it cannot be weighed yet."""
        place = f"line-{line.id}-amount"
        food = self.measuring.foods.get(line.food_key)
        if food is None and line.pasted:
            said = f"“{line.pasted}” was not understood: {line.doubt or 'no such food is known'}."
            faults.append(InvalidInput(place, said, "Find the food below and remove this line."))
            return None
        if line.doubt:
            faults.append(
                InvalidInput(f"line-{line.id}-doubt", f"Is this right? {line.doubt.capitalize()}.", "Say yes.")
            )
        if food is None:
            faults.append(InvalidInput(place, "This food is not known any more.", "Remove the line."))
            return None
        measure = line.measure if line.measure in MEASURES else "weighed"
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
            UUID(line.id), line.food_key, amount.grams, amount.measure, kept_text, own_error, uptake,
            line.is_discarded, line.use if line.use in USES else "", line.is_optional, line.is_to_taste,
        )  # fmt: skip

    @staticmethod
    def _uptake(line: LineForm, faults: list[InvalidInput]) -> float:
        """The share that stays in the food, from per cent."""
        if not line.uptake.strip():
            return 1.0
        place = f"line-{line.id}-uptake"
        try:
            share = read_number(line.uptake.rstrip(" %"), place, "Per cent, from 0 to 100.") / 100
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
                value = read_number(line.fact, field_name, f"Type the {FACT_UNITS[line.fact_name]}.")
                taught = value / 100 if line.fact_name == "density_g_per_ml" else value
                learned: dict[str, Any] = {line.fact_name: taught}
                wrong = [f for f in check_facts(replace(food, **learned)) if f.field == line.fact_name]
                if wrong:
                    raise InvalidInput(field_name, f"{value:g} {FACT_UNITS[line.fact_name]} is out of range.")
                self.facts.setdefault(food.key, {})[line.fact_name] = taught
            except InvalidInput as fault:
                faults.append(fault)
        known: dict[str, Any] = dict(self.facts.get(food.key, {}))
        return replace(food, **known)

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
            working, own_measure=own, fact_name=taught, ask_unit=FACT_UNITS.get(taught, ""),
            slip=slip.sentence if slip else "", flags=_flag_words(line),
            slip_amount=f"{grams(amount.grams).replace(',', '')} g cooked" if slip else "",
        )  # fmt: skip


def _is_id(value: str) -> bool:
    try:
        return str(UUID(value)) == value
    except ValueError:
        return False
