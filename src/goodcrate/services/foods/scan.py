"""Scanning: what stands behind a barcode, in this household first, then in the catalogue, else nothing yet."""

from dataclasses import dataclass

from goodcrate.core.foods.barcodes import is_in_store, read_barcode
from goodcrate.core.foods.food import ALLERGENS, GROUPS, STATES, Food
from goodcrate.core.foods.label_figures import FIELDS
from goodcrate.core.ground.wording import say
from goodcrate.devices.catalogue import Catalogue, CatalogueItem, CatalogueUnavailable
from goodcrate.services.calling import Caller
from goodcrate.services.foods.own_foods import food_by_barcode


@dataclass(frozen=True)
class Scanned:
    """What a scan found: a food of the household, or an item of the catalogue, or neither; `notice` says why not."""

    barcode: str
    food: Food | None = None
    item: CatalogueItem | None = None
    notice: str = ""


def scan(caller: Caller, text: str, catalogue: Catalogue) -> Scanned:
    """Look a scanned barcode up. A catalogue that fails costs nothing but its answer.

    Raises:
        InvalidInput: for digits that are no barcode, or a wrong check digit.
    """
    code = read_barcode(text)
    food = food_by_barcode(caller, code)
    if food is not None:
        return Scanned(code, food)
    try:
        item = catalogue.look_up(code)
    except CatalogueUnavailable as failure:
        return Scanned(code, notice=say("{why} Type the label; the barcode is filled in.", why=failure.why))
    if item is None:
        where = say("An in-store number: it means this only in the shop it is from. ") if is_in_store(code) else ""
        advice = say("Nobody knows this barcode yet. Type the label once, and the next scan finds it.")
        return Scanned(code, notice=where + advice)
    return Scanned(code, item=_usable(item))


def _usable(item: CatalogueItem) -> CatalogueItem:
    """An item with only what we understand: known groups, states, allergens and label fields."""
    return CatalogueItem(
        item.barcode,
        item.name,
        item.group if item.group in GROUPS else "condiment",
        item.state if item.state in STATES else "ready",
        tuple(a for a in item.allergens if a in ALLERGENS),
        item.pack_g,
        label={key: value for key, value in item.label.items() if key in FIELDS},
    )
