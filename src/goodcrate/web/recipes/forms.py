"""The recipe form: typed components, steps and variants, read with every fault at its field; what was typed is kept."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import LARGEST_LINE_G, LARGEST_POT_G, read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import bounded, id_of, whole_of
from goodcrate.core.recipes.keeping import CONTAINERS, TEXTURES
from goodcrate.core.recipes.recipe import Component, StorageChoice, Variant
from goodcrate.core.recipes.steps import LONGEST_STEP_MIN, Step, guess_step
from goodcrate.services.foods.own_foods import Measuring
from goodcrate.services.recipes.library import RecipePage
from goodcrate.services.recipes.recipe_input import ChangeInput, ComponentInput, RecipeInput, VariantInput
from goodcrate.services.week.weeks import new_id
from goodcrate.web.figures import plain
from goodcrate.web.pages import Faults
from goodcrate.web.recipes.lines import LineForm, LineNote, LineReader
from goodcrate.web.security import text

MOST_LOOKS = 40
MOST_REFERENCES = 400
"""Letters in which a step names others."""


@dataclass(frozen=True)
class ReadRecipe:
    """A form as read: the input to compute and save, its faults by place, and what to say at each line."""

    input: RecipeInput
    faults: list[InvalidInput]
    notes: dict[str, LineNote]


@dataclass
class ComponentForm:
    """One component as typed. With `used` it is another recipe's, `serving` of it in a serving."""

    id: str
    name: str = ""
    cooked: str = ""
    lines: list[LineForm] = field(default_factory=list)
    vessel: str = ""
    minimum: str = ""
    keep: str = ""
    freezable: str = ""
    reheat: str = ""
    container: str = ""
    texture: str = ""
    used: str = ""
    serving: str = ""

    @property
    def key(self) -> str:
        """How core and steps name it."""
        return self.used or self.id

    @property
    def has_choices(self) -> bool:
        """Whether anything about keeping it or its vessel was chosen."""
        return bool(self.minimum or self.keep or self.freezable or self.reheat or self.container or self.texture)

    @classmethod
    def of_post(cls, form: FormData, component_id: str) -> "ComponentForm":
        """A component as it was sent, without its lines."""
        p = f"component-{component_id}"
        names = ("vessel", "minimum", "keep", "freezable", "reheat", "container", "texture", "used", "serving")
        return cls(
            component_id,
            text(form, f"{p}-name"),
            text(form, f"{p}-cooked"),
            [],
            **{name: text(form, f"{p}-{name}")[:200] for name in names},
        )

    def read(self, reader: LineReader, is_only: bool, faults: list[InvalidInput]) -> ComponentInput:
        """The component as input."""
        place = f"component-{self.id}"
        if self.used:
            serving_g = _typed(self.serving, f"{place}-serving", faults, LARGEST_LINE_G)
            return ComponentInput(
                UUID(self.id), self.name.strip(), used_component_id=UUID(self.used), serving_g=serving_g
            )
        cooked_g = _typed(self.cooked, f"{place}-cooked", faults, LARGEST_POT_G)
        lines = reader.read(self.lines, faults)
        name = self.name.strip() or ("all of it" if is_only else "")
        if not name and self.lines:
            faults.append(InvalidInput(f"{place}-name", "Each component needs a name.", "Such as “rice”."))
        minimum = _typed(self.minimum, f"{place}-minimum", faults, 20_000)
        freezable = {"yes": True, "no": False}.get(self.freezable)
        container, texture = self.container, self.texture
        if container not in CONTAINERS or texture not in TEXTURES:
            faults.append(InvalidInput(f"{place}-keep", "This container or texture is not known.", "Choose one."))
            container = texture = ""
        storage = StorageChoice(self.keep, freezable, self.reheat.strip(), container, texture)
        return ComponentInput(
            UUID(self.id), name, lines.sure, cooked_g, storage, self.vessel, minimum_ml=minimum, pending=lines.pending
        )


def _typed(value: str, place: str, faults: list[InvalidInput], largest: float) -> float | None:
    """Typed grams or millilitres, None when empty or not to be read."""
    if not value.strip():
        return None
    try:
        return read_grams(bounded(value, place).removesuffix("ml"), place, largest, allow_zero=False)
    except InvalidInput as fault:
        faults.append(fault)
        return None


