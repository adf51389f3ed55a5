"""Which food a phrase means: everyday names, the tables' own names, and what a household's own foods are called.

Each known name is a *form*: words that must stand in the phrase, and words of the row that may. A phrase's words are
explained by a form, or stand for nothing, or speak against it; the form that explains most and leaves least open wins.
"""

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from rapidfuzz import process
from rapidfuzz.distance import OSA

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.line.words import FILLERS, tokens_of, words_in
from goodcrate.core.foods.units import UNITS
from goodcrate.core.ground.find import plain

CONFIRMED, EXACT_OWN, ALIAS, NAME = 3, 2, 1, 0
"""Where a form comes from: confirmed here for these words, an own food, everyday names, the tables' names."""
STATE_WORDS: Mapping[str, frozenset[str]] = {
    "raw": frozenset({"raw", "fresh", "uncooked"}),
    "dry": frozenset({"dry", "dried", "uncooked"}),
    "cooked": frozenset(
        {"cooked", "boiled", "steamed", "leftover", "ready", "roasted", "baked", "poached", "grilled", "fried"}
    ),
    "canned_drained": frozenset({"can", "canned", "jar", "drained", "tin"}),
    "canned_whole": frozenset({"can", "canned", "jar"}),
    "frozen": frozenset({"frozen"}),
    "smoked": frozenset({"smoked"}),
    "ready": frozenset({"fresh", "ready"}),
}
MOST_SPELT = 20_000
"""So many misspelt words are remembered at once."""
LINKS = frozenset({"of", "the", "a", "an", "and", "in", "with", "for", "or"})
HARMLESS = words_in(
    """
    skinless boneless skinned sheet fillet slice rasher stick stalk sprig leaf cob nest clove floret wedge spear
    bulb head bunch cube ring square scoop breadth block ball strip shell shaving flake can tin jar pack
    drained_ fine extra_ lean_ tub bag punnet bottle carton portion serving steak_ joint_ pouch sachet tablet
    bar_ shard
    """
)
"""Words of shape and pack that leave a food what it is."""
KIND_WORDS: Mapping[str, frozenset[str]] = {
    "dairy": frozenset({"cheese"}),
    "legume": frozenset({"bean"}),
    "nut_seed": frozenset({"nut", "kernel", "seed"}),
    "fish": frozenset({"fish", "fillet", "steak"}),
    "meat": frozenset({"meat", "steak", "joint"}),
    "poultry": frozenset({"meat", "fillet"}),
    "herb": frozenset({"leaf", "herb", "sprig"}),
    "spice": frozenset({"spice", "powder", "ground", "pod"}),
    "vegetable": frozenset({"leaf", "vegetable", "head", "bulb", "root", "salad"}),
    "fruit": frozenset({"fruit", "flesh", "berry"}),
    "grain": frozenset({"pasta", "grain"}),
}
"""What a food's kind is called: “mozzarella cheese” is mozzarella."""
SAYS_STATE = frozenset().union(*STATE_WORDS.values()) - {"ready", "jar"}
USUAL = words_in(
    """
    raw fresh peeled whole plain with without skin skinless boneless trimmed deseeded stoned pitted shelled
    flesh only meat and of or in the as bought average typical edible part all kind any home made hulled dried
    dry white medium unsweetened regular ground seed leaf pod from not fdc enriched salt added no low sodium
    natural smooth set pressed table sea fine ordinary skinned tap still clear clarified winter summer common
    brine packed ready to use shop
    """
)
"""Details of a row's name that a line need not say."""
STRONG = words_in(
    """
    powder powdered juice sauce soup oil butter milk flour syrup jam paste pickled candied crystallised chip
    crisp cake cookie biscuit bread drink dressing stock concentrate condensed evaporated sweetened extract
    liver heart kidney tongue skin smoked cured breaded battered stuffed creamed pie pudding ice cream spread
    mix seasoning flavoured flavour bar baby decaffeinated alcohol free fat reduced light lite diet vegan
    vegetarian imitation substitute protein noodle vinegar wine leaf seed sprout blossom peel zest flake bran
    germ meal starch liqueur dehydrated freeze frozen yolk white dip salad casserole burger nugget patty filling
    topping gravy chowder cocktail
    """
)
"""Details that make another food of it when the line does not say them."""


@dataclass(frozen=True, slots=True)
class Form:
    """A name of a food: `needs` must stand in a phrase, `may` can; `rank` says where it comes from."""

    key: str
    needs: frozenset[str]
    may: frozenset[str]
    rank: int
    literal: frozenset[str] = frozenset()
    order: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Candidate:
    """A food a phrase may mean. `open_words` are words of the line that it does not explain, `unsaid` the reverse."""

    key: str
    score: float
    open_words: tuple[str, ...]
    unsaid: tuple[str, ...]
    form: Form


