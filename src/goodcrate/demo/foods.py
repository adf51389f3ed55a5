"""The boat's own foods, typed from made-up labels, and what its kitchen knows of some typical ones.

Barcodes are in-store numbers; prices are in the demo's neutral currency.
"""

from collections.abc import Mapping
from typing import NamedTuple


class DemoFood(NamedTuple):
    """One food as its label stands."""

    key: str
    name: str
    group: str
    state: str
    allergens: tuple[str, ...]
    pack_g: float
    price: float
    barcode: str
    label: Mapping[str, str]


FOODS: tuple[DemoFood, ...] = (
    DemoFood(
        "skyr", "Skyr from the lock shop", "dairy", "ready", ("milk",), 450, price=2.35, barcode="2216288005424",
        label={"basis": "100g", "fibre": "apart", "energy_kj": "264", "energy_kcal": "62", "fat_g": "0.2",
         "saturated_g": "0.1", "carbohydrate_g": "4.0", "sugars_g": "4.0", "fibre_g": "0", "protein_g": "11",
         "salt_g": "0.13"},
    ),
    DemoFood(
        "almonds", "Smoked almonds", "nut_seed", "ready", ("nuts",), 150, price=3.10, barcode="2400011112224",
        label={"basis": "pieces", "pieces": "12", "basis_g": "15", "fibre": "apart", "energy_kcal": "94", "fat_g": "8",
         "saturated_g": "0.6", "carbohydrate_g": "1", "sugars_g": "1", "fibre_g": "2", "protein_g": "3",
         "salt_g": "0.12"},
    ),
    DemoFood(
        "oatdrink", "Oat drink with calcium", "drink", "ready", ("cereals_gluten",), 1000, price=1.60, barcode="2010014000000",
        label={"basis": "100ml", "density": "103", "fibre": "apart", "energy_kj": "188", "energy_kcal": "45", "fat_g": "1.5",
         "saturated_g": "0.2", "carbohydrate_g": "6.6", "sugars_g": "3.2", "fibre_g": "0.8", "protein_g": "0.9",
         "salt_g": "0.10", "calcium_mg": "120"},
    ),
)  # fmt: skip

FACTS: Mapping[str, Mapping[str, float]] = {
    "quark": {"price": 1.15, "pack_g": 250, "serving_g": 125},
    "cottage_cheese": {"price": 1.45, "pack_g": 200, "serving_g": 100},
    "feta": {"price": 2.60, "pack_g": 200, "serving_g": 40},
}
"""Prices, packs and servings of typical foods, as the boat buys them."""
