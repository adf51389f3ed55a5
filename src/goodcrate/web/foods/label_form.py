"""The label form: a food as it stands on its pack; what was typed is kept."""

from dataclasses import dataclass, field
from typing import Annotated

from starlette.datastructures import FormData

from goodcrate.core.foods.food import ALLERGENS, CATALOGUE, GROUPS, LABEL, least_diet, usual_cooks_like
from goodcrate.core.foods.label import LabelReading, read_label
from goodcrate.core.foods.label_figures import FIELDS, PRINTED
from goodcrate.core.ground.amounts import LARGEST_LINE_G, is_ambiguous
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of, whole_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import coins
from goodcrate.services.foods.labels import FoodInput
from goodcrate.services.foods.own_foods import FoodPage
from goodcrate.services.foods.scan import Scanned
from goodcrate.services.week.weeks import new_id
from goodcrate.web.field_kinds import number, weight
from goodcrate.web.fields import Fields, maybe, reads
from goodcrate.web.figures import plain
from goodcrate.web.security import text

MACROS = ("energy_kj", "energy_kcal", "fat_g", "saturated_g", "carbohydrate_g", "sugars_g", "polyols_g", "fibre_g",
          "protein_g", "salt_g", "sodium_mg", "alcohol_g", "alcohol_pct")  # fmt: skip
MICROS = tuple(key for key in PRINTED if key not in MACROS)
GUESS = "guess"
"""The cook leaves it to the name and kind of the food what it cooks like."""
SURE_DIETS = {group: GROUPS[group].diet for group in ("meat", "poultry", "fish", "egg")}
"""Kinds that leave no doubt what they are made of."""
MOST_COOKED_FROM_1_G = 12
MOST_PRICE = 1_000_000
LONGEST_FIGURE = 40


def _group(typed: str, name: str) -> str:
    if not typed:
        raise InvalidInput(name, say("Choose what kind of food it is."), say("It decides how long it keeps."))
    if typed not in GROUPS:
        raise InvalidInput(name, say("“{typed}” is no group.", typed=typed[:24]), say("Choose one."))
    return typed


class LabelFields(Fields):
    """What is read of a food besides its label's figures."""

    name: str = ""
    state: str = "ready"
    group: Annotated[str, reads(_group)] = ""
    pack: Annotated[float | None, maybe(weight(LARGEST_LINE_G, allow_zero=False))] = None
    price: Annotated[float | None, maybe(number(0, MOST_PRICE, "", Saying("A price, such as 2.")))] = None
    barcode: str = ""
    cooked_yield: Annotated[float | None, maybe(number(0, MOST_COOKED_FROM_1_G, "g", Saying("Grams, such as 2.")))] = (
        None
    )
    note: str = ""
    diet: str = ""
    cooks_like: str = GUESS


@dataclass
class LabelForm:
    """The form as typed. `origin_key` names the reference food the label takes the place of."""

    id: str
    version: int = 0
    origin_key: str = ""
    source_kind: str = LABEL
    name: str = ""
    state: str = "ready"
    group: str = ""
    pack: str = ""
    price: str = ""
    barcode: str = ""
    cooked_yield: str = ""
    note: str = ""
    diet: str = ""
    cooks_like: str = GUESS
    pork: bool = False
    allergens: set[str] = field(default_factory=set)
    label: dict[str, str] = field(default_factory=dict)

    @classmethod
    def of_food(cls, shown: FoodPage) -> "LabelForm":
        """A known food: its label as typed, or its figures per 100 g to type over."""
        food = shown.food
        origin = shown.typical.key if shown.typical is not None else ""
        form = cls(str(new_id()) if origin else food.key, shown.version, origin, label=_label_of(shown))
        for name in ("name", "state", "group", "note", "diet", "cooks_like"):
            setattr(form, name, getattr(food, name))
        form.pack, form.cooked_yield = ("" if x is None else plain(x) for x in (food.pack_g, food.cooked_yield))
        form.price = "" if food.price is None else coins(food.price)
        form.barcode, form.pork, form.allergens = food.barcode or "", food.contains_pork, set(food.allergens)
        return form

    @classmethod
    def of_scan(cls, found: Scanned) -> "LabelForm":
        """A food of the catalogue, to look over; milk, egg or fish tell what it is made of, plants are asked about."""
        item = found.item
        if item is None:
            return cls(str(new_id()), barcode=found.barcode)
        told = least_diet("plant", frozenset(item.allergens))
        return cls(
            str(new_id()),
            name=item.name,
            state=item.state,
            group=item.group,
            pack=item.pack_g,
            barcode=found.barcode,
            source_kind=CATALOGUE,
            diet="" if told == "plant" else told,
            allergens=set(item.allergens),
            label=dict(item.label),
        )

    @classmethod
    def of_post(cls, form: FormData) -> "LabelForm":
        """The form as it was sent."""
        sent = cls(
            text(form, "id"),
            whole_of(text(form, "version", "0")) or 0,
            text(form, "origin"),
            CATALOGUE if text(form, "source_kind") == CATALOGUE else LABEL,
            pork=bool(text(form, "pork")),
            allergens={a for a in ALLERGENS if text(form, f"allergen-{a}")},
            label={key: value for key in FIELDS if (value := text(form, key)[:LONGEST_FIGURE].strip())},
        )
        for name, typed in LabelFields.as_typed(form).items():
            setattr(sent, name, typed if name in form else getattr(sent, name))
        return sent

    def reading(self) -> LabelReading:
        """The label as understood so far."""
        return read_label(self.label)

    def read(self) -> FoodInput:
        """The food to save.

        Raises:
            InvalidInputs: naming every field that cannot be read.
        """
        faults: list[InvalidInput] = []
        read = LabelFields.partly(self, "", faults)
        diet = read.diet or SURE_DIETS.get(self.group, "")  # where all of a group is made of the same
        if not diet:
            faults.append(
                InvalidInput("diet", say("What is it made of?"), say("Choose one: it decides who may get it."))
            )
        if faults:
            raise InvalidInputs([*faults, *self.reading().faults])
        is_guess = read.cooks_like == GUESS
        return FoodInput(
            id_of(self.id) or new_id(),
            read.name,
            self.label,
            read.state,
            read.group,
            frozenset(self.allergens),
            diet=diet,
            contains_pork=self.pork,
            cooks_like=usual_cooks_like(read.name, read.group, read.state) if is_guess else read.cooks_like,
            pack_g=read.pack,
            price=read.price,
            barcode=read.barcode,
            cooked_yield=read.cooked_yield,
            note=read.note,
            origin_key=self.origin_key or None,
            source_kind=self.source_kind,
            version=self.version,
        )


def _label_of(shown: FoodPage) -> dict[str, str]:
    """A food's label as it was typed; of a food of the household without one, its figures per 100 g."""
    label = dict(shown.label or {})
    if label or not shown.is_household or shown.typical is not None:
        return label
    figures = shown.food.composition.as_mapping()
    known = {key: figures.get(key) for key in (*MACROS, *MICROS) if key in FIELDS}
    typed = {key: _typed_figure(figure) for key, figure in known.items() if figure is not None}
    return typed | {"basis": "100g", "fibre": "inside"}


def _typed_figure(figure: float) -> str:
    """A figure as somebody would type it, with one more zero where it could be read as thousands."""
    typed = plain(figure)
    return f"{typed}0" if is_ambiguous(typed) else typed
