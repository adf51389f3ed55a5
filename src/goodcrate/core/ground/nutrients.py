"""Nutrients: what a food holds per 100 g, and what an actual amount of food adds up to.

Two nouns. A `Composition` is a food's figures per 100 g, where `None` means *unknown*.
A `Tally` is the nutrients in so many real grams: what is known, how many grams it is
unknown for, and how each source of doubt bears on it. Unknown is never counted as zero:
a sum that misses something says so (`Measured.is_at_least`).

Errors follow first-order propagation: each independent source (one ingredient's weighing,
one portion's weighing) keeps its own signed share per nutrient, so the same doubt met twice
adds up straight, and different doubts add in quadrature (JCGM 100:2008, section 5).
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from math import isnan, sqrt
from types import MappingProxyType

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import short


@dataclass(frozen=True, slots=True)
class Nutrient:
    """One figure of a composition: its key, a cook's word for it, its unit and useful decimals."""

    key: str
    label: str
    unit: str
    decimals: int


NUTRIENTS: tuple[Nutrient, ...] = (
    Nutrient("energy_kcal", Saying("energy"), Saying("kcal"), 0),
    Nutrient("protein_g", Saying("protein"), "g", 1),
    Nutrient("fat_g", Saying("fat"), "g", 1),
    Nutrient("saturated_g", Saying("of which saturated"), "g", 1),
    Nutrient("carbohydrate_g", Saying("carbohydrate"), "g", 1),
    Nutrient("sugars_g", Saying("of which sugars"), "g", 1),
    Nutrient("polyols_g", Saying("of which polyols"), "g", 1),
    Nutrient("fibre_g", Saying("fibre"), "g", 1),
    Nutrient("alcohol_g", Saying("alcohol"), "g", 1),
    Nutrient("sodium_mg", Saying("sodium"), Saying("mg"), 0),
    Nutrient("potassium_mg", Saying("potassium"), Saying("mg"), 0),
    Nutrient("calcium_mg", Saying("calcium"), Saying("mg"), 0),
    Nutrient("iron_mg", Saying("iron"), Saying("mg"), 1),
    Nutrient("magnesium_mg", Saying("magnesium"), Saying("mg"), 0),
    Nutrient("zinc_mg", Saying("zinc"), Saying("mg"), 1),
    Nutrient("selenium_ug", Saying("selenium"), Saying("µg"), 0),
    Nutrient("iodine_ug", Saying("iodine"), Saying("µg"), 0),
    Nutrient("vitamin_a_ug_rae", Saying("vitamin A"), Saying("µg RAE"), 0),
    Nutrient("vitamin_c_mg", Saying("vitamin C"), Saying("mg"), 0),
    Nutrient("vitamin_d_ug", Saying("vitamin D"), Saying("µg"), 1),
    Nutrient("vitamin_b12_ug", Saying("vitamin B12"), Saying("µg"), 1),
    Nutrient("folate_ug", Saying("folate"), Saying("µg"), 0),
    Nutrient("cholesterol_mg", Saying("cholesterol"), Saying("mg"), 0),
    Nutrient("vitamin_e_mg", Saying("vitamin E"), Saying("mg"), 1),
    Nutrient("thiamin_mg", Saying("thiamin (B1)"), Saying("mg"), 2),
    Nutrient("riboflavin_mg", Saying("riboflavin (B2)"), Saying("mg"), 2),
    Nutrient("niacin_mg", Saying("niacin (B3)"), Saying("mg"), 1),
    Nutrient("vitamin_b6_mg", Saying("vitamin B6"), Saying("mg"), 2),
    Nutrient("choline_mg", Saying("choline"), Saying("mg"), 0),
    Nutrient("vitamin_k_ug", Saying("vitamin K"), Saying("µg"), 0),
    Nutrient("phosphorus_mg", Saying("phosphorus"), Saying("mg"), 0),
    Nutrient("copper_mg", Saying("copper"), Saying("mg"), 2),
    Nutrient("manganese_mg", Saying("manganese"), Saying("mg"), 2),
    Nutrient("omega3_g", Saying("omega-3"), "g", 1),
    Nutrient("epa_g", Saying("of which EPA"), "g", 2),
    Nutrient("dha_g", Saying("of which DHA"), "g", 2),
    Nutrient("ala_g", Saying("of which ALA"), "g", 2),
    Nutrient("omega6_g", Saying("omega-6"), "g", 1),
)
KEYS: tuple[str, ...] = tuple(n.key for n in NUTRIENTS)
BY_KEY: Mapping[str, Nutrient] = MappingProxyType({n.key: n for n in NUTRIENTS})
LARGEST_PER_100_G = 1e8
"""No figure is larger, in whatever unit: 100 g are 100,000,000 µg."""
_PLACE: Mapping[str, int] = MappingProxyType({key: place for place, key in enumerate(KEYS)})
_ZEROS: tuple[float, ...] = (0.0,) * len(KEYS)


