"""One variant of the recipe form, for eaters who get some lines otherwise: as typed, and as the service takes it."""

from dataclasses import dataclass, field
from typing import Annotated
from uuid import UUID

from starlette.datastructures import FormData

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of
from goodcrate.core.recipes.recipe import Variant
from goodcrate.services.recipes.recipe_input import ChangeInput, VariantInput
from goodcrate.web.field_kinds import weight
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.figures import plain


class ChangeFields(Fields):
    """What is read of a change."""

    food: str = ""
    amount: Annotated[float | None, maybe(weight(allow_zero=False))] = None


@dataclass
class ChangeForm:
    """What a variant does to a line: without a food it is left out."""

    line_id: str
    food: str = ""
    amount: str = ""

    def read(self, variant: str, faults: list[InvalidInput]) -> ChangeInput:
        """The change as input; an amount is read only where there is a food."""
        read = ChangeFields.partly(self, f"{variant}line-{self.line_id}-", faults) if self.food else ChangeFields()
        return ChangeInput(UUID(self.line_id), read.food, read.amount or 0.0)


class VariantFields(Fields):
    """What is read of a variant besides its changes."""

    name: str = ""
    eater: tuple[str, ...] = ()
    change: tuple[str, ...] = ()


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
        p = f"variant-{variant_id}-"
        sent = VariantFields.of(form, p)
        changed = [x for x in dict.fromkeys(sent.change) if id_of(x)]
        changes = [ChangeForm(x, **ChangeFields.as_typed(form, f"{p}line-{x}-")) for x in changed]
        return cls(variant_id, sent.name, [e for e in sent.eater if id_of(e)], changes)

    @classmethod
    def of_variant(cls, v: Variant) -> "VariantForm":
        """A saved variant."""
        changes = [
            ChangeForm(x.line_key, x.food.key if x.food else "", plain(x.grams) if x.food else "") for x in v.changes
        ]
        return cls(v.key, v.name, list(v.eater_keys), changes)

    def read(self, line_ids: set[str], faults: list[InvalidInput]) -> VariantInput:
        """The variant as input; changes of lines that are gone fall away."""
        place = f"variant-{self.id}-"
        changes = tuple(change.read(place, faults) for change in self.changes if change.line_id in line_ids)
        return VariantInput(UUID(self.id), self.name.strip(), tuple(UUID(e) for e in self.eaters), changes)
