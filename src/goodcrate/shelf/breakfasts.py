"""Breakfasts of the shelf."""

from goodcrate.shelf.shelf_recipe import COOL, ShelfRecipe, part
from goodcrate.shelf.shelf_recipe import ShelfStep as S

BREAKFASTS: tuple[ShelfRecipe, ...] = (
    ShelfRecipe(
        "buckwheat", "Buckwheat porridge with pear and hazelnut", 4, ("hot", "breakfast"),
        "Pear and nuts go on top.",
        (
            part("porridge", "buckwheat_dry 240, milk_semi_skimmed 1000", "pot", "cooked_grain",
                  reheat="loosen with a splash of water; heat once until steaming all through"),
            part("pear and hazelnuts", "pear_raw 400 - on_the_day, hazelnuts 80 - on_the_day", "",
                  "whole_fruit", "on_top"),
        ),
        steps=(
            S("Simmer the buckwheat in the milk, stir now and then", 0, "hob", 22, False, look=10),
            S("Chop the hazelnuts", 1, "", 4, True),
            S(COOL, 0, "cooling", 40, False, (1,)),
            S("On the day: slice the pear", 1, "", 2, True),
        ),
    ),
    ShelfRecipe(
        "rye", "Rye flakes soaked with plums", 3, ("cold", "breakfast", "travels"),
        "Add the milk the night before.",
        (
            part("soaked rye",
                  "rye_flakes_dry 180, milk_semi_skimmed 480 - night_before, yoghurt_strained_0 300, plum_raw 300",
                  "", "soaked_oats", "jar", texture="wet"),
            part("sunflower seeds", "sunflower_seeds 36 - on_the_day", container="on_top", texture="crisp"),
        ),
        steps=(
            S("Cut the plums, layer rye, yoghurt and plums in jars", 0, "", 12, True),
            S("The night before: pour the milk over", 0, "fridge", 480, False, (1,)),
            S("Fill the sunflower seeds into small pots", 1, "", 2, True),
        ),
    ),
    ShelfRecipe(
        "apricot", "Millet porridge with apricots and almonds", 4, ("hot", "breakfast", "plant"),
        "The almonds go on top on the day.",
        (
            part("porridge", "millet_dry 220, soya_milk 900, apricots_dried 120", "pot", "cooked_grain",
                 reheat="loosen with a splash of soya milk; heat once until steaming all through"),
            part("almonds", "almonds 60 - on_the_day", container="on_top", texture="crisp"),
        ),
        steps=(
            S("Cut the apricots small", 0, "", 4, True),
            S("Simmer millet and apricots in the soya milk under a lid, stir now and then", 0, "hob", 25, False, (1,), look=12),
            S(COOL, 0, "cooling", 40, False, (2,)),
            S("Chop the almonds, fill them into small pots", 1, "", 4, True),
        ),
    ),
    ShelfRecipe(
        "oatbake", "Apple and cinnamon oat bake", 6, ("cold", "hot", "breakfast", "travels"),
        "Cut cold; as good from the fridge as warmed.",
        (
            part("bake", "rolled_oats_dry 300, milk_semi_skimmed 600, egg_whole_raw 204 count, apple_raw 400, quark 250,"
                 "walnuts 60, cinnamon 6, baking_powder 8 volume", "tray", "egg_bake"),
        ),
        steps=(
            S("Grate the apples", 0, "", 6, True),
            S("Stir oats, milk, eggs, quark, walnuts, cinnamon and baking powder, fold in the apple", 0, "", 6, True, (1,)),
            S("Bake in a half tray until firm", 0, "oven", 40, False, (2,), degrees=(175, 190), core="egg_dishes", look=30),
            S("Cool in the tray, then cut into six", 0, "cooling", 45, False, (3,)),
        ),
    ),
    ShelfRecipe(
        "eggcups", "Spinach and cottage cheese egg cups", 4, ("cold", "hot", "breakfast", "travels"),
        "Two cups are a serving; with a slice of rye bread.",
        (
            part("egg cups", "egg_whole_raw 408 count, cottage_cheese 300, spinach_raw 200, gouda 60, rapeseed_oil 10, salt 3",
                 "tray", "egg_bake"),
            part("rye bread", "bread_rye 240 pack", container="on_top", keep="bread", texture="firm"),
        ),
        steps=(
            S("Wilt the spinach in the oil, chop it", 0, "hob", 5, True),
            S("Whisk eggs, cottage cheese, gouda and salt, fold in the spinach, fill eight oiled cups", 0, "", 8, True, (1,)),
            S("Bake until set", 0, "oven", 22, False, (2,), degrees=(170, 185), core="egg_dishes", look=16),
            S(COOL, 0, "cooling", 30, False, (3,)),
            S("Wrap a slice of bread for each serving", 1, "", 2, True),
        ),
    ),
    ShelfRecipe(
        "chia", "Chia pots with raspberries and soya yoghurt", 4, ("cold", "breakfast", "travels", "plant"),
        "Ready when it has stood for a night.",
        (
            part("chia pots", "chia_seeds 100, soya_milk 600, soya_yoghurt 500, raspberries_frozen 300,"
                 "soya_protein_powder 40, rolled_oats_dry 100", "bowl", "soaked_oats", "jar", texture="wet"),
        ),
        steps=(
            S("Stir chia, oats and protein powder into the soya milk, wait, stir once more", 0, "", 8, True),
            S("Layer with soya yoghurt and the frozen raspberries in jars", 0, "", 8, True, (1,)),
            S("Let them stand in the fridge overnight", 0, "fridge", 480, False, (2,)),
        ),
    ),
    ShelfRecipe(
        "currant", "Barley flour pancakes with blackcurrant quark", 4, ("cold", "breakfast", "travels"),
        "The pancakes are eaten cold, rolled round the quark.",
        (
            part("pancakes", "barley_flour 200, milk_semi_skimmed 400, egg_whole_raw 204 count, rapeseed_oil 20", "pan",
                 "egg_bake"),
            part("blackcurrant quark", "quark 500, blackcurrants_raw 250, honey 40", "bowl", "soft_dairy", "pot", texture="wet"),
        ),
        steps=(
            S("Whisk flour, milk and eggs, let the batter stand", 0, "", 6, True),
            S("Fry eight pancakes in the oil, in four lots", 0, "hob", 25, True, (1,), core="egg_dishes"),
            S(COOL, 0, "cooling", 20, False, (2,)),
            S("Crush half of the blackcurrants with the honey, fold all into the quark", 1, "", 5, True),
        ),
    ),
)  # fmt: skip
