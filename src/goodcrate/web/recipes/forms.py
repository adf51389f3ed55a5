"""The recipe form: typed components and lines, read with every fault at its field; what was typed is kept."""

from dataclasses import dataclass, field
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.amounts import LARGEST_POT_G, MEASURES, read_grams, read_number
from goodcrate.core.errors import InvalidInput
from goodcrate.services.recipes import ComponentInput, LineInput, RecipeInput, RecipePage
from goodcrate.services.week import new_id
from goodcrate.web.figures import plain
from goodcrate.web.pages import Faults
from goodcrate.web.security import text


@dataclass
class LineForm:
    """One ingredient row as typed."""

    id: str
    food_key: str
    amount: str = ""
    measure: str = "weighed"


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

    @classmethod
    def of_page(cls, saved: RecipePage) -> "RecipeForm":
        """A saved recipe."""
        components = [
            ComponentForm(
                c.key, c.name, "" if c.cooked_g is None else plain(c.cooked_g),
                [LineForm(x.key, x.food.key, plain(x.amount.grams), x.amount.measure) for x in c.lines],
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
                    LineForm(value, text(form, f"{prefix}-food"), text(form, f"{prefix}-amount"),
                             text(form, f"{prefix}-measure", "weighed"))
                )  # fmt: skip
        version = text(form, "version", "0")
        return cls(
            recipe_id, int(version) if version.isdigit() else 0, text(form, "name"), text(form, "servings"),
            text(form, "note")[:4000], text(form, "tags")[:200], components,
        )  # fmt: skip

    def read(self) -> tuple[RecipeInput, list[InvalidInput]]:
        """What can be computed from the form, and every fault. Lines that cannot be read are left out of the input."""
        faults: list[InvalidInput] = []
        components = []
        for c in self.components:
            cooked_g = None
            if c.cooked.strip():
                try:
                    cooked_g = read_grams(c.cooked, f"component-{c.id}-cooked", LARGEST_POT_G, allow_zero=False)
                except InvalidInput as fault:
                    faults.append(fault)
            lines = [line for line in (self._line(x, faults) for x in c.lines) if line is not None]
            name = c.name.strip() or ("all of it" if len(self.components) == 1 else "")
            if not name and c.lines:
                faults.append(InvalidInput(f"component-{c.id}-name", "Each component needs a name.", "Such as “rice”."))
            if c.lines or len(self.components) == 1:
                components.append(ComponentInput(UUID(c.id), name, tuple(lines), cooked_g))
        servings = 1.0
        try:
            servings = read_number(self.servings, "servings", "Give how many servings this makes.")
            if not 0.5 <= servings <= 100:
                raise InvalidInput("servings", f"{servings:g} servings is not possible.", "Give 0.5 to 100.")
        except InvalidInput as fault:
            faults.append(fault)
            servings = 1.0
        tags = tuple(dict.fromkeys(self.tags.lower().replace(",", " ").split()))[:12]
        typed = RecipeInput(
            UUID(self.id), self.name.strip(), servings, tuple(components), self.note.strip(), tags, self.version
        )
        return typed, faults

    @staticmethod
    def _line(line: LineForm, faults: list[InvalidInput]) -> LineInput | None:
        try:
            amount_g = read_grams(line.amount, f"line-{line.id}-amount")
        except InvalidInput as fault:
            faults.append(fault)
            return None
        measure = line.measure if line.measure in MEASURES else "weighed"
        return LineInput(UUID(line.id), line.food_key, amount_g, measure)

    def faults_of(self, faults: list[InvalidInput]) -> Faults:
        """The faults by field; those the page has no field for become the general message."""
        known = {"name", "servings"}
        for c in self.components:
            known |= {f"component-{c.id}-name", f"component-{c.id}-cooked"}
            known |= {f"line-{x.id}-amount" for x in c.lines}
        by_field = {f.field: f.message for f in faults if f.field in known}
        return Faults(by_field, " ".join(f.message for f in faults if f.field not in known))


def _is_id(value: str) -> bool:
    try:
        return str(UUID(value)) == value
    except ValueError:
        return False
