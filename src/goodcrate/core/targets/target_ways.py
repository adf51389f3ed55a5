"""The ways a day's target is set: typed, from body size, in blocks, per kg or lb, by shares; with its cautions."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import round_half_up, short, shown
from goodcrate.core.targets.body import (
    Blocks,
    Body,
    Split,
    Worked,
    WorkingLine,
    chosen_energy,
    needed_energy,
    protein_per_weight,
)
from goodcrate.core.targets.body import weekly_loss_kg as loss_of
from goodcrate.core.targets.cautions import (
    CONDITIONS,
    Caution,
    condition_cautions,
    deficit_cautions,
    low_energy_caution,
    protein_cautions,
)

TYPED, BODY, BLOCKS = "typed", "body", "blocks"
ENERGY_WAYS: Mapping[str, str] = {
    TYPED: Saying("as typed"),
    BODY: Saying("from body size"),
    BLOCKS: Saying("in blocks"),
}
PER_KG, PER_LB, SHARE = "per_kg", "per_lb", "share"
PROTEIN_WAYS: Mapping[str, str] = {
    TYPED: Saying("g as typed"),
    PER_KG: Saying("g per kg of body weight"),
    PER_LB: Saying("g per lb of body weight"),
    SHARE: Saying("% of the energy"),
}
SPLIT_BAND_PCT = 15.0
"""With a split, fat and carbohydrate get a band of ±15 % around their share: our own width."""
YOUR_OWN = Saying("your own figure")


@dataclass(frozen=True, slots=True)
class DayWay:
    """How one kind of day is set, as typed. `energy_kcal` and `protein_g` count for the typed ways only."""

    energy_way: str = TYPED
    energy_kcal: float = 0.0
    change_pct: float = 0.0
    meals: int = 0
    snacks: int = 0
    protein_way: str = TYPED
    protein_g: float = 0.0
    protein_value: float = 0.0
    fat_pct: float | None = None
    carbohydrate_pct: float | None = None


@dataclass(frozen=True, slots=True)
class Person:
    """What of an eater their targets are worked out with; None and empty are not said."""

    sex: str = ""
    body: Body | None = None
    weight_kg: float | None = None
    activity: str = "light"
    blocks: Blocks | None = None
    conditions: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class WorkedDay:
    """A day's energy (kcal) and protein floor (g) with their workings, bands that follow (g), and cautions."""

    energy: Worked
    protein: Worked
    cautions: tuple[Caution, ...]
    bands: Mapping[str, tuple[float | None, float | None]] = field(default_factory=dict)


def work_out(way: DayWay, person: Person) -> WorkedDay:
    """Work a kind of day out.

    Raises:
        InvalidInputs: naming the field (`energy_way`, `energy_change_pct`, `meal_blocks`, `protein_value` …) that
            keeps the figure away, also where a condition means that we compute none.
    """
    faults: list[InvalidInput] = []
    energy = protein = None
    bands: dict[str, tuple[float | None, float | None]] = {}
    try:
        energy = _energy(way, person)
    except InvalidInput as fault:
        faults.append(fault)
    try:
        protein, bands = _protein(way, person, energy)
    except InvalidInput as fault:
        faults.append(fault)
    if faults or energy is None or protein is None:
        raise InvalidInputs(faults)
    return WorkedDay(energy, protein, tuple(_cautions(energy, protein, person)), bands)


def _energy(way: DayWay, person: Person) -> Worked:
    if way.energy_way == TYPED:
        line = WorkingLine(
            say("the day’s energy"),
            say("as typed"),
            say("{energy_kcal} kcal", energy_kcal=shown(way.energy_kcal)),
            YOUR_OWN,
        )
        return Worked(way.energy_kcal, (line,))
    if way.energy_way == BLOCKS:
        if person.blocks is None:
            raise InvalidInput(
                "energy_way", say("The size of a meal and of a snack is not said."), say("Give both in kcal.")
            )
        return person.blocks.day(way.meals, way.snacks)
    if way.energy_way != BODY:
        raise InvalidInput(
            "energy_way",
            say("“{energy_way}” is no way we know.", energy_way=way.energy_way),
            say("One of {ENERGY_WAYS}.", ENERGY_WAYS=", ".join(ENERGY_WAYS)),
        )
    _refuse_with_conditions("energy_way", person)
    if person.body is None:
        raise InvalidInput("energy_way", say("Body size is not complete."), say("Give sex, years, height and weight."))
    return chosen_energy(person.body, person.activity, way.change_pct)


