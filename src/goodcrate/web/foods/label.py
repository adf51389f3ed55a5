"""The label form: a food as it stands on its pack, read live while one types; what was typed is kept."""

from dataclasses import dataclass, field

from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from goodcrate.core.foods.food import (
    ALLERGENS,
    CATALOGUE,
    COOKS_LIKE,
    GROUPS,
    LABEL,
    STATES,
    least_diet,
    usual_cooks_like,
)
from goodcrate.core.foods.label import LabelReading, read_label
from goodcrate.core.foods.label_figures import BASES, FIBRE, FIELDS, PRINTED
from goodcrate.core.ground.amounts import is_ambiguous, read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of, whole_of
from goodcrate.services import household
from goodcrate.services.calling import StaleWrite
from goodcrate.services.foods import labels, own_foods
from goodcrate.services.foods.labels import FoodInput
from goodcrate.services.foods.own_foods import FoodPage
from goodcrate.services.foods.scan import scan
from goodcrate.services.week.weeks import new_id
from goodcrate.web.figures import plain
from goodcrate.web.foods.address import router
from goodcrate.web.foods.tapes import label_tape
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text

MACROS = ("energy_kj", "energy_kcal", "fat_g", "saturated_g", "carbohydrate_g", "sugars_g", "polyols_g", "fibre_g",
          "protein_g", "salt_g", "sodium_mg", "alcohol_g", "alcohol_pct")  # fmt: skip
MICROS = tuple(key for key in PRINTED if key not in MACROS)
GUESS = "guess"
"""The cook leaves it to the name and kind of the food what it cooks like."""
FOOD_DIETS = {
    "plant": "plants only",
    "dairy": "with milk",
    "egg": "with egg",
    "honey": "with honey",
    "fish": "fish, shellfish",
    "meat": "meat",
    "none": "neither (minerals)",
}
SURE_DIETS = {group: GROUPS[group].diet for group in ("meat", "poultry", "fish", "egg")}
"""Kinds that leave no doubt what they are made of."""


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
        label = dict(shown.label or {})
        if not label and shown.is_household and shown.typical is None:
            label = {
                key: _typed_figure(figure)
                for key in MACROS + MICROS
                if key in FIELDS and (figure := food.composition.as_mapping().get(key)) is not None
            }
            label |= {"basis": "100g", "fibre": "inside"}
        origin = shown.typical.key if shown.typical is not None else ""
        row_id = str(new_id()) if origin else food.key
        return cls(
            row_id,
            shown.version,
            origin,
            LABEL,
            food.name,
            food.state,
            group=food.group,
            pack=_plain(food.pack_g),
            price="" if food.price is None else f"{food.price:.2f}",
            barcode=food.barcode or "",
            cooked_yield=_plain(food.cooked_yield),
            note=food.note,
            diet=food.diet,
            cooks_like=food.cooks_like,
            pork=food.contains_pork,
            allergens=set(food.allergens),
            label=label,
        )

    @classmethod
    def of_post(cls, form: FormData) -> "LabelForm":
        """The form as it was sent."""
        version = text(form, "version", "0")
        return cls(
            text(form, "id"),
            whole_of(version) or 0,
            text(form, "origin"),
            CATALOGUE if text(form, "source_kind") == CATALOGUE else LABEL,
            text(form, "name"),
            text(form, "state", "ready"),
            group=text(form, "group"),
            pack=text(form, "pack"),
            price=text(form, "price"),
            barcode=text(form, "barcode"),
            cooked_yield=text(form, "cooked_yield"),
            note=text(form, "note"),
            diet=text(form, "diet"),
            cooks_like=text(form, "cooks_like", GUESS),
            pork=bool(text(form, "pork")),
            allergens={a for a in ALLERGENS if text(form, f"allergen-{a}")},
            label={key: value for key in FIELDS if (value := text(form, key)[:40].strip())},
        )

    def reading(self) -> LabelReading:
        """The label as understood so far."""
        return read_label(self.label)

    @property
    def _sure_diet(self) -> str:
        """What it is made of: as chosen, or as its group has it where all of that is the same."""
        return self.diet or SURE_DIETS.get(self.group, "")

    def _check_choices(self, faults: list[InvalidInput]) -> None:
        if not self.group:
            faults.append(InvalidInput("group", "Choose what kind of food it is.", "It decides how long it keeps."))
        elif self.group not in GROUPS:
            faults.append(InvalidInput("group", f"“{self.group}” is no group.", "Choose one."))
        if not self._sure_diet:
            faults.append(InvalidInput("diet", "What is it made of?", "Choose one: it decides who may get it."))

    def read(self) -> FoodInput:
        """The food to save.

        Raises:
            InvalidInputs: naming every field that cannot be read.
        """
        faults: list[InvalidInput] = []

        def number(
            typed: str, name: str, wanted: str, *, mass: bool = False, largest: float | None = None
        ) -> float | None:
            if not typed.strip():
                return None
            try:
                if mass:
                    return read_grams(typed, name, allow_zero=False)
                return read_number(typed, name, wanted, largest=largest)
            except InvalidInput as fault:
                faults.append(fault)
                return None

        self._check_choices(faults)
        pack = number(self.pack, "pack", "Grams.", mass=True)
        price = number(self.price, "price", "A price, such as 2.40.")
        cooked = number(self.cooked_yield, "cooked_yield", "Grams, such as 2.4.", largest=12)
        cooks_like = self.cooks_like
        if cooks_like == GUESS:
            cooks_like = usual_cooks_like(self.name, self.group, self.state)
        row_id = id_of(self.id) or new_id()
        if faults:
            raise InvalidInputs([*faults, *self.reading().faults])
        return FoodInput(
            row_id,
            self.name,
            self.label,
            self.state,
            self.group,
            frozenset(self.allergens),
            diet=self._sure_diet,
            contains_pork=self.pork,
            cooks_like=cooks_like,
            pack_g=pack,
            price=price,
            barcode=self.barcode,
            cooked_yield=cooked,
            note=self.note,
            origin_key=self.origin_key or None,
            source_kind=self.source_kind,
            version=self.version,
        )


