"""Snacks and sauces of the shelf."""

from goodcrate.shelf.shelf_recipe import COOL, ShelfRecipe, part
from goodcrate.shelf.shelf_recipe import ShelfStep as S

SNACKS_AND_SAUCES: tuple[ShelfRecipe, ...] = (
    ShelfRecipe(
        "rhubarb", "Rhubarb quark pot with toasted oats", 3, ("cold", "snack", "travels"),
        "Oats on the day, so that they stay crisp.",
        (
            part("rhubarb quark", "quark 600, rhubarb_raw 350, honey 45", "pot", "soft_dairy", "jar", texture="wet"),
            part("toasted oats", "rolled_oats_dry 90 - on_the_day", "pan", "pantry", "on_top", texture="crisp"),
        ),
        steps=(
            S("Stew the rhubarb with the honey", 0, "hob", 10, True),
            S("Cool it, then fold into the quark", 0, "cooling", 30, False, (1,)),
            S("Toast the oats dry in the pan", 1, "hob", 7, True),
            S("Let the oats cool before the lid", 1, "cooling", 15, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "date", "Date, walnut and sesame squares", 12, ("cold", "snack", "travels"),
        "Press into a tray, chill, cut into twelve.",
        (
            part("squares", "dates_dried 360, walnuts 180, sesame_seeds 90, rolled_oats_dry 150, honey 30 volume",
                  "blender", "raw_dough_bites", texture="firm"),
        ),
        steps=(
            S("Blend dates, walnuts and oats with the honey, in two lots", 0, "blender", 10, True),
            S("Knead in the sesame, press into a tray", 0, "", 8, True, (1,)),
            S("Chill and cut into twelve", 0, "fridge", 90, False, (2,)),
        ),
    ),
    ShelfRecipe(
        "crunch", "Crisp roast chickpeas", 6, ("cold", "snack", "travels", "plant"),
        "Dry them well before they go into the oven.",
        (
            part("chickpeas", "chickpeas_canned_drained 720, rapeseed_oil 18, paprika_smoked 6, salt 4", "tray", texture="crisp",
                 reheat="eat cold, as they are"),
        ),
        steps=(
            S("Drain the chickpeas, dry them in a cloth, turn them in oil, paprika and salt", 0, "", 8, True),
            S("Roast them on a tray until crisp", 0, "oven", 40, False, (1,), degrees=(190, 200), look=25),
            S("Let them cool on the tray before the lid goes on", 0, "cooling", 30, False, (2,)),
        ),
    ),
    ShelfRecipe(
        "dip", "White bean dip with carrot sticks", 4, ("cold", "snack", "travels", "plant"),
        "The dip goes in its own pot.",
        (
            part("dip", "white_beans_canned_drained 480, tahini 40, lemon_juice 40, garlic_raw 4, salt 3", "blender",
                 "dressed_salad", "pot", texture="wet"),
            part("carrot sticks", "carrot_raw 500", "", "cut_veg", texture="firm"),
        ),
        steps=(
            S("Blend beans, tahini, lemon juice, garlic and salt", 0, "blender", 6, True),
            S("Peel the carrots, cut them into sticks", 1, "", 8, True),
        ),
    ),
    ShelfRecipe(
        "cherry", "Cocoa quark with cherries", 4, ("cold", "snack", "travels"),
        "The cherries give juice: it stays in the jar.",
        (
            part("cocoa quark", "quark 600, milk_semi_skimmed 100, cocoa_powder 25, honey 40, cherries_raw 300", "bowl",
                 "soft_dairy", "jar", texture="wet"),
        ),
        steps=(
            S("Stir quark, milk, cocoa and honey smooth", 0, "", 5, True),
            S("Stone the cherries, layer them with the quark in jars", 0, "", 10, True, (1,)),
        ),
    ),
    ShelfRecipe(
        "tomatosauce", "Tomato and carrot sauce", 8, ("hot", "freezes", "sauce", "plant"),
        "Serve it from another recipe: pasta, fish or a bake.",
        (
            part("sauce", "tomatoes_canned 1200 pack, carrot_raw 300, onion_raw 250, garlic_raw 10, olive_oil 40, thyme_dried 2,"
                 "salt 6", "pot", "soup_stew", "pot", texture="wet"),
        ),
        steps=(
            S("Chop onion, garlic and carrot, sweat them in the oil", 0, "hob", 12, True),
            S("Add tomatoes, thyme and salt, simmer without a lid", 0, "hob", 30, False, (1,), look=15),
            S("Blend until smooth", 0, "blender", 4, True, (2,)),
            S(COOL, 0, "cooling", 40, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "herbsauce", "Herb yoghurt sauce", 8, ("cold", "sauce"),
        "Two spoons make a plain box a meal.",
        (
            part("sauce", "yoghurt_strained_0 500, parsley_fresh 40, dill_fresh 20, chives_raw 20, lemon_juice 30, olive_oil 20,"
                 "garlic_raw 4, salt 4", "bowl", "dressed_salad", "pot", texture="wet"),
        ),
        steps=(
            S("Chop parsley, dill and chives, crush the garlic", 0, "", 8, True),
            S("Stir them into the yoghurt with lemon juice, oil and salt", 0, "", 3, True, (1,)),
        ),
    ),
)  # fmt: skip
