"""Energy and protein from body size, each with its working: the formula, what went in, who says so.

These are estimates for healthy adults. Whoever is under 18, pregnant, breastfeeding or ill gets none from us: see
`goodcrate.core.targets.cautions`.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import height_in_formula, round_half_up, short, shown, told_weight, weight_in_formula

FEMALE, MALE = "female", "male"
SEXES: Mapping[str, str] = {FEMALE: "female", MALE: "male"}
ACTIVITIES: Mapping[str, tuple[float, str]] = {
    "sitting": (1.2, Saying("sitting, hardly any sport")),
    "light": (1.375, Saying("on the feet now and then, sport 1–3 times a week")),
    "moderate": (1.55, Saying("on the feet a lot, sport 3–5 times a week")),
    "heavy": (1.725, Saying("hard work, or sport on most days")),
    "very_heavy": (1.9, Saying("hard work and sport every day")),
}
"""Customary multipliers of the energy at rest: a habit of practice, no measurement of you."""
RESTING_SOURCE = Saying("Mifflin–St Jeor equation, American Journal of Clinical Nutrition 51 (1990) 241–247")
ACTIVITY_SOURCE = Saying("customary activity multipliers; true needs differ by 10 % and more, so follow your weight")
PROTEIN_SOURCE = Saying(
    "your own choice per body weight; the reference intake is 0.8 g per kg (US National Academies, 2005)"
)
ENERGY_SOURCE = Saying("4, 9 and 4 kcal per g: Regulation (EU) 1169/2011")
KG_PER_LB = 0.45359237
KCAL_PER_KG = 7700.0
"""Energy of a kilogram of body weight: the customary round figure; it overstates long losses."""
ADULT_YEARS = 18
LARGEST_CHANGE_PCT = 40.0


@dataclass(frozen=True, slots=True)
class WorkingLine:
    """One line of a working: what, how it comes about, what it gives, and who says so."""

    what: str
    working: str
    result: str
    source: str = ""


@dataclass(frozen=True, slots=True)
class Worked:
    """A figure with its working."""

    value: float
    lines: tuple[WorkingLine, ...]


@dataclass(frozen=True, slots=True)
class Body:
    """An adult's body: sex as the equation knows it, years, cm, kg.

    Raises:
        InvalidInputs: naming every figure outside what the equation was made from.
    """

    sex: str
    age_years: float
    height_cm: float
    weight_kg: float

    def __post_init__(self) -> None:
        faults = []
        if self.sex not in SEXES:
            faults.append(InvalidInput("sex", say("The equation knows two: female and male."), say("Choose one.")))
        if self.age_years < ADULT_YEARS:
            words = say("Under 18 we compute nothing: growing bodies need what growing takes.")
            faults.append(InvalidInput("age_years", words, say("Type what a doctor or registered dietitian gives.")))
        for name, value, low, high, told in (
            ("age_years", self.age_years, 0, 100, lambda years: say("{years} years", years=short(years))),
            ("height_cm", self.height_cm, 120, 230, height_in_formula),
            ("weight_kg", self.weight_kg, 35, 300, weight_in_formula),
        ):
            if not low <= value <= high:
                reach = say("From {low} to {high}.", low=told(low), high=told(high))
                faults.append(InvalidInput(name, say("{value} is outside the equation.", value=told(value)), reach))
        if faults:
            raise InvalidInputs(faults)


def resting_energy(body: Body) -> Worked:
    """Energy at rest in kcal a day: 10·kg + 6.25·cm − 5·years + 5 (male) or − 161 (female)."""
    constant = 5 if body.sex == MALE else -161
    kcal = 10 * body.weight_kg + 6.25 * body.height_cm - 5 * body.age_years + constant
    sign = "+ 5" if constant > 0 else "− 161"
    working = (
        f"10 × {weight_in_formula(body.weight_kg)} + 6.25 × {height_in_formula(body.height_cm)} − 5 × "
        f"{short(body.age_years)} {sign}"
    )
    return Worked(
        kcal, (WorkingLine(say("energy at rest"), working, say("{kcal} kcal", kcal=shown(kcal)), RESTING_SOURCE),)
    )


def needed_energy(body: Body, activity: str) -> Worked:
    """Energy in kcal a day that keeps the weight: at rest × activity.

    Raises:
        InvalidInput: for an activity we do not know.
    """
    if activity not in ACTIVITIES:
        raise InvalidInput(
            "activity",
            say("“{activity}” is no activity we know.", activity=activity),
            say("One of {ACTIVITIES}.", ACTIVITIES=", ".join(ACTIVITIES)),
        )
    rest, (factor, words) = resting_energy(body), ACTIVITIES[activity]
    kcal = rest.value * factor
    line = WorkingLine(
        words, f"{shown(rest.value)} × {short(factor)}", say("{kcal} kcal", kcal=shown(kcal)), ACTIVITY_SOURCE
    )
    return Worked(kcal, (*rest.lines, line))


def chosen_energy(body: Body, activity: str, change_pct: float) -> Worked:
    """A day's target in whole tens of kcal: what keeps the weight, plus or minus a chosen share of it.

    Raises:
        InvalidInput: for an activity we do not know or a change of more than 40 %.
    """
    if not -LARGEST_CHANGE_PCT <= change_pct <= LARGEST_CHANGE_PCT:
        problem = say("{change_pct} is outside what we compute.", change_pct=_change(change_pct))
        wanted = say(
            "From {change} to {LARGEST_CHANGE_PCT}.",
            change=_change(-LARGEST_CHANGE_PCT),
            LARGEST_CHANGE_PCT=_change(LARGEST_CHANGE_PCT),
        )
        raise InvalidInput("energy_change_pct", problem, wanted)
    needed = needed_energy(body, activity)
    kcal = round_half_up(needed.value * (1 + change_pct / 100) / 10) * 10.0
    if change_pct == 0:
        return Worked(
            kcal,
            (
                *needed.lines,
                WorkingLine(say("the day’s target"), say("in whole tens"), say("{kcal} kcal", kcal=shown(kcal))),
            ),
        )
    word = "surplus" if change_pct > 0 else "deficit"
    lines = [WorkingLine(say("{word} you chose", word=word), _change(change_pct), say("{kcal} kcal", kcal=shown(kcal)))]
    loss = weekly_loss_kg(needed.value, kcal)
    if loss > 0:
        working = say(
            "{value} kcal × 7 ÷ {KCAL_PER_KG} kcal per kg",
            value=shown(needed.value - kcal),
            KCAL_PER_KG=shown(KCAL_PER_KG),
        )
        lines.append(
            WorkingLine(say("predicted loss a week"), working, told_weight(loss, 2), say("a round figure; losses slow"))
        )
    return Worked(kcal, (*needed.lines, *lines))


def _change(pct: float) -> str:
    return f"{'−' if pct < 0 else '+'}{short(abs(pct))} %"


def weekly_loss_kg(needed_kcal: float, chosen_kcal: float) -> float:
    """Body weight in kg that a deficit would take off in a week; 0 without a deficit."""
    return max(0.0, needed_kcal - chosen_kcal) * 7 / KCAL_PER_KG


def protein_per_weight(weight_kg: float, grams: float, unit: str) -> Worked:
    """A protein floor in g a day from body weight; `unit` is kg or lb.

    Raises:
        InvalidInput: for a unit or an amount that cannot be.
    """
    if unit not in ("kg", "lb"):
        raise InvalidInput("protein_way", say("“{unit}” is no unit of body weight.", unit=unit), say("kg or lb."))
    per_kg = grams if unit == "kg" else grams / KG_PER_LB
    if not 0.4 <= per_kg <= 4:
        problem = say(
            "{grams} g per {unit} is {per_kg} g per kg.", grams=short(grams), unit=unit, per_kg=shown(per_kg, 1)
        )
        raise InvalidInput(
            "protein_value",
            problem,
            say(
                "From {short} to 4 g per kg ({short2} to {short3} g per lb).",
                short=short(0.4),
                short2=short(0.2),
                short3=short(1.8),
            ),
        )
    weight = weight_kg if unit == "kg" else weight_kg / KG_PER_LB
    floor = round_half_up(grams * weight)
    working = (
        f"{short(grams)} g × {shown(weight, 1)} {unit}"
        if unit == "lb"
        else say("{grams} g × {weight} kg", grams=short(grams), weight=short(weight))
    )
    return Worked(floor, (WorkingLine("protein", working, f"{shown(floor)} g", PROTEIN_SOURCE),))


@dataclass(frozen=True, slots=True)
class Split:
    """Shares of a day's energy in %: protein, fat, carbohydrate; together 100.

    Raises:
        InvalidInput: when they are not 100 together, or one cannot be.
    """

    protein_pct: float
    fat_pct: float
    carbohydrate_pct: float

    def __post_init__(self) -> None:
        whole = self.protein_pct + self.fat_pct + self.carbohydrate_pct
        if min(self.protein_pct, self.fat_pct, self.carbohydrate_pct) < 0 or abs(whole - 100) > 0.5:
            raise InvalidInput(
                "split",
                say("The shares come to {whole} %.", whole=short(whole)),
                say("Protein, fat and carbohydrate make 100 %."),
            )

    def protein_g(self, energy_kcal: float) -> Worked:
        """The protein floor: its share of the energy at 4 kcal a gram."""
        grams = round_half_up(energy_kcal * self.protein_pct / 100 / 4)
        working = say(
            "{protein_pct} % of {energy_kcal} kcal ÷ 4 kcal per g",
            protein_pct=short(self.protein_pct),
            energy_kcal=shown(energy_kcal),
        )
        return Worked(grams, (WorkingLine("protein", working, f"{shown(grams)} g", ENERGY_SOURCE),))

    def grams(self, energy_kcal: float) -> tuple[float, float]:
        """Fat and carbohydrate (without fibre) in g that the shares come to."""
        return energy_kcal * self.fat_pct / 100 / 9, energy_kcal * self.carbohydrate_pct / 100 / 4


@dataclass(frozen=True, slots=True)
class Blocks:
    """A school of fixed portions: meals of so many kcal, snacks of so many, a day made of whole ones."""

    meal_kcal: float
    snack_kcal: float

    def __post_init__(self) -> None:
        for name, kcal in (("meal_block_kcal", self.meal_kcal), ("snack_block_kcal", self.snack_kcal)):
            if not 50 <= kcal <= 1500:
                raise InvalidInput(
                    name,
                    say("A block of {kcal} kcal is not possible.", kcal=short(kcal)),
                    say("From 50 to {shown} kcal.", shown=shown(1500)),
                )

    def day(self, meals: int, snacks: int) -> Worked:
        """A day of so many meals and snacks, in kcal.

        Raises:
            InvalidInput: for more blocks than a day has room for, or none.
        """
        if not (0 <= meals <= 12 and 0 <= snacks <= 12 and meals + snacks):
            raise InvalidInput(
                "meal_blocks",
                say("{meals} meals and {snacks} snacks make no day.", meals=meals, snacks=snacks),
                say("1 to 12 of each."),
            )
        kcal = meals * self.meal_kcal + snacks * self.snack_kcal
        working = say(
            "{meals} × {meal_kcal} + {snacks} × {snack_kcal} kcal",
            meals=meals,
            meal_kcal=short(self.meal_kcal),
            snacks=snacks,
            snack_kcal=short(self.snack_kcal),
        )
        return Worked(kcal, (WorkingLine(say("the day in blocks"), working, say("{kcal} kcal", kcal=shown(kcal))),))

    def sums(self, most_kcal: float = 2500.0) -> tuple[int, ...]:
        """Every energy that whole blocks can give one box, in whole kcal, from the smallest on."""
        found = {
            int(round_half_up(meals * self.meal_kcal + snacks * self.snack_kcal))
            for meals in range(6)
            for snacks in range(6)
            if meals + snacks
        }
        return tuple(sorted(kcal for kcal in found if kcal <= most_kcal))

    def words(self, kcal: float) -> str:
        """An energy as the blocks it is nearest to: “1 meal + 1 snack”."""
        choices = [
            (abs(m * self.meal_kcal + s * self.snack_kcal - kcal), m + s, m, s)
            for m in range(6)
            for s in range(6)
            if m + s
        ]
        _, _, meals, snacks = min(choices)
        parts = [f"{n} {word}{'s' if n != 1 else ''}" for n, word in ((meals, "meal"), (snacks, "snack")) if n]
        return " + ".join(parts)
