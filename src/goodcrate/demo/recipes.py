"""The boat's recipes. Ingredient weights are invented; foods are keys of the reference table.

A recipe is (key, name, servings, tags, note, components…); a component (name, cooked weight in g or None, lines, and how it is
made and kept); a line (food key, g, measure, and what becomes of it).
"""

from typing import NamedTuple


class DemoLine(NamedTuple):
    """One ingredient; `use` and `fate` as in the recipe form."""

    food: str
    grams: float
    measure: str = "weighed"
    use: str = ""
    fate: str = ""


class DemoComponent(NamedTuple):
    """One component; cooked weight None is left to the foods' yields."""

    name: str
    cooked_g: float | None
    lines: tuple[DemoLine, ...]
    vessel: str = ""
    keep_group: str = ""
    container: str = ""
    texture: str = ""
    reheat: str = ""


class DemoStep(NamedTuple):
    """One step: what, of which component (by place, -1 for all), with what, minutes, whether hands are busy.

    `after` are places of steps, `degrees` an oven range, `core` a row of the core temperatures.
    """

    text: str
    component: int
    equipment: str
    minutes: float
    hands: bool
    after: tuple[int, ...] = ()
    degrees: tuple[float, float] | None = None
    core: str = ""
    look: float | None = None


class DemoVariant(NamedTuple):
    """The recipe for one eater: a line (component place, line place) left out or swapped for grams of a food."""

    name: str
    eater: str
    line: tuple[int, int]
    food: str = ""
    grams: float = 0.0


class DemoRecipe(NamedTuple):
    """One recipe. `serves` is another recipe's component: its key, the component's place, grams in a serving."""

    key: str
    name: str
    servings: float
    tags: tuple[str, ...]
    note: str
    components: tuple[DemoComponent, ...]
    steps: tuple[DemoStep, ...] = ()
    variants: tuple[DemoVariant, ...] = ()
    serves: tuple[str, int, float] | None = None


def _lines(text: str) -> tuple[DemoLine, ...]:
    """Lines written as `food grams [measure [use [fate]]]`, separated by commas; `-` leaves a word empty."""
    lines = []
    for words in (part.split() for part in text.split(",") if part.strip()):
        measure, use, fate = (["" if w == "-" else w for w in words[2:]] + ["", "", ""])[:3]
        lines.append(DemoLine(words[0], float(words[1]), measure or "weighed", use, fate))
    return tuple(lines)


def _part(
    name: str,
    cooked: float | None,
    lines: str,
    vessel: str = "",
    keep: str = "",
    container: str = "",
    texture: str = "",
    reheat: str = "",
) -> DemoComponent:
    return DemoComponent(name, cooked, _lines(lines), vessel, keep, container, texture=texture, reheat=reheat)


S = DemoStep
COOL = "Spread out to cool, lids off, then into the fridge"


