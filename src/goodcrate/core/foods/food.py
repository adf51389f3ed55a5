"""Foods: a composition per 100 g with the facts around it, and the checks a row must pass."""

from collections.abc import Mapping
from dataclasses import dataclass, field, fields

from goodcrate.core.ground.amounts import LARGEST_LINE_G
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.nutrients import Composition, energy_by_source
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import short, shown

ALLERGENS: Mapping[str, str] = {
    "celery": Saying("celery"),
    "cereals_gluten": Saying("cereals with gluten"),
    "crustaceans": Saying("crustaceans"),
    "egg": Saying("egg"),
    "fish": Saying("fish"),
    "lupin": Saying("lupin"),
    "milk": Saying("milk"),
    "molluscs": Saying("molluscs"),
    "mustard": Saying("mustard"),
    "nuts": Saying("nuts"),
    "peanuts": Saying("peanuts"),
    "sesame": Saying("sesame"),
    "soya": Saying("soya"),
    "sulphites": Saying("sulphites"),
}
"""The 14 allergens to be declared under Regulation (EU) No 1169/2011, Annex II, with a cook's word for each."""

UNKNOWN = "unknown"
"""Among a food's allergens, or as its diet: what it holds is not all known, its label must be read."""
ALLERGEN_WORDS: Mapping[str, str] = {**ALLERGENS, UNKNOWN: Saying("others not known (read the label)")}
REFERENCE, LABEL, CATALOGUE, IMPORTED, COOKED = "reference", "label", "catalogue", "import", "cooked"
"""Where a food's figures come from."""
STATES: Mapping[str, str] = {
    "ready": Saying("ready to eat"),
    "raw": Saying("raw"),
    "dry": Saying("dry"),
    "cooked": Saying("cooked"),
    "canned_drained": Saying("tinned, drained"),
    "canned_whole": Saying("tinned, with its liquid"),
    "frozen": Saying("frozen"),
    "smoked": Saying("smoked"),
}


@dataclass(frozen=True, slots=True)
class FoodGroup:
    """A kind of food, with what a new food of it usually is; each can be changed."""

    label: str
    keep_group: str
    cooked_keep_group: str
    diet: str
    aisle: str


GROUPS: Mapping[str, FoodGroup] = {
    "vegetable": FoodGroup(Saying("vegetable"), "hard_veg", "cooked_veg", "plant", Saying("vegetables")),
    "fruit": FoodGroup(Saying("fruit"), "whole_fruit", "cooked_veg", "plant", Saying("fruit")),
    "grain": FoodGroup(Saying("grain, bread"), "pantry", "cooked_grain", "plant", Saying("grains")),
    "legume": FoodGroup(Saying("beans, lentils"), "pantry", "cooked_legume", "plant", Saying("grains")),
    "soya": FoodGroup(Saying("soya food"), "tofu", "cooked_legume", "plant", Saying("chilled")),
    "poultry": FoodGroup(Saying("poultry"), "raw_poultry", "cooked_poultry", "meat", Saying("butcher")),
    "meat": FoodGroup(Saying("meat"), "raw_meat", "cooked_meat", "meat", Saying("butcher")),
    "fish": FoodGroup(Saying("fish and shellfish"), "raw_fish", "cooked_fish", "fish", Saying("fish counter")),
    "egg": FoodGroup(Saying("egg"), "egg_shell", "egg_boiled", "egg", Saying("eggs")),
    "dairy": FoodGroup(Saying("dairy"), "soft_dairy", "soft_dairy", "dairy", Saying("dairy")),
    "fat": FoodGroup(Saying("oil and fat"), "fat", "fat", "plant", Saying("oils")),
    "nut_seed": FoodGroup(Saying("nuts and seeds"), "nuts", "nuts", "plant", Saying("nuts & seeds")),
    "condiment": FoodGroup(Saying("condiment"), "opened_jar", "opened_jar", "plant", Saying("sauces")),
    "herb": FoodGroup(Saying("fresh herb"), "fresh_herb", "cooked_veg", "plant", Saying("herbs")),
    "spice": FoodGroup(Saying("spice"), "dried_spice", "dried_spice", "plant", Saying("spices")),
    "baking": FoodGroup(Saying("baking"), "pantry", "pantry", "plant", Saying("baking")),
    "sweet": FoodGroup(Saying("sweetener"), "pantry", "pantry", "plant", Saying("baking")),
    "snack": FoodGroup(Saying("snack"), "pantry", "pantry", "plant", Saying("snacks")),
    "drink": FoodGroup(Saying("drink"), "opened_jar", "opened_jar", "plant", Saying("drinks")),
    "supplement": FoodGroup(Saying("supplement"), "pantry", "pantry", "none", Saying("health")),
}
"""The groups of the reference table, with what most of their rows say."""
COOKS_LIKE: Mapping[str, str] = {
    "": Saying("as usual for such food"),
    "rice": Saying("rice: boiled, keeps a day"),
    "grain": Saying("grain, pasta or noodles: boiled"),
    "pulse": Saying("dry beans, peas or lentils: boiled"),
    "flour": Saying("flour: raw until heated"),
    "flakes": Saying("flakes: soaked, boiled or baked"),
}
"""What a food turns into in the pot, in a cook's words; a stored fact of each food."""
DIETS = frozenset({"plant", "dairy", "egg", "honey", "fish", "meat", "none", UNKNOWN})


