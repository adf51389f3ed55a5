"""One component of the recipe form: as typed, and as the service takes it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated
from uuid import UUID

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import LARGEST_POT_G, read_grams
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.same import the_same
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.recipes.component import ALL_OF_IT, Component, StorageChoice
from goodcrate.core.recipes.cooking import COOKED_AS, RAW
from goodcrate.core.recipes.keeping import CONTAINERS, TEXTURES
from goodcrate.services.recipes.library import RecipePage
from goodcrate.services.recipes.recipe_input import MOST_OWN_DAYS, ComponentInput
from goodcrate.web.field_kinds import an_id, one_of, weight, whole
from goodcrate.web.fields import Fields, maybe, reads
from goodcrate.web.figures import plain
from goodcrate.web.recipes.line_form import LineForm
from goodcrate.web.recipes.lines import LineReader
from goodcrate.web.security import Sent

LARGEST_VESSEL_ML = 20_000
FREEZABLE = {"": None, "yes": True, "no": False}
SHOWN = ("name", "cooked", "minimum", "serving", "reheat", "used", "own_days", "days_because")
"""Where the page shows a fault."""


def _millilitres(typed: str, name: str) -> float:
    return read_grams(typed.removesuffix("ml"), name, LARGEST_VESSEL_ML, allow_zero=False)


class ComponentFields(Fields):
    """What is read of a component besides its lines. With `used` it is another recipe's, `serving` g in a serving."""

    name: str = ""
    cooked: Annotated[float | None, maybe(weight(LARGEST_POT_G, allow_zero=False))] = None
    vessel: str = ""
    minimum: Annotated[float | None, maybe(reads(_millilitres))] = None
    keep: str = ""
    freezable: str = ""
    reheat: str = ""
    container: Annotated[str, one_of(CONTAINERS)] = ""
    texture: Annotated[str, one_of(TEXTURES)] = ""
    own_days: Annotated[int | None, maybe(whole(0, MOST_OWN_DAYS))] = None
    days_because: str = ""
    cooked_as: Annotated[str, one_of(("", *COOKED_AS))] = ""
    not_cooked: str = ""
    used: Annotated[UUID | None, maybe(an_id(Saying("This component is not known any more.")))] = None
    serving: Annotated[float | None, maybe(weight(allow_zero=False))] = None

    @property
    def storage(self) -> StorageChoice:
        """How it keeps, as chosen."""
        freezable = FREEZABLE.get(self.freezable)
        because = self.days_because.strip()
        reheat = self.reheat.strip()
        kept = StorageChoice(self.keep, freezable, reheat, self.container, self.texture)
        return replace(kept, own_days=self.own_days, days_because=because)


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
    own_days: str = ""
    days_because: str = ""
    cooked_as: str = ""
    not_cooked: str = ""
    used: str = ""
    serving: str = ""
    pasted: str = ""

    @property
    def key(self) -> str:
        """How core and steps name it."""
        return self.used or self.id

    @property
    def has_choices(self) -> bool:
        """Whether anything about keeping it or its vessel was chosen."""
        chosen = (self.minimum, self.keep, self.freezable, self.reheat, self.container, self.texture, self.own_days)
        return any(chosen)

    @classmethod
    def of_post(cls, form: Sent, component_id: str) -> "ComponentForm":
        """A component as it was sent, without its lines."""
        return cls(component_id, lines=[], **ComponentFields.as_typed(form, f"component-{component_id}-"))

    @classmethod
    def of_component(cls, c: Component, saved: RecipePage, others: Mapping[str, Sequence[Food]]) -> "ComponentForm":
        """A saved component; `others` are foods that its lines not understood yet may mean, by line."""
        if c.is_used:
            return cls(str(saved.links.get(c.key, c.key)), c.name, used=c.key, serving=_shown(c.serving_g))
        lines = [LineForm.of_line(x) for x in c.lines]
        lines += [LineForm.of_pending(p, others.get(p.key, ())) for p in c.pending]
        return cls(
            c.key,
            c.name,
            _shown(c.cooked_g),
            lines,
            c.vessel,
            _shown(c.minimum_ml),
            keep=c.storage.keep_group,
            freezable=next(word for word, meant in FREEZABLE.items() if meant is c.storage.freezable),
            reheat=c.storage.reheat,
            container=c.storage.container,
            texture=c.storage.texture,
            own_days=_shown(c.storage.own_days),
            days_because=c.storage.days_because,
            cooked_as="" if c.cooked_as == RAW else c.cooked_as,
            not_cooked="yes" if c.cooked_as == RAW else "",
        )

    def read(self, reader: LineReader, is_only: bool, faults: list[InvalidInput]) -> ComponentInput:
        """The component as input."""
        place = f"component-{self.id}-"
        read = ComponentFields.partly(self, place, faults)
        name, own_id = read.name.strip(), UUID(self.id)
        if self.used:
            return ComponentInput(own_id, name, used_component_id=read.used, serving_g=read.serving)
        lines = reader.read(self.lines, faults)
        if not name and self.lines and not is_only:
            faults.append(InvalidInput(f"{place}name", say("Each component needs a name."), say("Such as “rice”.")))
        typed = ComponentInput(
            own_id,
            name or (ALL_OF_IT if is_only else ""),
            lines.sure,
            read.cooked,
            read.storage,
            read.vessel,
            minimum_ml=read.minimum,
            pending=lines.pending,
            cooked_as=RAW if read.not_cooked else read.cooked_as,
        )
        return the_same(typed)


def _shown(figure: float | None) -> str:
    return "" if figure is None else plain(figure)