RECIPES: tuple[DemoRecipe, ...] = (
    DemoRecipe(
        "mackerel", "Smoked mackerel, beetroot and barley", 4, ("cold", "travels"),
        "The yoghurt travels in its own pot.",
        (
            _part("mackerel", None, "mackerel_smoked 360"),
            _part("barley and beetroot", 1240,
                  "pearl_barley_dry 220, beetroot_raw 640, spring_onion_raw 40, rapeseed_oil 18 eye", "pot"),
            _part("horseradish yoghurt", None, "yoghurt_strained_0 200, horseradish_cream 30, dill_fresh 6", "bowl",
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
    DemoRecipe(
        "turkey", "Turkey thigh and caraway cabbage pot", 6, ("hot", "freezes"),
        "The fat that gathers on top is skimmed off.",
        (
            _part("turkey and cabbage", 1930,
                  "turkey_thigh_raw 1200, cabbage_raw 900, onion_raw 200, caraway_seed 8, rapeseed_oil 40, salt 8", "pot"),
            _part("swede mash", 1100, "swede_raw 800, potato_raw 300, butter_salted 40", "pot"),
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
    DemoRecipe(
        "beans", "Black-eyed beans with okra and millet", 6, ("hot", "freezes", "plant"),
        "Okra goes in for the last twelve minutes.",
        (
            _part("beans and okra", 2050,
                  "black_eyed_beans_dry 480, okra_raw 400, tomatoes_canned 400 pack, onion_raw 150, rapeseed_oil 40,"
                  "cumin 6, salt 8", "pot"),
            _part("millet", 930, "millet_dry 340", "pot"),
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
    DemoRecipe(
        "chicken", "Chicken thigh, prune and bulgur tray", 5, ("hot", "freezes"),
        "One half tray for 40 minutes; the bulgur swells beside it.",
        (
            _part("chicken and prunes", 1010,
                  "chicken_thigh_raw 900, prunes 150, onion_red_raw 200, olive_oil 25, salt 6", "tray"),
            _part("bulgur", 800, "bulgur_dry 320, parsley_fresh 20 - at_packing", "bowl"),
        ),
        steps=(
            S("Cut onion, lay it on the tray with chicken, prunes, oil and salt", 0, "", 10, True),
            S("Roast the tray", 0, "oven", 40, False, (1,), degrees=(180, 200), core="poultry", look=20),
            S("Pour boiling water over the bulgur and let it swell", 1, "", 25, False),
            S("Fold the parsley into the bulgur", 1, "", 3, True, (3,)),
            S(COOL, -1, "cooling", 40, False, (2, 4)),
        ),
    ),
    DemoRecipe(
        "venison", "Venison and root stew", 6, ("hot", "freezes"),
        "No stock cube: Oskar must not get celery.",
        (
            _part("stew", 2300,
                  "venison_raw 1000, carrot_raw 400, parsnip_raw 400, potato_raw 700, onion_raw 200, rapeseed_oil 40,"
                  "tomato_puree 40, salt 8", "pot"),
        ),
        steps=(
            S("Cut and brown the venison in the oil, in two lots", 0, "hob", 18, True),
            S("Cut onion, carrot, parsnip and potato, add them with tomato puree and salt", 0, "", 15, True),
            S("Simmer barely for two hours", 0, "hob", 120, False, (1, 2), core="venison_rabbit", look=60),
            S(COOL, 0, "cooling", 45, False, (3,)),
        ),
    ),
    DemoRecipe(
        "leek", "Leek and quark oven slice", 6, ("cold", "hot", "travels"),
        "Cut cold.",
        (
            _part("slice", 1520,
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
    DemoRecipe(
        "buckwheat", "Buckwheat porridge with pear and hazelnut", 4, ("hot", "breakfast"),
        "Pear and nuts go on top.",
        (
            _part("porridge", 1150, "buckwheat_dry 240, milk_semi_skimmed 1000", "pot", "cooked_grain",
                  reheat="loosen with a splash of water; heat once until steaming all through"),
            _part("pear and hazelnuts", None, "pear_raw 400 - on_the_day, hazelnuts 80 - on_the_day", "",
                  "whole_fruit", "on_top"),
        ),
        steps=(
            S("Simmer the buckwheat in the milk, stir now and then", 0, "hob", 22, False, look=10),
            S("Chop the hazelnuts", 1, "", 4, True),
            S(COOL, 0, "cooling", 40, False, (1,)),
            S("On the day: slice the pear", 1, "", 2, True),
        ),
    ),
    DemoRecipe(
        "rye", "Rye flakes soaked with plums", 3, ("cold", "breakfast", "travels"),
        "Add the milk the night before.",
        (
            _part("soaked rye", None,
                  "rye_flakes_dry 180, milk_semi_skimmed 480 - night_before, yoghurt_strained_0 300, plum_raw 300",
                  "", "soaked_oats", "jar", texture="wet"),
            _part("sunflower seeds", None, "sunflower_seeds 36 - on_the_day", container="on_top", texture="crisp"),
        ),
        steps=(
            S("Cut the plums, layer rye, yoghurt and plums in jars", 0, "", 12, True),
            S("The night before: pour the milk over", 0, "fridge", 480, False, (1,)),
            S("Fill the sunflower seeds into small pots", 1, "", 2, True),
        ),
    ),
    DemoRecipe(
        "butterbean", "Butter bean, fennel and orange box", 7, ("cold", "travels", "plant"),
        "The dressing goes in its own pot.",
        (
            _part("beans and fennel", None,
                  "butter_beans_canned_drained 1400, fennel_raw 700, orange_raw 560, feta 350, parsley_fresh 30", "bowl",
                  "undressed_salad", texture="firm"),
            _part("dressing", None, "olive_oil 105, lemon_juice 70, mustard_smooth 14", "", "dressed_salad", "pot", texture="wet"),
        ),
        steps=(
            S("Drain the beans, slice fennel thinly, fillet the orange, crumble the feta, chop parsley", 0, "", 22, True),
            S("Whisk oil, lemon juice and mustard", 1, "", 4, True),
        ),
    ),
    DemoRecipe(
        "peasoup", "Split pea and dill soup", 6, ("hot", "freezes", "plant"),
        "Oskar must not get celery: his pot has fennel instead.",
        (
            _part("soup", 2700,
                  "split_peas_dry 500, carrot_raw 300, leek_raw 200, celery_raw 120, onion_raw 150, rapeseed_oil 30,"
                  "dill_fresh 25 - at_packing, salt 8", "pot"),
        ),
        steps=(
            S("Sweat onion, leek, celery and carrot in the oil with the salt", 0, "hob", 12, True),
            S("Add peas and water, simmer until they fall apart", 0, "hob", 45, False, (1,), look=25),
            S("Blend half of it, stir in the dill", 0, "blender", 6, True, (2,)),
            S(COOL, 0, "cooling", 45, False, (3,)),
        ),
        variants=(DemoVariant("without celery", "oskar", (0, 3), "fennel_raw", 120.0),),
    ),
    DemoRecipe(
        "rhubarb", "Rhubarb quark pot with toasted oats", 3, ("cold", "snack", "travels"),
        "Oats on the day, so that they stay crisp.",
        (
            _part("rhubarb quark", 940, "quark 600, rhubarb_raw 350, honey 45", "pot", "soft_dairy", "jar", texture="wet"),
            _part("toasted oats", 84, "rolled_oats_dry 90 - on_the_day", "pan", "pantry", "on_top", texture="crisp"),
        ),
        steps=(
            S("Stew the rhubarb with the honey", 0, "hob", 10, True),
            S("Cool it, then fold into the quark", 0, "cooling", 30, False, (1,)),
            S("Toast the oats dry in the pan", 1, "hob", 7, True),
            S("Let the oats cool before the lid", 1, "cooling", 15, False, (3,)),
        ),
    ),
    DemoRecipe(
        "date", "Date, walnut and sesame squares", 12, ("cold", "snack", "travels"),
        "Press into a tray, chill, cut into twelve.",
        (
            _part("squares", 790, "dates_dried 360, walnuts 180, sesame_seeds 90, rolled_oats_dry 150, honey 30 volume",
                  "blender", "raw_dough_bites", texture="firm"),
        ),
        steps=(
            S("Blend dates, walnuts and oats with the honey, in two lots", 0, "blender", 10, True),
            S("Knead in the sesame, press into a tray", 0, "", 8, True, (1,)),
            S("Chill and cut into twelve", 0, "fridge", 90, False, (2,)),
        ),
    ),
    DemoRecipe(
        "trout", "Trout flakes with millet and horseradish cream", 4, ("cold", "travels"),
        "Leaves are added on the day.",
        (
            _part("trout", 470, "trout_raw 560, rapeseed_oil 10", "tray"),
            _part("millet and cucumber", 1060, "millet_dry 260, cucumber_raw 350, radish_raw 120", "pot"),
            _part("horseradish cream", None, "quark 160, horseradish_cream 60", "", "", "pot", texture="wet"),
            _part("leaves", None, "rocket_raw 80 - on_the_day", "", "", "on_top", texture="leaves"),
        ),
        steps=(
            S("Oil the trout and bake it", 0, "oven", 15, False, (), degrees=(170, 190), core="fish"),
            S("Swell the millet in twice its water", 1, "hob", 22, False),
            S("Slice cucumber and radish", 1, "", 8, True),
            S("Cool trout and millet, lids off, then flake the trout and fold the vegetables in", -1, "cooling", 35, False, (1, 2, 3)),
            S("Stir quark and horseradish", 2, "", 3, True),
            S("Wash and dry the leaves, pack them apart", 3, "", 4, True),
        ),
    ),
    DemoRecipe(
        "tempeh", "Tempeh and red cabbage box", 3, ("cold", "travels", "plant"),
        "The rice is cooled fast.",
        (
            _part("tempeh", 430, "tempeh 450, tamari 30, rapeseed_oil 12", "pan", "tofu"),
            _part("cabbage and rice", 1050, "cabbage_raw 420, rice_brown_dry 200, carrot_raw 150, lime_juice 20", "pot"),
        ),
        steps=(
            S("Slice and fry the tempeh in the oil, glaze it with the tamari", 0, "hob", 12, True),
            S("Boil the rice", 1, "hob", 32, False),
            S("Shred cabbage and carrot, turn them in lime juice", 1, "", 10, True),
            S("Cool tempeh and rice spread thin, in the fridge within the hour", -1, "cooling", 30, False, (1, 2, 3)),
        ),
    ),
    DemoRecipe(
        "lamb", "Lamb and aubergine bake", 6, ("hot", "freezes"),
        "The fat that runs out of the mince is poured off.",
        (
            _part("bake", 2250,
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
    DemoRecipe(
        "cottage", "Cottage cheese, radish and rye crispbread box", 4, ("cold", "travels"),
        "The crispbread stays apart.",
        (
            _part("cottage cheese and eggs", None,
                  "cottage_cheese 1000, egg_hard_boiled 400 count, radish_raw 240, spring_onion_raw 40, dill_fresh 8",
                  "bowl", "sandwich_filling", texture="wet"),
            _part("crispbread", None, "rye_crispbread 240 pack", container="on_top", texture="crisp"),
        ),
        steps=(
            S("Slice eggs, radish and spring onion, stir them with cottage cheese and dill", 0, "", 14, True),
            S("Count out the crispbread into bags", 1, "", 3, True),
        ),
    ),
    DemoRecipe(
        "lentils", "Lentil and mustard pot with swede mash", 4, ("hot", "freezes", "plant"),
        "The mash is the turkey pot’s: cooked once, served twice.",
        (
            _part("lentils", 1150,
                  "lentils_green_dry 300, carrot_raw 200, onion_raw 150, rapeseed_oil 25, mustard_smooth 30, salt 5", "pot"),
        ),
        steps=(
            S("Sweat onion and carrot in the oil", 0, "hob", 8, True),
            S("Add lentils, salt and water, simmer until soft", 0, "hob", 30, False, (1,), look=15),
            S("Stir in the mustard", 0, "", 2, True, (2,)),
            S(COOL, -1, "cooling", 40, False, (3,)),
        ),
        variants=(),
        serves=("turkey", 1, 180.0),
    ),
)  # fmt: skip
"""Sixteen of the scenario, and one that serves another's component."""