def _protein(
    way: DayWay, person: Person, energy: Worked | None
) -> tuple[Worked | None, dict[str, tuple[float | None, float | None]]]:
    if way.protein_way == TYPED:
        return Worked(
            way.protein_g, (WorkingLine("protein", say("as typed"), f"{shown(way.protein_g)} g", YOUR_OWN),)
        ), {}
    if way.protein_way in (PER_KG, PER_LB):
        _refuse_with_conditions("protein_way", person)
        if person.weight_kg is None:
            raise InvalidInput("protein_way", say("The body weight is not said."), say("Give it in kg."))
        return protein_per_weight(person.weight_kg, way.protein_value, way.protein_way.removeprefix("per_")), {}
    if way.protein_way != SHARE:
        problem = say("“{protein_way}” is no way we know.", protein_way=way.protein_way)
        raise InvalidInput("protein_way", problem, say("One of {PROTEIN_WAYS}.", PROTEIN_WAYS=", ".join(PROTEIN_WAYS)))
    fat, carbohydrate = way.fat_pct, way.carbohydrate_pct
    if fat is None and carbohydrate is None:
        split = Split(way.protein_value, 100 - way.protein_value, 0)
        return (None if energy is None else split.protein_g(energy.value)), {}
    if fat is None:
        fat = 100 - way.protein_value - (carbohydrate or 0)
    if carbohydrate is None:
        carbohydrate = 100 - way.protein_value - fat
    split = Split(way.protein_value, fat, carbohydrate)
    if energy is None:
        return None, {}
    fat_g, carbohydrate_g = split.grams(energy.value)
    around = f"±{short(SPLIT_BAND_PCT)} %"
    low, high = 1 - SPLIT_BAND_PCT / 100, 1 + SPLIT_BAND_PCT / 100
    bands: dict[str, tuple[float | None, float | None]] = {
        "fat_g": (round_half_up(fat_g * low), round_half_up(fat_g * high)),
        "net_carbohydrate_g": (round_half_up(carbohydrate_g * low), round_half_up(carbohydrate_g * high)),
    }
    lines = (
        *split.protein_g(energy.value).lines,
        WorkingLine("fat", say("{fat} % ÷ 9 kcal per g, {around}", fat=short(fat), around=around), f"{shown(fat_g)} g"),
        WorkingLine(
            "carbohydrate",
            say("{carbohydrate} % ÷ 4 kcal per g, {around}", carbohydrate=short(carbohydrate), around=around),
            f"{shown(carbohydrate_g)} g",
        ),
    )
    return Worked(split.protein_g(energy.value).value, lines), bands


def _refuse_with_conditions(field_name: str, person: Person) -> None:
    named = [words for key, words in CONDITIONS.items() if key in person.conditions]
    if named:
        problem = say("With {named}, we compute no target.", named=", ".join(named))
        raise InvalidInput(field_name, problem, say("Ask a doctor or registered dietitian, and type what they gave."))


def _cautions(energy: Worked, protein: Worked, person: Person) -> list[Caution]:
    cautions = list(condition_cautions(person.conditions))
    low = low_energy_caution(energy.value, person.sex)
    if low is not None:
        cautions.append(low)
    if person.body is not None and not person.conditions:
        needed = needed_energy(person.body, person.activity).value
        loss = loss_of(needed, energy.value)
        cautions += deficit_cautions(needed, energy.value, loss, person.body.weight_kg)
    cautions += protein_cautions(protein.value, person.weight_kg, person.conditions)
    return cautions