@dataclass
class StepForm:
    """One step as typed; `after` are numbers of steps, `checks` minutes after its start."""

    id: str
    text: str = ""
    component: str = ""
    equipment: str = ""
    minutes: str = ""
    hands: str = "on"
    temperature: str = ""
    core: str = ""
    after: str = ""
    at_once: bool = False
    checks: str = ""

    @property
    def has_more(self) -> bool:
        """Whether anything of the second row is filled."""
        return bool(self.temperature or self.core or self.checks or self.at_once)

    @classmethod
    def of_post(cls, form: FormData, step_id: str) -> "StepForm":
        """A step as it was sent."""
        p = f"step-{step_id}"
        return cls(
            step_id,
            text(form, f"{p}-text"),
            text(form, f"{p}-component"),
            text(form, f"{p}-equipment"),
            text(form, f"{p}-minutes"),
            text(form, f"{p}-hands", "off") or "off",
            temperature=text(form, f"{p}-temperature"),
            core=text(form, f"{p}-core"),
            after=text(form, f"{p}-after"),
            at_once=bool(text(form, f"{p}-once")),
            checks=text(form, f"{p}-checks"),
        )

    @classmethod
    def of_step(cls, s: Step, numbers: Mapping[str, int]) -> "StepForm":
        """A saved step."""
        low, high = (plain(x) if x is not None else "" for x in (s.low_c, s.high_c))
        return cls(
            s.key,
            s.text,
            s.component_key,
            s.equipment,
            "" if s.duration_min is None else plain(s.duration_min),
            "on" if s.is_hands_on else "off",
            temperature=low if low == high else f"{low}–{high}",
            core=s.core_kind,
            after=", ".join(str(numbers[key]) for key in s.after if key in numbers),
            at_once=s.follows_at_once,
            checks=", ".join(plain(minute) for minute in s.checks_min),
        )

    @property
    def is_empty(self) -> bool:
        """Whether nothing was typed: such a row is no step."""
        return not (self.text.strip() or self.minutes.strip())

    @classmethod
    def of_text(cls, step_id: str, line: str, before: int) -> "StepForm":
        """A pasted line of a method, with what its words suggest."""
        bare = re.sub(r"^(?:\d{1,3}[.)]|[-*•])\s*", "", line.strip())
        form = cls.of_step(guess_step(step_id, bare), {})
        form.after = str(before) if before else ""
        return form

    def read(self, keys: Sequence[str], components: set[str], faults: list[InvalidInput]) -> Step:
        """The step as core knows it; `keys` are all rows' in their order, empty for those that are no step."""
        place = f"step-{self.id}"
        after = []
        for typed in re.findall(r"\d+", self.after[:MOST_REFERENCES]):
            number = whole_of(typed, len(keys))
            if not number:
                faults.append(InvalidInput(f"{place}-after", f"There is no step {typed[:8]}.", f"1 to {len(keys)}."))
            elif keys[number - 1]:
                after.append(keys[number - 1])
        low, high = self._temperatures(place, faults)
        looks = [x for x in re.split(r"[,;\s]+", self.checks) if x]
        if len(looks) > MOST_LOOKS:
            faults.append(InvalidInput(f"{place}-checks", f"{len(looks)} looks are too many.", f"Up to {MOST_LOOKS}."))
        checks = [_number(x, f"{place}-checks", faults) for x in looks[:MOST_LOOKS]]
        minutes = _number(self.minutes, f"{place}-minutes", faults)
        component = self.component if self.component in components else ""
        return Step(
            self.id,
            self.text.strip(),
            component,
            self.equipment,
            minutes,
            self.hands == "on",
            low_c=low,
            high_c=high,
            core_kind=self.core,
            after=tuple(dict.fromkeys(after)),
            follows_at_once=self.at_once,
            checks_min=tuple(x for x in checks if x is not None),
        )

    def _temperatures(self, place: str, faults: list[InvalidInput]) -> tuple[float | None, float | None]:
        try:
            typed = bounded(self.temperature, f"{place}-temperature").replace("°", "").strip(" Cc")
        except InvalidInput as fault:
            faults.append(fault)
            return None, None
        parts = [p for p in re.split(r"\s*(?:–|-|to|bis)\s*", typed) if p]
        if not parts:
            return None, None
        numbers = [_number(p.strip(" Cc"), f"{place}-temperature", faults) for p in parts[:2]]
        return numbers[0], numbers[-1]