def _place(key: str) -> int:
    try:
        return _PLACE[key]
    except KeyError:
        raise InvalidInput(
            key, say("This is not a nutrient we know."), say("Known: {KEYS}.", KEYS=", ".join(KEYS))
        ) from None


@dataclass(frozen=True, slots=True)
class Composition:
    """A food's nutrients per 100 g, in the order of `KEYS`; `None` is unknown.

    `errors_per_100_g` are the standard errors of the figures themselves, in the same order (a label prints few
    digits); empty when nothing is known about them. Figures named in `at_least` are known from below only: total
    carbohydrate of a label that lists fibre apart and prints none.

    Raises:
        InvalidInput: when a figure is negative or a tuple has the wrong length.
    """

    per_100_g: tuple[float | None, ...]
    errors_per_100_g: tuple[float, ...] = ()
    at_least: frozenset[str] = frozenset()
    # Worked out once, for every tally multiplies by them: figures per gram with unknown as 0, and where unknown is.
    _per_g: tuple[float, ...] = field(init=False, repr=False, compare=False)
    _unknown: tuple[float, ...] = field(init=False, repr=False, compare=False)
    _errors_per_g: tuple[float, ...] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_errors_per_g", tuple([e / 100 for e in self.errors_per_100_g]))
        object.__setattr__(self, "_per_g", tuple([0.0 if f is None else f / 100 for f in self.per_100_g]))
        object.__setattr__(self, "_unknown", tuple([1.0 if f is None else 0.0 for f in self.per_100_g]))
        if self.at_least:
            object.__setattr__(
                self, "_unknown", tuple([1.0 if k in self.at_least else u for k, u in self._unknown_of()])
            )
        if len(self.per_100_g) != len(KEYS) or len(self.errors_per_100_g) not in (0, len(KEYS)):
            raise InvalidInput(
                "composition",
                say("{per_100_g} figures given.", per_100_g=len(self.per_100_g)),
                say("{KEYS} are needed.", KEYS=len(KEYS)),
            )
        known = [figure for figure in self.per_100_g if figure is not None]
        # A figure that is no number makes the sum no number; min and max would pass it.
        if known and not (min(known) >= 0 and max(known) <= LARGEST_PER_100_G and not isnan(sum(known))):
            self._refuse()

    def _refuse(self) -> None:
        for key, figure in zip(KEYS, self.per_100_g, strict=True):
            if figure is not None and not 0 <= figure <= LARGEST_PER_100_G:
                raise InvalidInput(
                    key, say("{figure} is not possible.", figure=short(figure)), say("A figure per 100 g is 0 or more.")
                )

    def _unknown_of(self) -> Iterable[tuple[str, float]]:
        return zip(KEYS, self._unknown, strict=False)

    @classmethod
    def of(cls, figures: Mapping[str, float | None]) -> "Composition":
        """Build from figures by key; keys left out are unknown.

        Raises:
            InvalidInput: for a key that is no nutrient, or a negative figure.
        """
        for key in figures:
            _place(key)
        return cls(tuple(figures.get(key) for key in KEYS))

    def get(self, key: str) -> float | None:
        """The figure per 100 g in the nutrient's unit, or None when unknown.

        Raises:
            InvalidInput: for a key that is no nutrient.
        """
        return self.per_100_g[_place(key)]

    def net_carbohydrate_g(self, polyol_share: float) -> float | None:
        """Net carbohydrate per 100 g in g, see `net_carbohydrate_g`.

        Raises:
            InvalidInput: for a share outside 0 to 1.
        """
        return net_carbohydrate_g(self.as_mapping(), polyol_share, self.at_least)

    def as_mapping(self) -> dict[str, float | None]:
        """All figures by key, unknown ones included as None."""
        return dict(zip(KEYS, self.per_100_g, strict=True))