_TABLES = (Saying("Good Crate reference"), Saying("published: "))


TAP_WATER = frozenset({"water_tap", "water_tap_fdc", "water_well"})
"""Keys of water nobody buys."""


@dataclass(frozen=True, slots=True)
class Food:
    """One food as described by its name: figures are per 100 g of it in its `state`, edible part.

    Of allergens that are `unknown`, alone or after known ones, its label must be read: it is free of nothing; a diet
    that is `unknown` is outside each diet. `cooks_like` is one of `COOKS_LIKE`. `price` is what a pack of `pack_g`
    costs, in the household's currency.
    """

    key: str
    name: str
    state: str
    group: str
    composition: Composition
    allergens: frozenset[str] = field(default_factory=frozenset)
    diet: str = "plant"
    contains_pork: bool = False
    cooks_like: str = ""
    density_g_per_ml: float | None = None
    each_name: str | None = None
    each_g: float | None = None
    refuse_pct: float | None = None
    keep_group: str = "pantry"
    cooked_key: str | None = None
    cooked_yield: float | None = None
    aisle: str = ""
    pack_g: float | None = None
    serving_g: float | None = None
    price: float | None = None
    barcode: str | None = None
    note: str = ""
    source: str = ""

    @property
    def is_of_a_table(self) -> bool:
        """Whether its figures are a table's mean, our own or a national one; else they are a label's."""
        return self.source.startswith(_TABLES)

    @property
    def is_trace_kind(self) -> bool:
        """Whether it is what some cooks leave uncounted: spices, fresh herbs, leaf salad."""
        return self.group in ("spice", "herb") or (self.keep_group == "leafy" and self.state == "raw")

    @property
    def is_water(self) -> bool:
        """Plain water, of which only the bottled kind is bought."""
        return self.key in TAP_WATER or self.key == "water_bottled"

    @property
    def is_liquid(self) -> bool:
        """Liquid enough for dry foods to soak up: water, drinks, milk, stock."""
        if self.group == "drink" or self.keep_group == "milk":
            return True
        is_thin = self.state == "ready" and 0.95 <= (self.density_g_per_ml or 0) <= 1.1
        return is_thin and self.group in ("condiment", "dairy", "soya") and self.keep_group != "soft_dairy"

    @property
    def price_per_100_g(self) -> float | None:
        """What 100 g cost in the household's currency, or None when price or pack are unknown."""
        if self.price is None or not self.pack_g:
            return None
        return self.price * 100 / self.pack_g

    @property
    def needs_cooking_yield(self) -> bool:
        """Raw and dry foods change weight in the pot; for others the weight stands until told otherwise."""
        return self.state in ("raw", "dry")


def cooked_from(food: Food, grams: float) -> float | None:
    """What grams of a raw or dry food weigh cooked; None when its yield is not known."""
    return None if food.cooked_yield is None else grams * food.cooked_yield


def cooked_back(food: Food, grams: float) -> float | None:
    """What grams weighed cooked were before; None when the food's yield is not known."""
    return None if not food.cooked_yield else grams / food.cooked_yield


def bought_for(food: Food, grams: float) -> float | None:
    """What must be bought for grams to eat; None when its waste is not known."""
    return None if food.refuse_pct is None else grams * 100 / (100 - food.refuse_pct)


OF_A_FOOD = tuple(f.name for f in fields(Food) if f.name not in ("key", "group", "composition", "allergens"))
"""What is known of a food besides its figures and what it is: carried by name wherever a food is stored or sent."""


@dataclass(frozen=True, slots=True)
class FoodFact:
    """A number about a food: the words and unit a kitchen is asked in, and from what to what it can be."""

    words: str
    unit: str
    low: float
    high: float