@dataclass(frozen=True, slots=True)
class Lexicon:
    """All known forms, by each word they need; the vocabulary that slips of the pen are held against.

    `near` are names that no food here has, by their words, with the foods most like it: offered, never taken.
    """

    foods: Mapping[str, Food]
    forms: Mapping[str, tuple[Form, ...]]
    vocabulary: Mapping[str, int]
    published: frozenset[str] = frozenset()
    alias_vocabulary: frozenset[str] = frozenset()
    near: Mapping[frozenset[str], Sequence[str]] = field(default_factory=dict, compare=False)
    _spelt: dict[str, str] = field(default_factory=dict, compare=False)

    @classmethod
    def of(
        cls,
        foods: Mapping[str, Food],
        aliases: Iterable[tuple[str, str]],
        published: Iterable[str] = (),
        near: Iterable[tuple[str, Sequence[str]]] = (),
    ) -> "Lexicon":
        """The forms of these foods and everyday names."""
        by_word: dict[str, list[Form]] = {}
        words: Counter[str] = Counter()
        in_aliases: set[str] = set()
        for form in [*_alias_forms(foods, aliases), *_name_forms(foods)]:
            for word in form.needs:
                by_word.setdefault(word, []).append(form)
            words.update(form.needs | form.may)
            if form.rank == ALIAS:
                in_aliases |= form.needs
        by_words = {frozenset(tokens_of(name)): keys for name, keys in near}
        words.update(word for name in by_words for word in name)
        forms = {w: tuple(f) for w, f in by_word.items()}
        return cls(foods, forms, words, frozenset(published), frozenset(in_aliases), by_words)

    def nearest_to(self, phrase: Sequence[str], found: Sequence["Candidate"]) -> Sequence[str]:
        """The foods most like what a phrase names, when no row is it: nothing found explains all of its words."""
        said = frozenset(phrase)
        named = max((name for name in self.near if name <= said), key=len, default=frozenset())
        is_explained = bool(found) and not named & set(found[0].open_words)
        return () if is_explained else self.near.get(named, ())

    def may_be_near(self, word: str) -> bool:
        """Whether a word belongs to a name that stands near known foods."""
        return any(word in name for name in self.near)

    def kin_of(self, food: Food) -> Sequence[str]:
        """Foods that differ in what follows their name: other fat, other colour."""
        return self._kin().get(_head(food), ())

    def kind_of(self, food: Food) -> Sequence[str]:
        """Foods of its kind by the last word of their names: all creams, all vinegars."""
        return self._kin().get(_kind(food), ())

    @lru_cache(maxsize=1)  # noqa: B019 — one lexicon a process, for its life
    def _kin(self) -> Mapping[str, Sequence[str]]:
        heads: dict[str, list[str]] = {}
        for key, food in self.foods.items():
            heads.setdefault(_head(food), []).append(key)
            heads.setdefault(_kind(food), []).append(key)
        return heads

    def spelt(self, word: str) -> str:
        """The word as it is known; one slip in a word of four letters, two in one of eight are forgiven."""
        if (
            word in self.vocabulary
            or word in FILLERS
            or word in UNITS
            or "%" in word
            or len(word) < 4
            or word.isdigit()
        ):
            return word
        if len(self._spelt) > MOST_SPELT:
            self._spelt.clear()
        if word not in self._spelt:
            most = 1 if len(word) < 6 else 2
            found = process.extractOne(word, self._words_near(word), scorer=OSA.distance, score_cutoff=most)
            is_far = (
                found is not None and found[1] > 1 and (found[0] in FILLERS or found[0] not in self.alias_vocabulary)
            )
            self._spelt[word] = word if found is None or is_far else found[0]
        return self._spelt[word]

    def _words_near(self, word: str) -> Sequence[str]:
        near = [w for w in self._long_words() if abs(len(w) - len(word)) <= 2 and w[0] == word[0]]
        return sorted(near, key=lambda w: -self.vocabulary.get(w, 50))

    @lru_cache(maxsize=1)  # noqa: B019 — one lexicon a process, for its life
    def _long_words(self) -> tuple[str, ...]:
        return tuple(w for w in {*self.vocabulary, *FILLERS} if len(w) >= 4 and w.isalpha())

    def __hash__(self) -> int:
        return id(self)


def _head(food: Food) -> str:
    return food.name.split(",")[0].split("(")[0].strip().lower()


def _kind(food: Food) -> str:
    return f"{food.group}: {_head(food).split()[-1]}"


def _alias_forms(foods: Mapping[str, Food], aliases: Iterable[tuple[str, str]]) -> Iterable[Form]:
    for alias, key in aliases:
        food = foods.get(key)
        if food is None:
            continue
        needs = frozenset(tokens_of(alias)) - LINKS
        may = (_row_words(food) | STATE_WORDS.get(food.state, frozenset())) - needs
        yield Form(key, needs, may, ALIAS, literals_of(alias), tokens_of(alias))