@dataclass(frozen=True, slots=True)
class Measured:
    """One nutrient of a real amount of food: known value, standard error, and what is missing."""

    value: float
    standard_error: float
    unknown_g: float
    grams: float

    @property
    def is_at_least(self) -> bool:
        """Some of the food has no figure, so the value is a lower bound."""
        return self.unknown_g > 0

    @property
    def is_unknown(self) -> bool:
        """None of the food has a figure: there is nothing to show."""
        return not self.value and self.unknown_g > 0 and self.unknown_g >= self.grams * (1 - 1e-12)

    @property
    def unknown_share(self) -> float:
        """Share of the weight without a figure, 0 to 1."""
        return min(1.0, self.unknown_g / self.grams) if self.grams > 0 else 0.0


Error = tuple[tuple[float, ...], float]
"""One source's effect on every nutrient: a shape, and the size it is multiplied by."""


@dataclass(frozen=True, slots=True)
class Tally:
    """Nutrients in `grams` of real food.

    `known[i]` is the known part of nutrient `KEYS[i]` in its unit, `unknown_g[i]` the grams
    of ingredients without a figure for it. `errors[source]` is the one-standard-deviation effect of
    one independent source of doubt, as (shape, size): on nutrient i it is shape[i] × size. An ingredient's
    shape is its figures per gram and its size grams, so that taking a share of a pot only changes the sizes.
    """

    grams: float = 0.0
    known: tuple[float, ...] = _ZEROS
    unknown_g: tuple[float, ...] = _ZEROS
    errors: Mapping[str, Error] = field(default_factory=dict)

    @classmethod
    def of(
        cls,
        composition: Composition,
        grams: float,
        standard_error_g: float = 0.0,
        source: str = "",
        figures_source: str = "figures",
    ) -> "Tally":
        """Nutrients in `grams` of a food: the doubt of its weighing filed under `source`, that of its figures
        (the label's rounding) under `figures_source`.

        Raises:
            InvalidInput: when grams or the error are negative.
        """
        if grams < 0 or standard_error_g < 0:
            raise InvalidInput("grams", say("An amount cannot be negative."), say("Give 0 or more grams."))
        per_g = composition._per_g
        known = tuple([f * grams for f in per_g])
        unknown = tuple([grams * u for u in composition._unknown])
        errors: dict[str, Error] = {}
        if standard_error_g > 0:
            errors[source] = (per_g, standard_error_g)
        if composition._errors_per_g and grams > 0:
            errors[figures_source] = (composition._errors_per_g, grams)
        return cls(grams, known, unknown, errors)

    def __add__(self, other: "Tally") -> "Tally":
        return Tally.sum((self, other))

    @classmethod
    def sum(cls, tallies: Iterable["Tally"]) -> "Tally":
        """Add any number of tallies; errors from the same source add straight."""
        parts = tuple(tallies)
        if not parts:
            return cls()
        errors: dict[str, Error] = {}
        for part in parts:
            for source, error in part.errors.items():
                seen = errors.get(source)
                errors[source] = error if seen is None else _add_errors(seen, error)
        return cls(
            sum([p.grams for p in parts]),
            tuple(map(sum, zip(*[p.known for p in parts], strict=True))),
            tuple(map(sum, zip(*[p.unknown_g for p in parts], strict=True))),
            errors,
        )

    def scaled(self, factor: float) -> "Tally":
        """The same food in another quantity: `factor` 0.25 is a quarter of it.

        Raises:
            InvalidInput: when the factor is negative.
        """
        if factor < 0:
            raise InvalidInput("factor", say("A share cannot be negative."), say("Give 0 or more."))
        return Tally(
            self.grams * factor,
            tuple([k * factor for k in self.known]),
            tuple([u * factor for u in self.unknown_g]),
            {source: (shape, size * factor) for source, (shape, size) in self.errors.items()},
        )

    def taken_off(self) -> "Tally":
        """The same food leaving instead of going in: poured off with what it holds.

        A nutrient without a figure stays as unknown as if it had gone in: how much left is not known.
        """
        return Tally(
            -self.grams,
            tuple([-k for k in self.known]),
            self.unknown_g,
            {source: (shape, -size) for source, (shape, size) in self.errors.items()},
        )

    def without(self, other: "Tally") -> "Tally":
        """The same with a part of it left out again; unlike what is poured off, it is known how much that was."""
        gone = Tally(
            -other.grams,
            tuple([-k for k in other.known]),
            tuple([-u for u in other.unknown_g]),
            {source: (shape, -size) for source, (shape, size) in other.errors.items()},
        )
        return Tally.sum((self, gone))

    def only(self, keys: frozenset[str]) -> "Tally":
        """The same grams with nothing but some nutrients: the others count as none, known as such."""
        kept = [key in keys for key in KEYS]

        def masked(figures: Iterable[float]) -> tuple[float, ...]:
            return tuple([f if keep else 0.0 for f, keep in zip(figures, kept, strict=True)])

        errors = {source: (masked(shape), size) for source, (shape, size) in self.errors.items()}
        return Tally(self.grams, masked(self.known), masked(self.unknown_g), errors)

    def with_grams(self, grams: float) -> "Tally":
        """The same nutrients in another weight: water gained or lost in the pot."""
        share = grams / self.grams if self.grams > 0 else 1.0
        return Tally(grams, self.known, tuple([u * share for u in self.unknown_g]), self.errors)

    def with_weighing_error(self, standard_error_g: float, source: str) -> "Tally":
        """Add the doubt of weighing this very portion of an even mixture."""
        if self.grams <= 0 or standard_error_g <= 0:
            return self
        share = standard_error_g / self.grams
        return Tally(self.grams, self.known, self.unknown_g, {**self.errors, source: (self.known, share)})

    def amount(self, key: str) -> Measured:
        """One nutrient with its standard error and what is unknown.

        Raises:
            InvalidInput: for a key that is no nutrient.
        """
        place = _place(key)
        error = sqrt(sum([(shape[place] * size) ** 2 for shape, size in self.errors.values()]))
        return Measured(self.known[place], error, self.unknown_g[place], self.grams)

    def amounts(self) -> tuple[Measured, ...]:
        """Every nutrient in the order of `KEYS`, without its standard error (0): for tables that do not show it."""
        pairs = zip(self.known, self.unknown_g, strict=True)
        return tuple([Measured(known, 0.0, unknown_g, self.grams) for known, unknown_g in pairs])

    def net_carbohydrate(self, polyol_share: float) -> Measured:
        """Net carbohydrate in g with its standard error; grams whose carbohydrate or fibre has no figure are unknown.

        Raises:
            InvalidInput: for a share outside 0 to 1.
        """
        total, fibre, polyols = (_place(key) for key in ("carbohydrate_g", "fibre_g", "polyols_g"))
        figures = {KEYS[place]: self.known[place] for place in (total, fibre, polyols)}
        off = [shape[total] - shape[fibre] - polyol_share * shape[polyols] for shape, _ in self.errors.values()]
        error = sqrt(sum([(x * size) ** 2 for x, (_, size) in zip(off, self.errors.values(), strict=True)]))
        unknown_g = max(self.unknown_g[total], self.unknown_g[fibre])
        return Measured(net_carbohydrate_g(figures, polyol_share) or 0.0, error, unknown_g, self.grams)

    def error_without(self, source: str, key: str = "energy_kcal") -> float:
        """The standard error of one nutrient if one source of doubt were gone, in the nutrient's unit.

        Raises:
            InvalidInput: for a key that is no nutrient.
        """
        place = _place(key)
        return sqrt(sum([(shape[place] * size) ** 2 for s, (shape, size) in self.errors.items() if s != source]))

    def doubt_shares(self, key: str = "energy_kcal") -> tuple[tuple[str, float], ...]:
        """Each source's share (0 to 1) of the variance of one nutrient, largest first."""
        place = _place(key)
        squares = {source: (shape[place] * size) ** 2 for source, (shape, size) in self.errors.items()}
        whole = sum(squares.values())
        if whole == 0:
            return ()
        return tuple(sorted(((s, q / whole) for s, q in squares.items()), key=lambda item: (-item[1], item[0])))


