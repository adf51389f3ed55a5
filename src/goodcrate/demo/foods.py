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

LOCK, MARKET = "lock shop", "Saturday market"
PACKS: Mapping[str, tuple[tuple[str, float, float, int], ...]] = {
    "beetroot_raw": ((MARKET, 500, 1.20, 8),),
    "cabbage_raw": ((MARKET, 900, 1.40, 8),),
    "carrot_raw": ((MARKET, 1000, 1.30, 8), (LOCK, 500, 0.95, 4)),
    "cucumber_raw": ((LOCK, 350, 0.85, 4),),
    "fennel_raw": ((MARKET, 300, 1.10, 8),),
    "leek_raw": ((MARKET, 500, 1.60, 8),),
    "onion_raw": ((LOCK, 1000, 1.15, 4),),
    "parsnip_raw": ((MARKET, 500, 1.45, 8),),
    "potato_raw": ((MARKET, 2000, 2.40, 8), (LOCK, 1000, 1.50, 4)),
    "radish_raw": ((MARKET, 200, 0.90, 8),),
    "onion_red_raw": ((LOCK, 750, 1.35, 4),),
    "spring_onion_raw": ((MARKET, 100, 0.75, 8),),
    "swede_raw": ((MARKET, 600, 1.25, 8),),
    "orange_raw": ((LOCK, 1000, 2.20, 4),),
    "pear_raw": ((MARKET, 600, 1.90, 8),),
    "plum_raw": ((MARKET, 400, 1.80, 8),),
    "rhubarb_raw": ((MARKET, 400, 1.70, 8),),
    "dill_fresh": ((MARKET, 20, 0.80, 8),),
    "parsley_fresh": ((MARKET, 30, 0.80, 8),),
    "rye_crispbread": ((LOCK, 250, 1.55, 4),),
    "chicken_thigh_raw": ((LOCK, 500, 4.60, 4),),
    "venison_raw": ((MARKET, 400, 8.90, 8),),
    "trout_raw": ((MARKET, 230, 4.20, 8),),
    "mackerel_smoked": ((MARKET, 200, 3.10, 8),),
    "egg_whole_raw": ((MARKET, 350, 2.20, 8), (LOCK, 580, 3.20, 4)),
    "butter_salted": ((LOCK, 250, 2.45, 4),),
    "milk_semi_skimmed": ((LOCK, 1030, 1.25, 4),),
    "quark": ((LOCK, 500, 2.20, 60), (LOCK, 500, 2.15, 32), (LOCK, 500, 2.05, 4)),
    "yoghurt_strained_0": ((LOCK, 500, 2.30, 4),),
    "tempeh": ((LOCK, 200, 2.60, 4),),
    "rolled_oats_dry": ((LOCK, 500, 1.05, 4), (LOCK, 1000, 1.85, 4)),
    "olive_oil": ((LOCK, 458, 6.40, 32),),
    "butter_beans_canned_drained": ((LOCK, 235, 1.10, 4),),
    "honey": ((MARKET, 340, 4.80, 32),),
}
"""Packs of typical foods as the boat saw them: the shop, what a pack holds (g), its price, and how many days ago."""
