"""Hot meals of the shelf."""

from goodcrate.shelf.shelf_recipe import COOL, ShelfRecipe, part
from goodcrate.shelf.shelf_recipe import ShelfStep as S

DINNERS: tuple[ShelfRecipe, ...] = (
    ShelfRecipe(
        "turkey", "Turkey thigh and caraway cabbage pot", 6, ("hot", "freezes"),
        "The fat that gathers on top is skimmed off.",
        (
            part("turkey and cabbage",
                  "turkey_thigh_raw 1200, cabbage_raw 900, onion_raw 200, caraway_seed 8, rapeseed_oil 40, salt 8", "pot"),
            part("swede mash", "swede_raw 800, potato_raw 300, butter_salted 40", "pot"),
        ),
        steps=(
            S("Cut and brown the turkey in the oil", 0, "hob", 14, True),
            S("Sweat onion and cabbage with caraway and salt", 0, "hob", 10, True, (1,)),
            S("Simmer all of it under a lid", 0, "hob", 35, False, (2,), core="poultry", look=20),
            S("Peel, cube and boil swede and potato", 1, "hob", 30, False),
            S("Mash them with the butter", 1, "", 6, True, (4,)),
            S(COOL, -1, "cooling", 45, False, (3, 5)),
        ),
    ),
    ShelfRecipe(
        "beans", "Black-eyed beans with okra and millet", 6, ("hot", "freezes", "plant"),
        "Okra goes in for the last twelve minutes.",
        (
            part("beans and okra",
                  "black_eyed_beans_dry 480, okra_raw 400, tomatoes_canned 400 pack, onion_raw 150, rapeseed_oil 40,"
                  "cumin 6, salt 8", "pot"),
            part("millet", "millet_dry 340", "pot"),
        ),
        steps=(
            S("Soak the beans overnight, pour the water off", 0, "fridge", 720, False),
            S("Sweat the onion with cumin in the oil, add beans, tomatoes and salt", 0, "hob", 10, True, (1,)),
            S("Simmer the beans", 0, "hob", 40, False, (2,), look=20),
            S("Add the okra and simmer on", 0, "hob", 12, False, (3,)),
            S("Swell the millet in twice its water", 1, "hob", 22, False),
            S(COOL, -1, "cooling", 40, False, (4, 5)),
        ),
    ),
    ShelfRecipe(
        "chicken", "Chicken thigh, prune and bulgur tray", 5, ("hot", "freezes"),
        "One half tray for 40 minutes; the bulgur swells beside it.",
        (
            part("chicken and prunes",
                  "chicken_thigh_raw 900, prunes 150, onion_red_raw 200, olive_oil 25, salt 6", "tray"),
            part("bulgur", "bulgur_dry 320, parsley_fresh 20 - at_packing, water_tap 480", "bowl"),
        ),
        steps=(
            S("Cut onion, lay it on the tray with chicken, prunes, oil and salt", 0, "", 10, True),
            S("Roast the tray", 0, "oven", 40, False, (1,), degrees=(180, 200), core="poultry", look=20),
            S("Pour boiling water over the bulgur and let it swell", 1, "", 25, False),
            S("Fold the parsley into the bulgur", 1, "", 3, True, (3,)),
            S(COOL, -1, "cooling", 40, False, (2, 4)),
        ),
    ),
    ShelfRecipe(
        "venison", "Venison and root stew", 6, ("hot", "freezes"),
        "No stock cube goes in: most of them hold celery.",
        (
            part("stew",
                  "venison_raw 1000, carrot_raw 400, parsnip_raw 400, potato_raw 700, onion_raw 200, rapeseed_oil 40,"
                  "tomato_puree 40, salt 8", "pot"),
        ),
        steps=(
            S("Cut and brown the venison in the oil, in two lots", 0, "hob", 18, True),
            S("Cut onion, carrot, parsnip and potato, add them with tomato puree and salt", 0, "", 15, True),
            S("Simmer barely, under a lid, for two hours", 0, "hob", 120, False, (1, 2), core="venison_rabbit", look=60),
            S(COOL, 0, "cooling", 45, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "peasoup", "Split pea and dill soup", 6, ("hot", "freezes", "plant"),
        "Fennel does as well as celery, for whoever must not get that.",
        (
            part("soup",
                  "split_peas_dry 500, carrot_raw 300, leek_raw 200, celery_raw 120, onion_raw 150, rapeseed_oil 30,"
                  "dill_fresh 25 - at_packing, salt 8, water_tap 1500", "pot"),
        ),
        steps=(
            S("Sweat onion, leek, celery and carrot in the oil with the salt", 0, "hob", 12, True),
            S("Add peas and water, simmer until they fall apart", 0, "hob", 45, False, (1,), look=25),
            S("Blend half of it, stir in the dill", 0, "blender", 6, True, (2,)),
            S(COOL, 0, "cooling", 45, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "lamb", "Lamb and aubergine bake", 6, ("hot", "freezes"),
        "The fat that runs out of the mince is poured off.",
        (
            part("bake",
                  "lamb_mince_raw 800, aubergine_raw 900, tomatoes_canned 800 pack, onion_raw 200, potato_raw 500,"
                  "feta 150, salt 6, lard 35 - - poured", "tray", "casserole_bake"),
        ),
        steps=(
            S("Brown the mince with the onion dry, pour the fat off", 0, "hob", 12, True),
            S("Slice aubergine and potato, layer with mince, tomatoes and salt, feta on top", 0, "", 14, True, (1,)),
            S("Bake", 0, "oven", 50, False, (2,), degrees=(175, 190), core="minced_meat", look=25),
            S(COOL, 0, "cooling", 45, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "lentils", "Lentil and mustard pot", 4, ("hot", "freezes", "plant"),
        "Good beside a mash, or with bread.",
        (
            part("lentils",
                  "lentils_green_dry 300, carrot_raw 200, onion_raw 150, rapeseed_oil 25, mustard_smooth 30, salt 5,"
                  "water_tap 650", "pot"),
        ),
        steps=(
            S("Sweat onion and carrot in the oil", 0, "hob", 8, True),
            S("Add lentils, salt and water, simmer until soft", 0, "hob", 30, False, (1,), look=15),
            S("Stir in the mustard", 0, "", 2, True, (2,)),
            S(COOL, -1, "cooling", 40, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "beefbarley", "Beef, carrot and barley pot", 6, ("hot", "freezes"),
        "The barley takes up what the beef gives.",
        (
            part("pot", "beef_stewing_raw 900, pearl_barley_dry 240, carrot_raw 500, onion_raw 200, tomato_puree 60,"
                 "rapeseed_oil 30, salt 9, water_tap 1200", "pot"),
        ),
        steps=(
            S("Cut and brown the beef in the oil, in two lots", 0, "hob", 16, True),
            S("Cut carrot and onion, add them with tomato puree, barley, salt and the water", 0, "", 12, True),
            S("Simmer under a lid until the beef is tender", 0, "hob", 90, False, (1, 2), core="casserole", look=45),
            S(COOL, 0, "cooling", 45, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "spinachrice", "Chickpea and spinach stew with rice", 6, ("hot", "plant"),
        "The rice is cooled fast and eaten first.",
        (
            part("stew", "chickpeas_canned_drained 960, spinach_raw 400, tomatoes_canned 800 pack, onion_raw 200, garlic_raw 10,"
                 "rapeseed_oil 30, cumin 6, salt 6", "pot"),
            part("rice", "rice_basmati_dry 360", "pot"),
        ),
        steps=(
            S("Sweat onion, garlic and cumin in the oil", 0, "hob", 8, True),
            S("Add chickpeas, tomatoes and salt, simmer under a lid", 0, "hob", 20, False, (1,), look=10),
            S("Stir in the spinach until it wilts", 0, "hob", 4, True, (2,)),
            S("Boil the rice in plenty of water, drain it", 1, "hob", 14, False),
            S("Cool stew and rice spread thin, in the fridge within the hour", -1, "cooling", 40, False, (3, 4)),
        ),
    ),
    ShelfRecipe(
        "cod", "Cod with leek and potatoes", 4, ("hot",),
        "The cod goes in at the end and is heated only once more.",
        (
            part("cod and leek", "cod_raw 720, leek_raw 500, potato_raw 800, milk_semi_skimmed 400, butter_salted 25,"
                 "cornflour 15, dill_fresh 10 - at_packing, salt 5", "pot"),
        ),
        steps=(
            S("Sweat the leek in the butter", 0, "hob", 8, True),
            S("Add potatoes, milk, cornflour and salt, simmer under a lid", 0, "hob", 18, False, (1,), look=10),
            S("Lay the cod on top, simmer on under the lid until it flakes", 0, "hob", 10, False, (2,), core="fish"),
            S(COOL, 0, "cooling", 40, False, (3,)),
            S("Chop the dill and strew it over", 0, "", 3, True, (4,)),
        ),
    ),
    ShelfRecipe(
        "salmon", "Salmon, kale and quinoa tray", 4, ("hot",),
        "Everything but the quinoa shares one tray.",
        (
            part("salmon and kale", "salmon_raw 520, kale_raw 300, onion_red_raw 200, olive_oil 15, lemon_juice 30, salt 5", "tray"),
            part("quinoa", "quinoa_dry 240, water_tap 480", "pot"),
        ),
        steps=(
            S("Strip and tear the kale, slice the onion, turn them in oil and salt", 0, "", 8, True),
            S("Roast kale, onion and salmon on a tray", 0, "oven", 18, False, (1,), degrees=(180, 190), core="fish", look=12),
            S("Simmer the quinoa in the water under a lid", 1, "hob", 18, False, look=10),
            S(COOL, -1, "cooling", 35, False, (2, 3)),
            S("Sprinkle the lemon juice over the salmon", 0, "", 1, True, (4,)),
        ),
    ),
    ShelfRecipe(
        "pumpkin", "Red lentil and pumpkin soup", 6, ("hot", "freezes", "plant"),
        "Pumpkin seeds go on top on the day.",
        (
            part("soup", "lentils_red_dry 400, pumpkin_raw 900, onion_raw 200, carrot_raw 200, rapeseed_oil 30, ginger_raw 15,"
                 "cumin 5, salt 9, water_tap 1600", "pot"),
            part("pumpkin seeds", "pumpkin_seeds 90 - on_the_day", container="on_top", texture="crisp"),
        ),
        steps=(
            S("Sweat onion, carrot, ginger and cumin in the oil", 0, "hob", 10, True),
            S("Cube the pumpkin, add it with lentils, salt and the water, simmer under a lid", 0, "hob", 25, False, (1,), look=12),
            S("Blend until smooth", 0, "blender", 5, True, (2,)),
            S(COOL, 0, "cooling", 45, False, (3,)),
            S("Fill the seeds into small pots", 1, "", 2, True),
        ),
    ),
    ShelfRecipe(
        "kidney", "Turkey mince and kidney bean pot", 6, ("hot", "freezes"),
        "As hot as you like it: the paprika is mild.",
        (
            part("pot", "turkey_mince_7_raw 800, kidney_beans_canned_drained 720, tomatoes_canned 800 pack, onion_raw 250,"
                 "sweetcorn_frozen 240, rapeseed_oil 25, paprika_smoked 10, cumin 5, salt 7", "pot"),
        ),
        steps=(
            S("Brown the mince in the oil", 0, "hob", 10, True),
            S("Chop the onion, add it with paprika, cumin and salt, sweat it", 0, "hob", 6, True, (1,)),
            S("Add tomatoes, beans and sweetcorn, simmer under a lid", 0, "hob", 30, False, (2,), core="minced_poultry", look=15),
            S(COOL, 0, "cooling", 45, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "pastabake", "Cauliflower, pasta and cheese bake", 6, ("hot", "freezes"),
        "Lentil pasta does as well and brings more protein.",
        (
            part("bake", "pasta_wholewheat_dry 300, cauliflower_raw 900, cottage_cheese 600, cheddar 180, milk_semi_skimmed 300,"
                 "egg_whole_raw 153 count, mustard_smooth 15, salt 6", "tray", "casserole_bake"),
        ),
        steps=(
            S("Boil pasta and cauliflower in plenty of water, drain them", 0, "hob", 10, True),
            S("Stir cottage cheese, milk, eggs, mustard, salt and half the cheddar, fold all together in a tray", 0, "", 8, True, (1,)),
            S("Strew the rest of the cheddar over", 0, "", 1, True, (2,)),
            S("Bake until golden", 0, "oven", 30, False, (3,), degrees=(180, 195), core="casserole", look=20),
            S(COOL, 0, "cooling", 45, False, (4,)),
        ),
    ),
)  # fmt: skip
