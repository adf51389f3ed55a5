"""Cold boxes of the shelf: they travel and are eaten cold."""

from goodcrate.shelf.shelf_recipe import COOL, ShelfRecipe, part
from goodcrate.shelf.shelf_recipe import ShelfStep as S

COLD_BOXES: tuple[ShelfRecipe, ...] = (
    ShelfRecipe(
        "mackerel", "Smoked mackerel, beetroot and barley", 4, ("cold", "travels"),
        "The yoghurt travels in its own pot.",
        (
            part("mackerel", "mackerel_smoked 360"),
            part("barley and beetroot",
                  "pearl_barley_dry 220, beetroot_raw 640, spring_onion_raw 40, rapeseed_oil 18 eye", "pot"),
            part("horseradish yoghurt", "yoghurt_strained_0 200, horseradish_cream 30, dill_fresh 6", "bowl",
                  container="pot", texture="wet"),
        ),
        steps=(
            S("Boil the barley until tender", 1, "hob", 35, False),
            S("Cube the beetroot, turn it in the oil and roast it", 1, "oven", 40, False, (), degrees=(180, 200), look=20),
            S("Drain the barley, fold in beetroot and spring onion", 1, "", 6, True, (1, 2)),
            S(COOL, 1, "cooling", 40, False, (3,)),
            S("Stir yoghurt, horseradish and dill", 2, "", 4, True),
            S("Flake the mackerel", 0, "", 6, True),
        ),
    ),
    ShelfRecipe(
        "leek", "Leek and quark oven slice", 6, ("cold", "hot", "travels"),
        "Cut cold.",
        (
            part("slice",
                  "leek_raw 700, quark 750, egg_whole_raw 306 count, oat_flour 160, cheddar 180, rapeseed_oil 20, salt 6",
                  "tray", "egg_bake"),
        ),
        steps=(
            S("Sweat the leek in the oil", 0, "hob", 10, True),
            S("Stir quark, eggs, oat flour, cheddar and salt, fold in the leek", 0, "", 8, True, (1,)),
            S("Bake in a half tray", 0, "oven", 45, False, (2,), degrees=(170, 185), core="egg_dishes", look=30),
            S("Cool in the tray, then cut", 0, "cooling", 45, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "butterbean", "Butter bean, fennel and orange box", 7, ("cold", "travels", "plant"),
        "The dressing goes in its own pot.",
        (
            part("beans and fennel",
                  "butter_beans_canned_drained 1400, fennel_raw 700, orange_raw 560, feta 350, parsley_fresh 30", "bowl",
                  "undressed_salad", texture="firm"),
            part("dressing", "olive_oil 105, lemon_juice 70, mustard_smooth 14", "", "dressed_salad", "pot", texture="wet"),
        ),
        steps=(
            S("Drain the beans, slice fennel thinly, fillet the orange, crumble the feta, chop parsley", 0, "", 22, True),
            S("Whisk oil, lemon juice and mustard", 1, "", 4, True),
        ),
    ),
    ShelfRecipe(
        "trout", "Trout flakes with millet and horseradish cream", 4, ("cold", "travels"),
        "Leaves are added on the day.",
        (
            part("trout", "trout_raw 560, rapeseed_oil 10", "tray"),
            part("millet and cucumber", "millet_dry 260, cucumber_raw 350, radish_raw 120", "pot"),
            part("horseradish cream", "quark 160, horseradish_cream 60", "", "", "pot", texture="wet"),
            part("leaves", "rocket_raw 80 - on_the_day", "", "", "on_top", texture="leaves"),
        ),
        steps=(
            S("Oil the trout and bake it", 0, "oven", 15, False, (), degrees=(170, 190), core="fish"),
            S("Swell the millet in twice its water", 1, "hob", 22, False),
            S("Slice cucumber and radish", 1, "", 8, True),
            S("Cool trout and millet, lids off, then flake the trout, fold cucumber and radish in", -1, "cooling", 35, False, (1, 2, 3)),
            S("Stir quark and horseradish", 2, "", 3, True),
            S("Wash and dry the leaves, pack them apart", 3, "", 4, True),
        ),
    ),
    ShelfRecipe(
        "tempeh", "Tempeh and red cabbage box", 3, ("cold", "travels", "plant"),
        "The rice is cooled fast.",
        (
            part("tempeh", "tempeh 450, tamari 30, rapeseed_oil 12", "pan", "tofu"),
            part("cabbage and rice", "cabbage_raw 420, rice_brown_dry 200, carrot_raw 150, lime_juice 20", "pot"),
        ),
        steps=(
            S("Slice and fry the tempeh in the oil, glaze it with the tamari", 0, "hob", 12, True),
            S("Boil the rice in plenty of water, drain it", 1, "hob", 32, False),
            S("Shred cabbage and carrot, turn them in lime juice", 1, "", 10, True),
            S("Cool tempeh and rice spread thin, in the fridge within the hour", -1, "cooling", 30, False, (1, 2, 3)),
        ),
    ),
    ShelfRecipe(
        "cottage", "Cottage cheese, radish and rye crispbread box", 4, ("cold", "travels"),
        "The crispbread stays apart.",
        (
            part("cottage cheese and eggs",
                  "cottage_cheese 1000, egg_hard_boiled 400 count, radish_raw 240, spring_onion_raw 40, dill_fresh 8",
                  "bowl", "sandwich_filling", texture="wet"),
            part("crispbread", "rye_crispbread 240 pack", container="on_top", texture="crisp"),
        ),
        steps=(
            S("Slice eggs, radish and spring onion, stir them with cottage cheese and dill", 0, "", 14, True),
            S("Count out the crispbread into bags", 1, "", 3, True),
        ),
    ),
    ShelfRecipe(
        "chickpea", "Chickpea, roast carrot and bulgur box", 4, ("cold", "travels", "plant"),
        "The sesame sauce goes in its own pot.",
        (
            part("carrots and bulgur", "carrot_raw 600, chickpeas_canned_drained 480, bulgur_dry 200, water_tap 320,"
                 "olive_oil 20, cumin 4, salt 4", "tray"),
            part("sesame sauce", "tahini 80, lemon_juice 60, water_tap 60, garlic_raw 4", "bowl", "dressed_salad", "pot",
                 texture="wet"),
        ),
        steps=(
            S("Slice the carrots, turn them in oil, cumin and salt and roast them", 0, "oven", 30, False, (),
              degrees=(190, 200), look=18),
            S("Bring the water to the boil, pour it over the bulgur and let it swell under a lid", 0, "hob", 20, False),
            S("Fold chickpeas, carrots and bulgur together", 0, "", 4, True, (1, 2)),
            S(COOL, 0, "cooling", 30, False, (3,)),
            S("Stir tahini, lemon juice, water and crushed garlic", 1, "", 5, True),
        ),
    ),
    ShelfRecipe(
        "greenbean", "Chicken, green bean and potato box", 4, ("cold", "travels"),
        "Sliced when cold, so that it stays moist.",
        (
            part("chicken", "chicken_breast_raw 640, rapeseed_oil 15, paprika 4, salt 4", "tray"),
            part("beans and potatoes", "potato_raw 800, green_beans_raw 400, spring_onion_raw 40 - at_packing", "pot"),
            part("mustard dressing", "yoghurt_strained_0 160, mustard_smooth 30, rapeseed_oil 30, lemon_juice 20", "bowl",
                 "dressed_salad", "pot", texture="wet"),
        ),
        steps=(
            S("Rub the chicken with oil, paprika and salt and bake it", 0, "oven", 25, False, (), degrees=(180, 190),
              core="poultry", look=18),
            S("Boil the potatoes, add the beans for the last eight minutes, drain", 1, "hob", 25, False),
            S("Cool chicken, potatoes and beans, lids off", -1, "cooling", 35, False, (1, 2)),
            S("Slice the chicken", 0, "", 4, True, (3,)),
            S("Cut the potatoes and the spring onion", 1, "", 6, True, (3,)),
            S("Stir yoghurt, mustard, oil and lemon juice", 2, "", 4, True),
        ),
    ),
    ShelfRecipe(
        "tuna", "Tuna, white bean and tomato box", 4, ("cold", "travels"),
        "The tins’ liquid is poured off first.",
        (
            part("tuna and beans", "tuna_canned_water 420 pack, white_beans_canned_drained 720, tomato_cherry_raw 400,"
                 "onion_red_raw 80, parsley_fresh 20", "bowl", "sandwich_filling", texture="firm"),
            part("lemon oil", "olive_oil 60, lemon_juice 40, salt 3", "", "dressed_salad", "pot", texture="wet"),
            part("bread", "bread_wholemeal 240 pack", container="on_top", keep="bread", texture="firm"),
        ),
        steps=(
            S("Drain tuna and beans, halve the tomatoes, slice the onion thinly, chop the parsley", 0, "", 14, True),
            S("Fold them together", 0, "", 3, True, (1,)),
            S("Whisk oil, lemon juice and salt", 1, "", 3, True),
            S("Wrap the bread", 2, "", 2, True),
        ),
    ),
    ShelfRecipe(
        "porklentil", "Pork loin, apple and green lentil box", 4, ("cold", "travels"),
        "The lentils keep their bite.",
        (
            part("pork", "pork_loin_raw 560, rapeseed_oil 15, salt 4", "tray"),
            part("lentils and apple", "lentils_green_dry 240, apple_raw 300, cider_vinegar 30, olive_oil 20",
                 "pot"),
        ),
        steps=(
            S("Rub the pork with oil and salt and roast it", 0, "oven", 40, False, (), degrees=(170, 185),
              core="whole_cut_pork", look=28),
            S("Boil the lentils in plenty of water, drain them", 1, "hob", 25, False, look=18),
            S("Cool pork and lentils, lids off", -1, "cooling", 40, False, (1, 2)),
            S("Cube the apple, turn it with the lentils in vinegar and oil", 1, "", 6, True, (3,)),
            S("Slice the pork", 0, "", 4, True, (3,)),
        ),
    ),
    ShelfRecipe(
        "smokedtofu", "Smoked tofu, broccoli and wholewheat pasta box", 4, ("cold", "travels", "plant"),
        "The pasta is rinsed cold, so that it stays apart.",
        (
            part("pasta and broccoli", "pasta_wholewheat_dry 280, broccoli_raw 500, carrot_raw 200", "pot"),
            part("tofu", "tofu_smoked 400, sesame_seeds 20", "", "tofu", texture="firm"),
            part("ginger sauce", "tamari 50, lime_juice 30, sesame_oil 15, ginger_raw 10, water_tap 30", "", "dressed_salad",
                 "pot", texture="wet"),
        ),
        steps=(
            S("Boil pasta and broccoli in plenty of water, drain them and rinse cold", 0, "hob", 10, True),
            S("Cut the carrot into matchsticks, fold it in", 0, "", 6, True, (1,)),
            S("Cube the tofu, turn it in the sesame", 1, "", 5, True),
            S("Grate the ginger, stir it with tamari, lime juice, oil and water", 2, "", 4, True),
        ),
    ),
    ShelfRecipe(
        "gherkin", "Egg, potato and gherkin box", 4, ("cold", "travels"),
        "A potato salad with enough protein to be lunch.",
        (
            part("potatoes and gherkins", "potato_raw 900, gherkins 160, chives_raw 15", "pot"),
            part("eggs", "egg_hard_boiled 400 count", container="box"),
            part("herb quark", "quark 500, milk_semi_skimmed 80, dill_fresh 10, rapeseed_oil 20, salt 4", "bowl", "soft_dairy",
                 "pot", texture="wet"),
        ),
        steps=(
            S("Boil the potatoes in their skins, drain them", 0, "hob", 30, False),
            S("Cool the potatoes, lids off", 0, "cooling", 40, False, (1,)),
            S("Peel and slice the potatoes, fold in gherkins and chives", 0, "", 12, True, (2,)),
            S("Halve the eggs", 1, "", 3, True),
            S("Stir quark, milk, dill, oil and salt", 2, "", 4, True),
        ),
    ),
)  # fmt: skip