FOOD_FACTS: Mapping[str, FoodFact] = {
    "density_g_per_ml": FoodFact(Saying("weight of 100 ml"), "g", 0.02, 2.5),
    "each_g": FoodFact(Saying("weight of one piece"), "g", 0.05, 6000),
    "refuse_pct": FoodFact(Saying("waste of what is bought"), "%", 0, 95),
    "cooked_yield": FoodFact(Saying("cooked, from 1 g raw or dry"), "g", 0.1, 12),
    "pack_g": FoodFact(Saying("weight of a pack"), "g", 1, 25_000),
    "serving_g": FoodFact(Saying("a serving"), "g", 0.5, 2000),
    "price": FoodFact(Saying("price of a pack"), "", 0, 1_000_000),
}
"""The numbers about a food that a kitchen can teach, by the field that holds them."""
RAW_GROUPS = frozenset(
    {"raw_poultry", "raw_meat", "raw_mince", "raw_fish", "raw_offal", "raw_bacon", "egg_shell", "egg_liquid"}
)
"""Keep groups of raw meat, fish and egg: not to be eaten without heat."""
BOILED = frozenset({"rice", "grain", "pulse"})
"""What is never eaten dry: a recipe that holds it cooks it."""


def is_raw(food: Food) -> bool:
    """Whether a food is raw meat, fish, egg or flour."""
    if food.cooks_like == "flour":
        return food.state in ("raw", "dry")
    return food.keep_group in RAW_GROUPS or (food.state == "raw" and food.group in ("poultry", "meat", "fish", "egg"))


def must_be_cooked(food: Food) -> bool:
    """Whether a food is raw meat, fish, egg or flour, or something that is boiled."""
    return is_raw(food) or food.cooks_like in BOILED


def usual_cooks_like(name: str, group: str, state: str) -> str:
    """What a new food most likely cooks like, by its name and kind: a guess, stored once the food is saved."""
    words = set(words_of(name))
    if group in ("grain", "baking") and words & {"flour", "cornflour", "semolina"}:
        return "flour"
    if group == "grain" and "rice" in words and not words & {"cake", "cracker", "crispbread", "pudding", "milk"}:
        return "rice"
    if group == "grain" and words & {"oat", "flake", "muesli"} and state in ("dry", "ready"):
        return "flakes"
    if state == "dry":
        return {"grain": "grain", "legume": "pulse"}.get(group, "")
    return ""


ANIMAL_ALLERGENS: Mapping[str, str] = {
    "milk": "dairy",
    "egg": "egg",
    "fish": "fish",
    "crustaceans": "fish",
    "molluscs": "fish",
}
"""Allergens that come from animals, with the diet a food that holds them has at least."""


def largest_plausible_g(food: Food) -> float:
    """The most of one food a single ingredient line can sensibly hold, in g: a guard against slips.

    Our own limits: salt, spices, herbs and leavening are used by the gram, everything else by the kilogram.
    """
    if food.group in ("spice", "supplement") or food.key in ("salt", "baking_powder", "yeast_dried"):
        return 500.0
    return LARGEST_LINE_G


ENERGY_TOLERANCE_SHARE, ENERGY_TOLERANCE_KCAL = 0.12, 12.0


def energy_from_macros_kcal(composition: Composition) -> float | None:
    """Energy per 100 g by 4/9/4/2/7, or None when protein, fat or carbohydrate is unknown."""
    if any(composition.get(key) is None for key in ("protein_g", "fat_g", "carbohydrate_g")):
        return None
    return sum(energy_by_source(composition.as_mapping()).values())


def check_food(food: Food) -> tuple[InvalidInput, ...]:
    """Everything that cannot be right in a food's row: its facts, its figures, and its energy against them."""
    return (*check_facts(food), *check_diet(food), *check_figures(food.composition), *check_energy(food.composition))


def check_facts(food: Food) -> tuple[InvalidInput, ...]:
    """What cannot be right around a food's figures: its state, diet, allergens, and facts out of range."""
    faults: list[InvalidInput] = []

    def fault(field_name: str, problem: str, wanted: str = "") -> None:
        faults.append(InvalidInput(field_name, problem, wanted))

    if food.state not in STATES:
        fault(
            "state",
            say("“{state}” is no state of a food.", state=food.state),
            say("One of {STATES}.", STATES=", ".join(sorted(STATES))),
        )
    if food.diet not in DIETS:
        fault(
            "diet",
            say("“{diet}” is no kind of diet.", diet=food.diet),
            say("One of {DIETS}.", DIETS=", ".join(sorted(DIETS))),
        )
    if food.cooks_like not in COOKS_LIKE:
        fault(
            "cooks_like",
            say("“{cooks_like}” is no way of cooking here.", cooks_like=food.cooks_like),
            say("One of {COOKS_LIKE}.", COOKS_LIKE=", ".join(COOKS_LIKE)),
        )
    for allergen in sorted(food.allergens - ALLERGEN_WORDS.keys()):
        fault("allergens", say("“{allergen}” is none of the 14 declared allergens.", allergen=allergen))
    for name, fact in FOOD_FACTS.items():
        value = getattr(food, name)
        if value is not None and not fact.low <= value <= fact.high:
            fault(
                name,
                say("{value} is out of range.", value=short(value)),
                say("From {low} to {high}.", low=short(fact.low), high=short(fact.high)),
            )
    return tuple(faults)