def _typed_figure(figure: float) -> str:
    """A figure as somebody would type it, with one more zero where it could be read as thousands."""
    typed = plain(figure)
    return f"{typed}0" if is_ambiguous(typed) else typed


def _plain(value: float | None) -> str:
    return "" if value is None else plain(value)


FORM_FIELDS = {"name", "group", "state", "diet", "cooks_like", "pack", "price", "barcode", "cooked_yield", *FIELDS}
_SAME_PLACE = {"pack_g": "pack", "serving_g": "basis_g", "density_g_per_ml": "density", "each_g": "basis_g"}


def _faults(error: InvalidInputs) -> Faults:
    moved = [InvalidInput(_SAME_PLACE.get(f.field, f.field), f.problem, f.wanted) for f in error.faults]
    return Faults.of(InvalidInputs(moved), FORM_FIELDS)


def _show(
    request: Request, visitor: Visitor, form: LabelForm, faults: Faults = NO_FAULTS, status: int = 200, notice: str = ""
) -> Response:
    reading = form.reading()
    return page(
        request,
        visitor,
        "foods/label.html",
        "foods",
        status=status,
        form=form,
        faults=faults,
        reading=reading,
        tape=label_tape(form.name, reading),
        per_100=_per_100(reading),
        notice=notice,
        bases=BASES,
        fibre=FIBRE,
        printed=PRINTED,
        micros=MICROS,
        kinds_of_state=STATES,
        groups=GROUPS,
        allergens=ALLERGENS,
        diets=FOOD_DIETS,
        cooks_like=COOKS_LIKE,
        guess=GUESS,
        currency=household.settings(visitor.caller).currency,
        is_taught=True,
    )


def _per_100(reading: LabelReading) -> dict[str, tuple[float | None, float, str]]:
    """Figure, error and unit per 100 g beside each printed line."""
    return {line.key: (line.per_100_g, line.standard_error, line.unit) for line in reading.lines}


@router.get("/new")
def new_food(request: Request, visitor: Signed, name: str = "", barcode: str = "") -> Response:
    """An empty label."""
    return _show(request, visitor, LabelForm(str(new_id()), name=name[:160], barcode=barcode[:14]))


@router.get("/scan")
def scanned(request: Request, visitor: Signed, code: str = "") -> Response:
    """On from a barcode: to the household's food, to the catalogue's label to look over, or to an empty one."""
    try:
        found = scan(visitor.caller, code, request.app.state.catalogue)
    except InvalidInput as fault:
        form = LabelForm(str(new_id()), barcode=code[:20])
        return _show(request, visitor, form, Faults({"barcode": fault.message}), 422)
    if found.food is not None:
        return go(f"/foods/{found.food.key}")
    form = LabelForm(str(new_id()), barcode=found.barcode)
    if found.item is None:
        return _show(request, visitor, form, notice=found.notice)
    item = found.item
    form.name, form.group, form.state, form.pack = item.name, item.group, item.state, item.pack_g
    form.allergens, form.label, form.source_kind = set(item.allergens), dict(item.label), CATALOGUE
    told = least_diet("plant", frozenset(item.allergens))
    form.diet = "" if told == "plant" else told  # milk, egg or fish tell what it is made of; plants are asked about
    return _show(request, visitor, form, notice="From the catalogue. Compare it with the pack in your hand, then save.")


@router.get("/{key}/label")
def edit_label(request: Request, visitor: Signed, key: str) -> Response:
    """A known food's label, or the label that takes the place of a typical food's figures."""
    return _show(request, visitor, LabelForm.of_food(own_foods.food_page(visitor.caller, key)))


@router.post("/label/compute")
def compute(request: Request, visitor: Signed, form: Posted) -> Response:
    """What the label typed so far says; nothing is saved."""
    typed = LabelForm.of_post(form)
    reading = typed.reading()
    by_field = {f.field: f.message for f in reading.faults}
    return fragment(
        "foods/_label_live.html",
        form=typed,
        reading=reading,
        tape=label_tape(typed.name, reading),
        printed=PRINTED,
        per_100=_per_100(reading),
        faults=Faults(by_field),
        is_fragment=True,
    )


@router.post("/label")
def save(request: Request, visitor: Signed, form: Posted) -> Response:
    """Save a food from its label, new or changed."""
    typed = LabelForm.of_post(form)
    try:
        key = labels.save_food(visitor.caller, typed.read())
    except InvalidInputs as error:
        return _show(request, visitor, typed, _faults(error), 422)
    except StaleWrite as error:
        typed.version = error.current_version
        return _show(request, visitor, typed, Faults.of(error), 409)
    return go(f"/foods/{key}")
