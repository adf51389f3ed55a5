"""The boat's recipes. Ingredient weights are invented; foods are keys of the reference table.

A recipe is (name, servings, tags, note, components); a component (name, cooked weight in g or None, lines);
a line (food key, g, measure).
"""

from typing import NamedTuple


class DemoLine(NamedTuple):
    """One ingredient."""

    food: str
    grams: float
    measure: str = "weighed"


class DemoComponent(NamedTuple):
    """One component; cooked weight None is left to the foods' yields."""

    name: str
    cooked_g: float | None
    lines: tuple[DemoLine, ...]


class DemoRecipe(NamedTuple):
    """One recipe."""

    key: str
    name: str
    servings: float
    tags: tuple[str, ...]
    note: str
    components: tuple[DemoComponent, ...]


def _lines(text: str) -> tuple[DemoLine, ...]:
    """Lines written as `food grams [measure]`, separated by commas."""
    return tuple(
        DemoLine(word[0], float(word[1]), *word[2:3])
        for word in (part.split() for part in text.split(",") if part.strip())
    )


def _recipe(
    key: str, name: str, servings: float, tags: str, note: str, *components: tuple[str, float | None, str]
) -> DemoRecipe:
    parts = tuple(DemoComponent(part, cooked, _lines(lines)) for part, cooked, lines in components)
    return DemoRecipe(key, name, servings, tuple(tags.split()), note, parts)


