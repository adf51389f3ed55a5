"""The words of ingredient lines that name no food: how it is cut, how big it is, how it is packed, when it goes in."""

import re
import unicodedata
from functools import lru_cache

from goodcrate.core.ground.find import plain, singular

LONGEST_LINE = 400


def words_in(text: str) -> frozenset[str]:
    """A table of words, written as a text."""
    return frozenset(text.split())


PREPARED = words_in(
    """
    chopped diced sliced grated minced crushed shredded cubed halved quartered torn trimmed rinsed washed melted
    softened beaten sifted toasted packed peeled deseeded seeded pitted stoned hulled cored cleaned scrubbed
    squeezed zested juiced mashed crumbled flaked blanched drained soaked defrosted thawed warmed chilled cooled
    cut broken pounded bashed bruised picked stripped removed separated divided reserved pressed patted
    dried_off scored butterflied deveined shelled podded topped tailed strained skinned spiralized spiralised
    julienned slivered chunk chunky cube dice slice wedge round half halve quarter strip ribbon baton matchstick
    ring piece floret segment moon coin bite lengthway lengthwise crosswise diagonally finely roughly coarsely
    thinly thickly freshly lightly well gently very quite just about around approximately approx roughly loosely
    tightly firmly thoroughly thin thick fine coarse size sized large medium small big little ripe firm tender
    young fat good quality best nice favourite favorite organic free range fairtrade unwaxed waxed local
    seasonal ordinary regular standard normal usual common any colour color kind type sort brand choice of shop
    bought home made homemade ready prepared preferably ideally necessary needed required available possible
    plus extra more additional further another few some couple several each per serving portion taste serve
    garnish sprinkle drizzle decorate dust grease frying brushing finish finishing dressing_on topping optional
    to the a an for into and or at in on with from by as if so it its is are was then you like your i we my room
    temperature heaped heaping rounded level generous scant good total weight net drained_weight approx ca circa
    piece pcs pc whole entire lean_removed end stalk_removed stem leave left one two three four five six vine
    ripened grown old new used such eg ie etc about long short flat inch cm mm lengths length cooked_off piping
    fresh
    """
)
"""Words that say nothing of which food is meant."""
FILLERS = PREPARED - {"half", "quarter", "fresh", "flaked", "dressing_on", "whole", "new", "fat", "lean_removed"}

SIZES = {
    "small": 0.7,
    "little": 0.7,
    "baby": 0.5,
    "medium": 1.0,
    "large": 1.3,
    "big": 1.3,
    "jumbo": 1.5,
    "lg": 1.3,
    "lge": 1.3,
    "med": 1.0,
    "sm": 0.7,
}
"""What a piece is said to be, as a share of a medium one: our own round figures."""

ON_THE_DAY = re.compile(
    r"\b(?:just before (?:serving|eating)|on the day|(?:to|for) (?:serve|serving|garnish|garnishing|decorate|finish)|"
    r"as a garnish)\b"
)
NIGHT_BEFORE = re.compile(r"\b(?:overnight|(?:the )?night before)\b")
TO_TASTE = re.compile(r"\b(?:to taste|as needed|as required|if needed)\b")
OPTIONAL = re.compile(r"\boptional(?:ly)?\b\s*:?")
_BULLET = re.compile(r"^\s*(?:[-–—*•·▢☐▪◦>+]\s*)+|^\s*\d{1,3}\s*[.)]\s+(?=\S)|^\s*\[[ x]?\]\s*")
_VULGAR = str.maketrans(
    {"⁄": "/", "∕": "/", "–": "-", "—": "-", "‐": "-", "‑": "-", "−": "-", "×": "x", "’": "'", "“": '"', "”": '"'}
)


_TWICE = re.compile(
    r"(\d[\d.,]*\s?(?:g|kg|ml|l|litres?))\s*/\s*\d[\d.,½¼¾/]*\s?"
    r"(?:lbs?|oz|fl\.? ?oz|pints?|cups?)\b(?:\s?\d[\d½¼¾]*\s?oz\b)?"
)
"""“700g/1lb 9oz”: the same said in old units."""


def clean(text: str) -> str:
    """A line in lower case, without bullets, odd spaces and signs that are no letters; at most 400 letters of it."""
    bare = _TWICE.sub(r"\1", _BULLET.sub("", text[:LONGEST_LINE].translate(_VULGAR).casefold()))
    kept = "".join(c if _means_something(c) else " " for c in bare)
    return re.sub(r"\s+", " ", kept).strip(" ,.;:-*")


def _means_something(c: str) -> bool:
    return c.isalnum() or c in " .,;:()[]/%'&+-½⅓⅔¼¾⅛⅜⅝⅞\"" or unicodedata.category(c) in ("Mn", "No")


@lru_cache(maxsize=16384)
def tokens_of(text: str) -> tuple[str, ...]:
    """The words of a phrase, plain and singular, in their order; per cents stay with their sign."""
    found = re.findall(r"\d+(?:[.,]\d+)?\s?%|[^\W_]+(?:'[^\W_]+)?", plain(text))
    return tuple(_SPELT.get(w, w) for w in (_word(word) for word in found) if w)


def _word(found: str) -> str:
    if "%" in found:
        return found.replace(" ", "").replace(",", ".")
    word = singular(found.split("'", maxsplit=1)[0])
    return _IRREGULAR.get(found, word)


_IRREGULAR = {"halves": "half", "leaves": "leaf", "loaves": "loaf", "knives": "knife", "potatoes": "potato",
              "tomatoes": "tomato", "mangoes": "mango", "radishes": "radish", "molasses": "molasses", "swiss": "swiss",
              "brussels": "brussel", "couscous": "couscous", "hummus": "hummus", "asparagus": "asparagus",
              "peas": "pea", "oats": "oat", "chives": "chive", "cloves": "clove", "olives": "olive",
              "endives": "endive",
              "anchovies": "anchovy", "cherries": "cherry", "berries": "berry", "chillies": "chilli",
              "chilies": "chilli",
              "chili": "chilli", "chile": "chilli", "chiles": "chilli", "swede": "swede", "cheese": "cheese",
              "dates": "date", "limes": "lime", "grapes": "grape", "prunes": "prune", "dice": "dice"}  # fmt: skip
_SPELT = {"yogurt": "yoghurt", "yogourt": "yoghurt", "yoghourt": "yoghurt", "fiber": "fibre", "wholemeal": "wholemeal",
          "wholewheat": "wholemeal", "tinned": "canned", "tin": "can", "semi": "semi", "skimmed": "skimmed",
          "skim": "skimmed", "zucchini": "courgette", "eggplant": "aubergine", "garbanzo": "chickpea",
          "arugula": "rocket", "cilantro": "coriander"}  # fmt: skip