def check_diet(food: Food) -> tuple[InvalidInput, ...]:
    """What a food is said to be made of against its allergens and pork: plants hold no milk, egg or fish."""
    animal = sorted(food.allergens & ANIMAL_ALLERGENS.keys())
    if food.diet in ("plant", "honey") and animal:
        said = say("plants only") if food.diet == "plant" else say("plants and honey")
        problem = say("It is said to be {said}, and holds {ALLERGENS}.", said=said, ALLERGENS=ALLERGENS[animal[0]])
        return (InvalidInput("diet", problem, say("Change the one that is wrong.")),)
    if food.contains_pork and food.diet != "meat":
        return (
            InvalidInput(
                "diet", say("It holds pork, and is not said to be meat."), say("Change the one that is wrong.")
            ),
        )
    return ()


def least_diet(diet: str, allergens: frozenset[str]) -> str:
    """A kind's usual diet, or the one its allergens ask for when it is said to be plants."""
    animal = sorted(allergens & ANIMAL_ALLERGENS.keys())
    return ANIMAL_ALLERGENS[animal[-1]] if animal and diet in ("plant", "honey", "none") else diet


ROUNDED_APART_G = 0.25
"""Labels and tables round each part by itself: so much more than its whole a part may be."""


def check_figures(composition: Composition) -> tuple[InvalidInput, ...]:
    """Figures per 100 g that no food can have: more than pure fat holds, parts over their wholes, over 100 g in all."""
    faults: list[InvalidInput] = []
    figures = composition.as_mapping()

    def fault(field_name: str, problem: str, wanted: str = "") -> None:
        faults.append(InvalidInput(field_name, problem, wanted))

    energy_kcal = figures["energy_kcal"] or 0.0
    if energy_kcal > 902:
        fault(
            "energy_kcal",
            say("{energy_kcal} kcal per 100 g is more than pure fat holds.", energy_kcal=short(energy_kcal)),
        )
    parts = (
        ("sugars_g", "carbohydrate_g"),
        ("fibre_g", "carbohydrate_g"),
        ("polyols_g", "carbohydrate_g"),
        ("saturated_g", "fat_g"),
    )
    for part, whole in parts:
        a, b = figures[part], figures[whole]
        if a is not None and b is not None and a > b + ROUNDED_APART_G:
            fault(
                part,
                say(
                    "{a} g is more than the {whole} of {b} g it is part of.",
                    a=short(a),
                    whole=whole.removesuffix("_g"),
                    b=short(b),
                ),
            )
    solids = sum(figures[key] or 0 for key in ("protein_g", "fat_g", "carbohydrate_g", "alcohol_g"))
    solids += (figures["sodium_mg"] or 0) / 1000
    if solids > 101:
        fault(
            "protein_g",
            say("Protein, fat, carbohydrate, alcohol and sodium come to {solids} g in 100 g.", solids=short(solids)),
        )
    return tuple(faults)


def check_energy(composition: Composition) -> tuple[InvalidInput, ...]:
    """The energy against protein, fat and carbohydrate: queried from 12 % *and* 12 kcal per 100 g apart."""
    computed, stated = energy_from_macros_kcal(composition), composition.get("energy_kcal")
    if computed is None or stated is None or not is_apart(stated, computed):
        return ()
    problem = say(
        "{stated} kcal stands, protein, fat and carbohydrate give {computed} kcal.",
        stated=short(stated),
        computed=shown(computed),
    )
    return (InvalidInput("energy_kcal", problem),)


def is_apart(stated_kcal: float, computed_kcal: float) -> bool:
    """Whether stated and computed energy are further apart than 12 % *and* 12 kcal per 100 g."""
    apart = abs(stated_kcal - computed_kcal)
    return apart > ENERGY_TOLERANCE_KCAL and apart > ENERGY_TOLERANCE_SHARE * max(stated_kcal, computed_kcal)
