"""The recipe form: typed components, steps and variants, read with every fault at its field; what was typed is kept."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.same import the_same
from goodcrate.core.ground.typed import bounded, id_of, whole_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short
from goodcrate.services.foods.own_foods import Measuring
from goodcrate.services.recipes.library import RecipePage
from goodcrate.services.recipes.recipe_input import RecipeInput
from goodcrate.services.week.weeks import new_id
from goodcrate.web.field_kinds import words
from goodcrate.web.fields import Fields, reads
from goodcrate.web.figures import plain
from goodcrate.web.pages import Faults
from goodcrate.web.recipes import component_form
from goodcrate.web.recipes.component_form import ComponentForm
from goodcrate.web.recipes.line_form import LineForm, LineNote
from goodcrate.web.recipes.lines import LineReader
from goodcrate.web.recipes.step_form import StepForm
from goodcrate.web.recipes.variant_form import VariantForm
from goodcrate.web.security import Sent

LONGEST_NOTE = 4000
MOST_TAGS, LONGEST_TAGS = 12, 200
FEWEST_SERVINGS, MOST_SERVINGS = 0.5, 100.0


def _servings(typed: str, name: str) -> float:
    servings = read_number(typed, name, say("Give how many servings this makes."), largest=MOST_SERVINGS)
    if not FEWEST_SERVINGS <= servings <= MOST_SERVINGS:
        wanted = say(
            "Give {FEWEST_SERVINGS} to {MOST_SERVINGS}.",
            FEWEST_SERVINGS=short(FEWEST_SERVINGS),
            MOST_SERVINGS=short(MOST_SERVINGS),
        )
        raise InvalidInput(name, say("{servings} servings is not possible.", servings=short(servings)), wanted)
    return servings


def _tags(typed: str, name: str) -> tuple[str, ...]:
    return tuple(dict.fromkeys(bounded(typed, name, LONGEST_TAGS).lower().replace(",", " ").split()))[:MOST_TAGS]


class RecipeFields(Fields):
    """What is read of a recipe besides its rows."""

    name: str = ""
    servings: Annotated[float, reads(_servings)] = 1.0
    note: Annotated[str, words(LONGEST_NOTE)] = ""
    tags: Annotated[tuple[str, ...] | None, reads(_tags)] = None
    origin: str = ""
    page: str = ""


@dataclass(frozen=True)
class ReadRecipe:
    """A form as read: the input to compute and save, its faults by place, and what to say at each line."""

    input: RecipeInput
    faults: list[InvalidInput]
    notes: dict[str, LineNote]


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
    steps: list[StepForm] = field(default_factory=list)
    variants: list[VariantForm] = field(default_factory=list)
    origin: str = ""
    page: str = field(default_factory=lambda: str(new_id()))
    edit: int = 0
    method: str = ""

    @classmethod
    def blank(cls) -> "RecipeForm":
        """A new recipe with one empty component."""
        return cls(str(new_id()), components=[ComponentForm(str(new_id()))])

    @classmethod
    def of_page(cls, saved: RecipePage, others: Mapping[str, Sequence[Food]] | None = None) -> "RecipeForm":
        """A saved recipe; `others` are foods that lines not understood yet may mean, by line."""
        recipe = saved.recipe
        numbers = {s.key: n for n, s in enumerate(recipe.steps, 1)}
        return cls(
            recipe.key,
            saved.version,
            recipe.name,
            plain(recipe.servings),
            saved.note,
            " ".join(saved.tags),
            components=[ComponentForm.of_component(c, saved, others or {}) for c in recipe.components],
            steps=[StepForm.of_step(s, numbers) for s in recipe.steps],
            variants=[VariantForm.of_variant(v) for v in recipe.variants],
            origin=saved.origin,
        )

    @classmethod
    def of_post(cls, form: FormData, recipe_id: str) -> "RecipeForm":
        """The form as it was sent, in the order of the page; what is sent twice is there once."""
        sent, last = cls(recipe_id), dict(form)  # a dict answers the hundreds of rows faster than the form
        for name, typed in RecipeFields.as_typed(last).items():
            setattr(sent, name, typed)
        sent.page = sent.page if id_of(sent.page) else str(new_id())
        sent.version, sent.edit = (whole_of(str(form.get(name, "0"))) or 0 for name in ("version", "edit"))
        rows = [(key, value) for key, value in form.multi_items() if isinstance(value, str) and id_of(value)]
        for key, value in dict.fromkeys(rows):
            if key == "component":
                sent.components.append(ComponentForm.of_post(last, value))
            elif key == "step":
                sent.steps.append(StepForm.of_post(last, value))
            elif key == "variant":
                sent.variants.append(VariantForm.of_post(form, value))
        sent._lines_of(last, rows)
        return sent

    def _lines_of(self, form: Sent, rows: Sequence[tuple[str, str]]) -> None:
        """Each line into the component it was sent after."""
        by_id = {c.id: c for c in self.components}
        there: ComponentForm | None = None
        seen: set[str] = set()
        for key, value in rows:
            if key == "component":
                there = by_id[value]
            elif key == "line" and there is not None and value not in seen:
                seen.add(value)
                there.lines.append(LineForm.of_post(form, value))

    @property
    def food_keys(self) -> set[str]:
        """The foods of all lines and variants."""
        keys = {x.food for c in self.components for x in c.lines}
        return keys | {x.food for v in self.variants for x in v.changes if x.food}

    def read(self, measuring: Measuring) -> ReadRecipe:
        """What can be computed from the form, every fault, and the notes; lines that cannot be read are left out."""
        faults: list[InvalidInput] = []
        read = RecipeFields.partly(self, "", faults)
        reader = LineReader(measuring, read.servings)
        is_only = len(self.components) == 1
        there = [c for c in self.components if c.lines or c.used or is_only or c.name.strip()]
        keys = ["" if s.is_empty else s.id for s in self.steps]
        known = {c.key for c in self.components}
        line_ids = {x.id for c in self.components for x in c.lines}
        typed = RecipeInput(
            UUID(self.id),
            read.name.strip(),
            read.servings,
            tuple(c.read(reader, is_only, faults) for c in there),
            read.note.strip(),
            read.tags or (),
            version=self.version,
            facts=reader.facts,
            steps=the_same(tuple(s.read(keys, known, faults) for s in self.steps if not s.is_empty)),
            variants=tuple(v.read(line_ids, faults) for v in self.variants),
            origin=read.origin,
            page=read.page,
            edit=self.edit,
        )
        return ReadRecipe(typed, faults, reader.notes)

    @property
    def confirmed(self) -> Mapping[str, str]:
        """The foods of pasted lines that wait for nothing any more, by the line."""
        lines = (x for c in self.components for x in c.lines)
        return {x.pasted: x.food for x in lines if x.pasted and x.food and not x.doubt}

    def faults_of(self, faults: Sequence[InvalidInput]) -> Faults:
        """The faults by field; those the page has no field for become the general message."""
        known = {"name", "servings"}
        for c in self.components:
            known |= {f"component-{c.id}-{part}" for part in component_form.SHOWN}
            known |= {f"line-{x.id}-{part}" for x in c.lines for part in ("amount", "fact", "uptake")}
        for s in self.steps:
            known |= {f"step-{s.id}-{part}" for part in ("text", "minutes", "temperature", "after", "checks")}
        for v in self.variants:
            known |= {f"variant-{v.id}-{part}" for part in ("name", "eaters", "changes")}
            known |= {f"variant-{v.id}-line-{x.line_id}-amount" for x in v.changes}
        by_field = {f.field: f.message for f in faults if f.field in known}
        return Faults(by_field, " ".join(f.message for f in faults if f.field not in known))