def _number(value: str, place: str, faults: list[InvalidInput]) -> float | None:
    if not value.strip():
        return None
    try:
        return read_number(
            re.sub(r"\s*(min|minutes?|h)\.?$", "", bounded(value, place)),
            place,
            "Give minutes, such as 35.",
            largest=LONGEST_STEP_MIN,
        )
    except InvalidInput as fault:
        faults.append(fault)
        return None


@dataclass
class ChangeForm:
    """What a variant does to a line: without a food it is left out."""

    line_id: str
    food_key: str = ""
    amount: str = ""


@dataclass
class VariantForm:
    """One variant as typed."""

    id: str
    name: str = ""
    eaters: list[str] = field(default_factory=list)
    changes: list[ChangeForm] = field(default_factory=list)

    @classmethod
    def of_post(cls, form: FormData, variant_id: str) -> "VariantForm":
        """A variant as it was sent."""
        p = f"variant-{variant_id}"
        eaters = [str(e) for e in form.getlist(f"{p}-eater") if is_id(str(e))]
        changes = [
            ChangeForm(str(x), text(form, f"{p}-line-{x}-food"), text(form, f"{p}-line-{x}-amount"))
            for x in dict.fromkeys(form.getlist(f"{p}-change"))
            if is_id(str(x))
        ]
        return cls(variant_id, text(form, f"{p}-name"), eaters, changes)

    def read(self, line_ids: set[str], faults: list[InvalidInput]) -> VariantInput:
        """The variant as input; changes of lines that are gone fall away."""
        changes = []
        for change in self.changes:
            if change.line_id not in line_ids:
                continue
            grams = 0.0
            if change.food_key:
                place = f"variant-{self.id}-line-{change.line_id}-amount"
                grams = _typed(change.amount, place, faults, LARGEST_LINE_G) or 0.0
            changes.append(ChangeInput(UUID(change.line_id), change.food_key, grams))
        return VariantInput(UUID(self.id), self.name.strip(), tuple(UUID(e) for e in self.eaters), tuple(changes))


