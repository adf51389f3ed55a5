"""Saving foods: from a label, by what a kitchen learns of them, and back to the reference table.

Figures that are replaced are kept, so that recipes made with them can keep them too.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from uuid import UUID, uuid4

from sqlalchemy import select

from goodcrate.core.foods.barcodes import read_barcode
from goodcrate.core.foods.food import (
    FOOD_FACTS,
    GROUPS,
    IMPORTED,
    LABEL,
    REFERENCE,
    Food,
    check_diet,
    check_facts,
    least_diet,
)
from goodcrate.core.foods.label import LabelReading, read_label
from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.core.ground.wording import Saying, say
from goodcrate.db.foods import FoodPastRow, FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller, NotFound, add_once, older_than, saying_again, utc_now
from goodcrate.services.foods.own_foods import food_row, foods_by_key


@dataclass(frozen=True)
class FoodInput:
    """A food as typed from a label. `id` is made by the client; `version` is the one it was read at, 0 for a new one.

    Without a `diet` it is its kind's, or what its allergens ask for. `origin_key` names the reference food the label
    takes the place of: what the label does not print stays typical.
    """

    id: UUID
    name: str
    label: Mapping[str, str]
    state: str = "ready"
    group: str = "condiment"
    allergens: frozenset[str] = frozenset()
    diet: str = ""
    contains_pork: bool = False
    cooks_like: str = ""
    pack_g: float | None = None
    price: float | None = None
    barcode: str = ""
    cooked_yield: float | None = None
    note: str = ""
    origin_key: str | None = None
    source_kind: str = LABEL
    version: int = 0
    facts: Mapping[str, float | None] = field(default_factory=dict)


def save_food(caller: Caller, typed: FoodInput) -> str:
    """Save a food from its label, new or changed, and return its key. Sending a new one twice saves one.

    When figures or yield change, the old ones are kept for the recipes that were made with them.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: for a changed food the household does not have, or an origin nobody knows.
        StaleWrite: when somebody saved a newer version in the meantime.
    """
    reading = read_label(typed.label)
    faults = [*reading.faults, *_check(typed)]
    if not faults and all(figure is None for figure in reading.composition.per_100_g):
        faults.append(
            InvalidInput("energy_kcal", say("No figure is typed yet."), say("Type at least the energy or a nutrient."))
        )
    barcode = None
    if typed.barcode.strip():
        try:
            barcode = read_barcode(typed.barcode)
        except InvalidInput as fault:
            faults.append(fault)
    if faults:
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        row = _row_to_save(session, typed)
        if row is None:
            return str(typed.id)
        food = _food_of(typed, reading, row, barcode)
        wrong = [*check_facts(food), *check_diet(food)]
        if wrong:
            raise InvalidInputs(wrong)
        if barcode is not None:
            _refuse_taken_barcode(session, row, barcode)
        with saying_again(session, older_than("food", row.version, typed.version or None)):
            if put_figures(session, row, food) or row.label != typed.label:
                row.figures_at = utc_now()
            row.label, row.source_kind = dict(typed.label), typed.source_kind
        if typed.version == 0 and typed.origin_key is None:
            add_once(session, row)
        session.flush()
        return row.key


def _row_to_save(session: HouseholdSession, typed: FoodInput) -> FoodRow | None:
    """The row to write to; None when a new one was already saved by an earlier send of the same form."""
    if typed.origin_key is not None:
        row = foods_by_key(session, {typed.origin_key})[typed.origin_key]
    elif typed.version == 0:
        return None if session.find(FoodRow, typed.id) is not None else FoodRow(id=typed.id, source="")
    else:
        found = session.find(FoodRow, typed.id)
        if found is None:
            raise NotFound("food")
        row = found
    return row


_WHENCE = {LABEL: Saying("its label"), IMPORTED: Saying("an imported file")}


def _food_of(typed: FoodInput, reading: LabelReading, row: FoodRow, barcode: str | None) -> Food:
    """The food a label makes: its figures over the typical ones it takes the place of, its facts over those known."""
    before = row.value() if row.source else None
    figures, errors = reading.composition.as_mapping(), list(reading.composition.errors_per_100_g)
    if typed.origin_key is not None:
        typical = reference_foods()[typed.origin_key].composition.as_mapping()
        figures = {key: typical[key] if figures[key] is None else figures[key] for key in KEYS}
    group = GROUPS.get(typed.group)
    keep = "leftovers" if group is None else group.cooked_keep_group if typed.state == "cooked" else group.keep_group
    density = typed.label.get("density", "").strip()
    facts: dict[str, float | None] = {
        "density_g_per_ml": _density(density),
        "each_g": reading.each_g,
        "serving_g": reading.basis_g if typed.label.get("basis") == "serving" else None,
        "pack_g": reading.basis_g if typed.label.get("basis") == "pack" else None,
    }
    known = {name: getattr(before, name) for name in facts} if before else {}
    facts = {name: value if value is not None else known.get(name) for name, value in facts.items()}
    facts |= {name: value for name, value in typed.facts.items() if value is not None}
    return Food(
        key=row.key,
        name=typed.name.strip(),
        state=typed.state,
        group=typed.group,
        composition=Composition(tuple(figures[key] for key in KEYS), tuple(errors), _from_below(reading, figures)),
        allergens=typed.allergens,
        diet=typed.diet or least_diet(group.diet if group else "plant", typed.allergens),
        contains_pork=typed.contains_pork,
        cooks_like=typed.cooks_like,
        density_g_per_ml=facts["density_g_per_ml"],
        each_name=before.each_name if before and before.each_name else ("piece" if facts["each_g"] else None),
        each_g=facts["each_g"],
        refuse_pct=before.refuse_pct if before else None,
        keep_group=before.keep_group if before and before.group == typed.group else keep,
        cooked_key=before.cooked_key if before else None,
        cooked_yield=typed.cooked_yield if typed.cooked_yield is not None else before.cooked_yield if before else None,
        aisle=before.aisle if before else (group.aisle if group else ""),
        pack_g=typed.pack_g if typed.pack_g is not None else facts["pack_g"],
        serving_g=facts["serving_g"],
        price=typed.price,
        barcode=barcode,
        note=typed.note.strip()[:2000],
        source=_WHENCE.get(typed.source_kind, "the stand-in catalogue, checked by you"),
    )


def _from_below(reading: LabelReading, figures: Mapping[str, float | None]) -> frozenset[str]:
    """What the label tells from below only; fibre that a typical food knows makes the printed figure whole."""
    return frozenset() if figures["fibre_g"] is not None else reading.composition.at_least


def _density(typed: str) -> float | None:
    """Grams per ml from the grams of 100 ml, None when none are typed or they cannot be read: the label names that."""
    try:
        return read_number(typed.removesuffix("g").strip(), "density", largest=250) / 100
    except InvalidInput:
        return None


def _check(typed: FoodInput) -> list[InvalidInput]:
    faults = []
    if not typed.name.strip():
        faults.append(
            InvalidInput("name", say("The food needs a name."), say("As it stands on the pack, up to 160 letters."))
        )
    elif len(typed.name) > 160:
        faults.append(
            InvalidInput("name", say("{name} letters are too many.", name=len(typed.name)), say("Up to 160."))
        )
    if typed.origin_key is not None and typed.origin_key not in reference_foods():
        raise NotFound("food")
    return faults


def _refuse_taken_barcode(session: HouseholdSession, row: FoodRow, barcode: str) -> None:
    with session.no_autoflush:
        other = session.scalar(select(FoodRow).where(FoodRow.barcode == barcode, FoodRow.id != row.id))
    if other is not None:
        raise InvalidInputs(
            [
                InvalidInput(
                    "barcode",
                    say("{name} carries this barcode already.", name=other.name),
                    say("Change that food, or scan again."),
                )
            ]
        )


def put_figures(session: HouseholdSession, row: FoodRow, food: Food) -> bool:
    """Take a food's figures and facts over into its row, keeping what figures it replaces; whether figures changed."""
    has_changed = False
    if row.source:  # a row that was only just made has no figures yet
        old, new = row.value(), food
        has_changed = old.composition != new.composition or old.cooked_yield != new.cooked_yield
        if has_changed:
            session.add(FoodPastRow.of(row, uuid4(), utc_now()))
            row.figures_version += 1
            row.figures_at = utc_now()
    row.put(food)
    return has_changed