def _add_errors(a: Error, b: Error) -> Error:
    """The same source met twice adds up straight."""
    if a[0] is b[0]:
        return a[0], a[1] + b[1]
    return tuple([x * a[1] + y * b[1] for x, y in zip(a[0], b[0], strict=True)]), 1.0


ENERGY_FACTORS_KCAL_PER_G: Mapping[str, float] = MappingProxyType(
    {"protein": 4.0, "fat": 9.0, "carbohydrate": 4.0, "fibre": 2.0, "polyols": 2.4, "alcohol": 7.0}
)
"""Conversion factors of Regulation (EU) No 1169/2011, Annex XIV; the carbohydrate is without fibre and polyols."""


def energy_by_source(figures: Mapping[str, float | None]) -> dict[str, float]:
    """Energy in kcal from protein, fat, net carbohydrate, fibre and alcohol; unknown counts as nothing.

    `figures` are grams by nutrient key (per 100 g, per serving, per batch: the result has the same basis).
    Carbohydrate is total, with fibre and polyols inside, as in our reference table; the energy of polyols counts
    as carbohydrate's.
    """

    def grams(key: str) -> float:
        return figures.get(key) or 0.0

    fibre, polyols, factor = grams("fibre_g"), grams("polyols_g"), ENERGY_FACTORS_KCAL_PER_G
    net = max(0.0, grams("carbohydrate_g") - fibre - polyols)
    return {
        "protein": grams("protein_g") * factor["protein"],
        "fat": grams("fat_g") * factor["fat"],
        "carbohydrate": net * factor["carbohydrate"] + polyols * factor["polyols"],
        "fibre": fibre * factor["fibre"],
        "alcohol": grams("alcohol_g") * factor["alcohol"],
    }