_ROWS = frozenset({"component", "line", "step", "variant"})


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

    @classmethod
    def blank(cls) -> "RecipeForm":
        """A new recipe with one empty component."""
        return cls(str(new_id()), components=[ComponentForm(str(new_id()))])

    @classmethod
    def of_page(cls, saved: RecipePage, others: Mapping[str, Sequence[Food]] | None = None) -> "RecipeForm":
        """A saved recipe; `others` are foods that lines not understood yet may mean, by line."""
        components = [_component_form(c, saved, others or {}) for c in saved.recipe.components]
        recipe = saved.recipe
        numbers = {s.key: n for n, s in enumerate(recipe.steps, 1)}
        return cls(
            recipe.key,
            saved.version,
            recipe.name,
            plain(recipe.servings),
            saved.note,
            " ".join(saved.tags),
            components=components,
            steps=[StepForm.of_step(s, numbers) for s in recipe.steps],
            variants=[_variant_form(v) for v in recipe.variants],
            origin=saved.origin,
        )

    @classmethod
    def of_post(cls, form: FormData, recipe_id: str) -> "RecipeForm":
        """The form as it was sent, in the order of the page; what is sent twice is there once."""
        components: list[ComponentForm] = []
        steps: list[StepForm] = []
        variants: list[VariantForm] = []
        there: ComponentForm | None = None
        seen: set[tuple[str, str]] = set()
        for key, value in form.multi_items():
            if key not in _ROWS or not isinstance(value, str) or not is_id(value):
                continue
            if key == "component":
                known = next((c for c in components if c.id == value), None)
                components += [] if known else [ComponentForm.of_post(form, value)]
                there = known or components[-1]
            elif (key, value) in seen:
                continue
            elif key == "line" and there is not None:
                there.lines.append(LineForm.of_post(form, value))
            elif key == "step":
                steps.append(StepForm.of_post(form, value))
            elif key == "variant":
                variants.append(VariantForm.of_post(form, value))
            seen.add((key, value))
        version, edit, shown = text(form, "version", "0"), text(form, "edit", "0"), text(form, "page")
        return cls(
            recipe_id,
            whole_of(version) or 0,
            text(form, "name"),
            text(form, "servings"),
            text(form, "note")[:4000],
            text(form, "tags")[:200],
            components=components,
            steps=steps,
            variants=variants,
            origin=text(form, "origin")[:200],
            page=shown if is_id(shown) else str(new_id()),
            edit=whole_of(edit) or 0,
        )

    @property
    def food_keys(self) -> set[str]:
        """The foods of all lines and variants."""
        keys = {x.food_key for c in self.components for x in c.lines}
        return keys | {x.food_key for v in self.variants for x in v.changes if x.food_key}

    def read(self, measuring: Measuring) -> ReadRecipe:
        """What can be computed from the form, every fault, and the notes; lines that cannot be read are left out."""
        faults: list[InvalidInput] = []
        servings = self._servings(faults)
        reader = LineReader(measuring, servings)
        is_only = len(self.components) == 1
        components = [
            c.read(reader, is_only, faults) for c in self.components if c.lines or c.used or is_only or c.name.strip()
        ]
        tags = tuple(dict.fromkeys(self.tags.lower().replace(",", " ").split()))[:12]
        keys = ["" if s.is_empty else s.id for s in self.steps]
        known = {c.key for c in self.components}
        steps = tuple(s.read(keys, known, faults) for s in self.steps if not s.is_empty)
        line_ids = {x.id for c in self.components for x in c.lines}
        variants = tuple(v.read(line_ids, faults) for v in self.variants)
        typed = RecipeInput(
            UUID(self.id),
            self.name.strip(),
            servings,
            tuple(components),
            self.note.strip(),
            tags,
            version=self.version,
            facts=reader.facts,
            steps=steps,
            variants=variants,
            origin=self.origin,
            page=self.page,
            edit=self.edit,
        )
        return ReadRecipe(typed, faults, reader.notes)

    def _servings(self, faults: list[InvalidInput]) -> float:
        try:
            servings = read_number(self.servings, "servings", "Give how many servings this makes.", largest=100)
            if not 0.5 <= servings <= 100:
                raise InvalidInput("servings", f"{servings:g} servings is not possible.", "Give 0.5 to 100.")
        except InvalidInput as fault:
            faults.append(fault)
            return 1.0
        return servings

    def faults_of(self, faults: Sequence[InvalidInput]) -> Faults:
        """The faults by field; those the page has no field for become the general message."""
        known = {"name", "servings"}
        for c in self.components:
            known |= {f"component-{c.id}-{part}" for part in ("name", "cooked", "minimum", "serving", "reheat", "used")}
            known |= {f"line-{x.id}-{part}" for x in c.lines for part in ("amount", "fact", "uptake")}
        for s in self.steps:
            known |= {f"step-{s.id}-{part}" for part in ("text", "minutes", "temperature", "after", "checks")}
        for v in self.variants:
            known |= {f"variant-{v.id}-{part}" for part in ("name", "eaters", "changes")}
            known |= {f"variant-{v.id}-line-{x.line_id}-amount" for x in v.changes}
        by_field = {f.field: f.message for f in faults if f.field in known}
        return Faults(by_field, " ".join(f.message for f in faults if f.field not in known))


def is_id(value: str) -> bool:
    """Whether a value is an id as our own forms make them."""
    return id_of(value) is not None


def _component_form(c: Component, saved: RecipePage, others: Mapping[str, Sequence[Food]]) -> ComponentForm:
    if c.is_used:
        serving = "" if c.serving_g is None else plain(c.serving_g)
        return ComponentForm(str(saved.links.get(c.key, c.key)), c.name, used=c.key, serving=serving)
    lines = [LineForm.of_line(x) for x in c.lines]
    lines += [LineForm.of_pending(p, others.get(p.key, ())) for p in c.pending]
    return ComponentForm(
        c.key,
        c.name,
        "" if c.cooked_g is None else plain(c.cooked_g),
        lines,
        c.vessel,
        "" if c.minimum_ml is None else plain(c.minimum_ml),
        keep=c.storage.keep_group,
        freezable={None: "", True: "yes", False: "no"}[c.storage.freezable],
        reheat=c.storage.reheat,
        container=c.storage.container,
        texture=c.storage.texture,
    )


def _variant_form(v: Variant) -> VariantForm:
    changes = [
        ChangeForm(x.line_key, x.food.key if x.food else "", plain(x.grams) if x.food else "") for x in v.changes
    ]
    return VariantForm(v.key, v.name, list(v.eater_keys), changes)