def remember_facts(caller: Caller, key: str, facts: Mapping[str, float | None], version: int | None = None) -> None:
    """Remember facts of a food for this household; a reference food becomes its own with its origin kept.

    Density is in g per ml, refuse in per cent, yield in g per g, price in the household's currency.

    Raises:
        InvalidInputs: for a fact out of range, by its name.
        NotFound: when nobody knows the food.
        StaleWrite: when somebody changed the food since `version` (0: it was not this kitchen's own yet).
    """
    with caller.transaction() as session:
        own = food_row(session, key)
        current = 0 if own is None else own.version
        with saying_again(session, older_than("food", current, version)):
            learn_facts(session, foods_by_key(session, {key}), {key: facts})


def learn_facts(
    session: HouseholdSession, rows: Mapping[str, FoodRow], facts: Mapping[str, Mapping[str, float | None]]
) -> None:
    """Write facts by food key into rows of the household, inside the caller's transaction.

    Raises:
        InvalidInputs: for a fact out of range, by its name.
    """
    for key, learned in facts.items():
        taught = {name: value for name, value in learned.items() if name in FOOD_FACTS}
        food = replace(rows[key].value(), **taught)  # type: ignore[arg-type]
        wrong = check_facts(food)
        if wrong:
            raise InvalidInputs(wrong)
        put_figures(session, rows[key], food)


def back_to_reference(caller: Caller, key: str) -> None:
    """Give a taken-in food its reference figures again; recipes that kept others keep them.

    Raises:
        NotFound: when the food did not come from the reference table.
    """
    with caller.transaction() as session:
        row = food_row(session, key)
        typical = reference_foods().get(row.origin_key or "") if row is not None else None
        if row is None or typical is None:
            raise NotFound(say("food of the reference table"))
        put_figures(session, row, replace(typical, price=row.price, barcode=row.barcode))
        row.label, row.source_kind = None, REFERENCE