RECIPES: tuple[DemoRecipe, ...] = (
    _recipe(
        "mackerel", "Smoked mackerel, beetroot and barley", 4, "cold travels",
        "Flake the mackerel over the cold barley and roast beetroot. The yoghurt travels in its own pot.",
        ("mackerel", None, "mackerel_smoked 360"),
        ("barley and beetroot", 1240, "pearl_barley_dry 220, beetroot_raw 640, spring_onion_raw 40, rapeseed_oil 18 eye"),
        ("horseradish yoghurt", None, "yoghurt_strained_0 200, horseradish_cream 30, dill_fresh 6"),
    ),
    _recipe(
        "turkey", "Turkey thigh and caraway cabbage pot", 6, "hot freezes",
        "Brown the turkey, sweat cabbage and onion with the caraway, simmer with a lid for 35 minutes.",
        ("turkey and cabbage", 1930,
         "turkey_thigh_raw 1200, cabbage_raw 900, onion_raw 200, caraway_seed 8, rapeseed_oil 40, salt 8"),
        ("swede mash", 1100, "swede_raw 800, potato_raw 300, butter_salted 40"),
    ),
    _recipe(
        "beans", "Black-eyed beans with okra and millet", 6, "hot freezes plant",
        "Soak the beans overnight. Okra goes in for the last twelve minutes.",
        ("beans and okra", 2050,
         "black_eyed_beans_dry 480, okra_raw 400, tomatoes_canned 400 pack, onion_raw 150, rapeseed_oil 40, cumin 6, salt 8"),
        ("millet", 930, "millet_dry 340"),
    ),
    _recipe(
        "chicken", "Chicken thigh, prune and bulgur tray", 5, "hot freezes",
        "One half tray for 40 minutes at 190 °C; the bulgur swells beside it.",
        ("chicken and prunes", 1010, "chicken_thigh_raw 900, prunes 150, onion_red_raw 200, olive_oil 25, salt 6"),
        ("bulgur", 800, "bulgur_dry 320, parsley_fresh 20"),
    ),
    _recipe(
        "venison", "Venison and root stew", 6, "hot freezes",
        "Two hours at a bare simmer. No stock cube: Oskar must not get celery.",
        ("stew", 2300,
         "venison_raw 1000, carrot_raw 400, parsnip_raw 400, potato_raw 700, onion_raw 200, rapeseed_oil 40,"
         "tomato_puree 40, salt 8"),
    ),
    _recipe(
        "leek", "Leek and quark oven slice", 6, "cold hot travels",
        "Bake in one half tray for 45 minutes at 180 °C, cut cold.",
        ("slice", 1520,
         "leek_raw 700, quark 750, egg_whole_raw 300 count, oat_flour 160, cheddar 180, rapeseed_oil 20, salt 6"),
    ),
    _recipe(
        "buckwheat", "Buckwheat porridge with pear and hazelnut", 4, "hot breakfast",
        "Cook the buckwheat in the milk; pear and nuts go on top.",
        ("porridge", 1150, "buckwheat_dry 240, milk_semi_skimmed 1000"),
        ("pear and hazelnuts", None, "pear_raw 400, hazelnuts 80"),
    ),
    _recipe(
        "rye", "Rye flakes soaked with plums", 3, "cold breakfast travels",
        "Add the milk the night before.",
        ("soaked rye", None, "rye_flakes_dry 180, milk_semi_skimmed 480, yoghurt_strained_0 300, plum_raw 300, sunflower_seeds 36"),
    ),
    _recipe(
        "butterbean", "Butter bean, fennel and orange box", 7, "cold travels plant",
        "Slice the fennel thinly; the dressing goes in its own pot.",
        ("beans and fennel", None,
         "butter_beans_canned_drained 1400, fennel_raw 700, orange_raw 560, feta 350, parsley_fresh 30"),
        ("dressing", None, "olive_oil 105, lemon_juice 70, mustard_smooth 14"),
    ),
    _recipe(
        "peasoup", "Split pea and dill soup", 6, "hot freezes plant",
        "Forty-five minutes until the peas fall apart; dill at the end.",
        ("soup", 2700, "split_peas_dry 500, carrot_raw 300, leek_raw 200, onion_raw 150, rapeseed_oil 30, dill_fresh 25, salt 8"),
    ),
    _recipe(
        "rhubarb", "Rhubarb quark pot with toasted oats", 3, "cold snack travels",
        "Oats on the day, so that they stay crisp.",
        ("rhubarb quark", 940, "quark 600, rhubarb_raw 350, honey 45"),
        ("toasted oats", 84, "rolled_oats_dry 90"),
    ),
    _recipe(
        "date", "Date, walnut and sesame squares", 12, "cold snack travels",
        "Press into a tray, chill, cut into twelve.",
        ("squares", 790, "dates_dried 360, walnuts 180, sesame_seeds 90, rolled_oats_dry 150, honey 30 volume"),
    ),
    _recipe(
        "trout", "Trout flakes with millet and horseradish cream", 4, "cold travels",
        "Leaves are added on the day.",
        ("trout", 470, "trout_raw 560, rapeseed_oil 10"),
        ("millet and cucumber", 1060, "millet_dry 260, cucumber_raw 350, radish_raw 120"),
        ("horseradish cream", None, "quark 160, horseradish_cream 60"),
        ("leaves", None, "rocket_raw 80"),
    ),
    _recipe(
        "tempeh", "Tempeh and red cabbage box", 3, "cold travels plant",
        "Fry the tempeh dry, then glaze it with the tamari.",
        ("tempeh", 430, "tempeh 450, tamari 30, rapeseed_oil 12"),
        ("cabbage and rice", 1050, "cabbage_raw 420, rice_brown_dry 200, carrot_raw 150, lime_juice 20"),
    ),
    _recipe(
        "lamb", "Lamb and aubergine bake", 6, "hot freezes",
        "Brown the mince, layer, bake for 50 minutes at 180 °C.",
        ("bake", 2250,
         "lamb_mince_raw 800, aubergine_raw 900, tomatoes_canned 800 pack, onion_raw 200, potato_raw 500, feta 150, salt 6"),
    ),
    _recipe(
        "cottage", "Cottage cheese, radish and rye crispbread box", 4, "cold travels",
        "The crispbread stays apart.",
        ("cottage cheese and eggs", None,
         "cottage_cheese 1000, egg_hard_boiled 400 count, radish_raw 240, spring_onion_raw 40, dill_fresh 8"),
        ("crispbread", None, "rye_crispbread 240 pack"),
    ),
)  # fmt: skip