def net_carbohydrate_g(
    figures: Mapping[str, float | None], polyol_share: float, at_least: frozenset[str] = frozenset()
) -> float | None:
    """Total carbohydrate − fibre − a chosen share of the polyols, in g on the figures' own basis.

    None when carbohydrate or fibre is unknown, unless the total is `at_least` known: then it was printed without fibre,
    which is the net figure. Unknown polyols take nothing off, so the figure is then a most.

    Raises:
        InvalidInput: when the share is not from 0 to 1.
    """
    if not 0 <= polyol_share <= 1:
        raise InvalidInput(
            "polyol_share", say("{polyol_share} is no share.", polyol_share=short(polyol_share)), say("From 0 to 1.")
        )
    carbohydrate, fibre = figures.get("carbohydrate_g"), figures.get("fibre_g")
    if fibre is None and "carbohydrate_g" in at_least:
        fibre = 0.0
    if carbohydrate is None or fibre is None:
        return None
    return max(0.0, carbohydrate - fibre - polyol_share * (figures.get("polyols_g") or 0.0))


def main_energy_source(figures: Mapping[str, float | None], grams: float) -> str:
    """What a component mostly is, for its texture: protein, fat, carbohydrate or fibre.

    Under 0.5 kcal per gram it is vegetables and water: `fibre`. Otherwise protein when it gives
    30 % of the energy, fat when it gives 60 %, else carbohydrate. Our own rule of drawing, no dietetics.
    """
    energy = energy_by_source(figures)
    whole = sum(energy.values())
    if whole <= 0 or grams <= 0 or whole / grams < 0.5:
        return "fibre"
    if energy["protein"] / whole >= 0.30:
        return "protein"
    if energy["fat"] / whole >= 0.60:
        return "fat"
    return "carbohydrate"
