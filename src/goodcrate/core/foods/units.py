"""The units of ingredient lines: what is weighed, measured by volume, counted, packed or taken by hand."""

from collections.abc import Iterator

MASS, VOLUME, LOOSE, NONE = "mass", "volume", "loose", ""
"""Kinds of unit; a loose one is a piece, a pack or a handful. None is said of a bare count."""

_TABLE = """
mass    g             g gr gm gms gram grams gramme grammes
mass    kg            kg kgs kilo kilos kilogram kilograms
mass    mg            mg
mass    oz            oz ounce ounces
mass    lb            lb lbs pound pounds
volume  ml            ml mls millilitre millilitres milliliter milliliters cc
volume  cl            cl
volume  dl            dl decilitre
volume  litre         l litre litres liter liters ltr
volume  cup           cup cups c
volume  tablespoon    tbsp tbsps tbs tbl tblsp tblsps tbspn tablespoon tablespoons tablespoonful tablespoonfuls
volume  dessertspoon  dsp dstsp dessertspoon dessertspoons
volume  teaspoon      tsp tsps tspn teaspoon teaspoons teaspoonful teaspoonfuls
volume  fluid_ounce   floz
volume  pint          pint pints pt pts
volume  quart         quart quarts qt
volume  drop          drop drops
volume  dash          dash dashes
volume  pinch         pinch pinches
loose   can           tin tins can cans
loose   jar           jar jars
loose   pack          pack packs packet packets package packages pkg pkt box boxes sachet sachets pouch pouches
loose   bag           bag bags
loose   tub           tub tubs pot pots carton cartons
loose   punnet        punnet punnets basket baskets
loose   bottle        bottle bottles
loose   tube          tube tubes
loose   block         block blocks slab
loose   bunch         bunch bunches
loose   handful       handful handfuls fistful
loose   knob          knob knobs pat pats
loose   splash        splash splashes glug glugs
loose   drizzle       drizzle drizzles
loose   squeeze       squeeze squeezes
loose   sprig         sprig sprigs twig twigs
loose   stick         stick sticks stalk stalks rib ribs
loose   head          head heads
loose   bulb          bulb bulbs
loose   cob           cob cobs ear ears
loose   sheet         sheet sheets
loose   nest          nest nests
loose   leaf          leaf leaves
loose   wedge         wedge wedges
loose   slice         slice slices rasher rashers
loose   clove         clove cloves
loose   fillet        fillet fillets
loose   scoop         scoop scoops
loose   serving       serving servings portion portions
loose   mug           mug mugs
loose   glass         glass glasses
loose   ball          ball balls
loose   square        square squares
loose   strip         strip strips
loose   floret        floret florets
loose   cube          cube cubes
loose   loaf          loaf loaves
loose   piece         piece pieces pc pcs each
loose   thumb         thumb thumbs
loose   spear         spear spears
loose   grind         grind grinds grinding twist twists
loose   spray         spray sprays
loose   dollop        dollop dollops blob
loose   ladle         ladle ladles
"""
CONTAINERS = frozenset({"can", "jar", "pack", "bag", "tub", "punnet", "bottle", "tube", "block"})
BY_HAND = frozenset(
    {
        *("handful", "knob", "splash", "drizzle", "squeeze", "sprig", "bunch", "thumb", "dollop", "grind", "spray"),
        *("can", "pinch", "dash", "sheet", "block"),
    }
)
"""Units that stand without a number: “pinch of salt”, “handful of walnuts”."""
POURED_ML = {
    "splash": 12.5,
    "drizzle": 10.0,
    "squeeze": 7.0,
    "dollop": 30.0,
    "glass": 150.0,
    "mug": 250.0,
    "ladle": 120.0,
    "spray": 0.3,
    "grind": 0.3,
}
"""What is poured by hand, in ml: the middles of the notes of `measures.csv`, the others our own round figures."""


def _units() -> Iterator[tuple[str, tuple[str, str]]]:
    for row in _TABLE.strip().splitlines():
        kind, unit, *words = row.split()
        for word in words:
            yield word, (kind, unit)


UNITS: dict[str, tuple[str, str]] = dict(_units())
"""Kind and unit by the word as it is written."""