def _name_forms(foods: Mapping[str, Food]) -> Iterable[Form]:
    for key, food in foods.items():
        head = re.sub(r"\([^)]*\)", " ", food.name).split(",")[0]
        also = re.search(r"^[^,]*\(([^)]*)\)", food.name)
        for name in (head, *(also[1].split(",") if also and also[1] != "FDC" else ())):
            needs = frozenset(tokens_of(name)) - LINKS
            if needs:
                may = _row_words(food) - needs | STATE_WORDS.get(food.state, frozenset())
                yield Form(key, needs, may, NAME, literals_of(name), tokens_of(name))


def literals_of(text: str) -> frozenset[str]:
    """The words of a name as they are written, plural and all: “peppers” are no “pepper”."""
    return frozenset(re.findall(r"[^\W\d_]+", plain(text))) - LINKS


@lru_cache(maxsize=8192)
def _row_words_of(name: str) -> frozenset[str]:
    return frozenset(tokens_of(name.replace("(FDC)", "")))


def _row_words(food: Food) -> frozenset[str]:
    return _row_words_of(food.name)


def candidates(
    phrase: Sequence[str], lexicon: Lexicon, hints: frozenset[str] = frozenset(), literal: frozenset[str] = frozenset()
) -> list[Candidate]:
    """The foods a phrase may mean, best first. `hints` are words beside the name that count when a row has them."""
    said = [w for w in phrase if w not in LINKS]
    words = frozenset(said)
    best: dict[str, Candidate] = {}
    for form in {f for word in words for f in lexicon.forms.get(word, ())}:
        if not form.needs <= words:
            continue
        found = _judged(form, words, hints, lexicon, said, literal, said_in_full=phrase)
        if found.key not in best or found.score > best[found.key].score:
            best[found.key] = found
    return sorted(best.values(), key=lambda c: (-c.score, c.key in lexicon.published, len(c.unsaid), c.key))


def _judged(
    form: Form,
    words: frozenset[str],
    hints: frozenset[str],
    lexicon: Lexicon,
    said: Sequence[str],
    literal: frozenset[str],
    *,
    said_in_full: Sequence[str],
) -> Candidate:
    food = lexicon.foods[form.key]
    left = [w for w in said if w not in form.needs and w not in form.may and (w not in FILLERS or w in SAYS_STATE)]
    fits = HARMLESS | KIND_WORDS.get(food.group, frozenset())
    open_words = tuple(w for w in left if w not in fits or (w == "skinless" and "skin" in _row_words(food)))
    details = _row_words(food) - form.needs
    unsaid = tuple(sorted(details - words - hints - USUAL)) if form.rank == NAME else ()
    more = {w for w in (words - form.needs) & form.may if w not in FILLERS or w in SAYS_STATE}
    explained = (
        sum(3 if w in FILLERS else 10 for w in form.needs)
        + 7 * len(more)
        + 8 * len(hints & form.may)
        + 3 * (form.literal <= literal)
    )
    score = float(explained) - 9 * len(open_words) - 2.0 * len(unsaid) - 6.0 * sum(w in STRONG for w in unsaid)
    score += {CONFIRMED: 40, EXACT_OWN: 12, ALIAS: 5, NAME: 0}[form.rank]
    score += 1.5 if form.key not in lexicon.published else 0.0
    score += _state_score(food, words | hints, form)
    if len(form.needs) > 1 and "of" not in said_in_full and not _in_order(form, said):
        score -= 14.0
        open_words = (*open_words, *(w for w in said if w in form.needs))
    score -= 8.0 * ("skin" in hints and "skin" not in _row_words(food) and food.group in ("poultry", "fish"))
    if said and said[-1] in form.needs:
        score += 2  # the last word of an English name says what it is
    return Candidate(form.key, score, open_words, unsaid, form)


def _in_order(form: Form, said: Sequence[str]) -> bool:
    """Whether a form's words stand in its order: milk chocolate is no chocolate milk."""
    wanted = [w for w in form.order if w in form.needs]
    places = [said.index(w) for w in wanted if w in said]
    return places == sorted(places) or bool(
        {"can", "canned", "dried", "cooked", "frozen", "smoked", "raw"} & form.needs
    )


def _state_score(food: Food, words: frozenset[str], form: Form) -> float:
    """How the row's state fits what the line says of it, or the usual one when it says nothing."""
    said = words & SAYS_STATE
    own = STATE_WORDS.get(food.state, frozenset()) | _row_words(food)
    if "fresh" in said and food.state in ("dry", "canned_drained", "canned_whole", "frozen"):
        return -15.0
    if "can" in said and food.state in ("dry", "raw", "frozen"):
        return -12.0
    if said:
        return 3.0 * len(said & own) - 3.0 * len(said - own - {"fresh", "ready"})
    if form.rank != NAME:
        return 0.0
    return {"raw": 1.0, "ready": 0.5, "dry": 0.5, "frozen": -3.0, "smoked": -6.0, "cooked": -5.0}.get(food.state, -4.0)
