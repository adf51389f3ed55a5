"""Care where a target can hurt somebody: floors, deficits, conditions that belong with a clinician, limits.

One line each, with its source. Nothing here advises; it warns, refuses to compute, and points to licensed care.
"""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass

from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import shown, told_weight
from goodcrate.core.targets.body import FEMALE, MALE

CONFIRM_BELOW_KCAL, WARN_BELOW_WOMEN_KCAL, WARN_BELOW_MEN_KCAL = 1000.0, 1200.0, 1500.0
LARGEST_DEFICIT_SHARE, LARGEST_LOSS_SHARE = 0.25, 0.01
HIGH_PROTEIN_G_PER_KG = 2.0
CONDITIONS: Mapping[str, str] = {
    "under_18": Saying("under 18"),
    "pregnant": Saying("pregnant"),
    "breastfeeding": Saying("breastfeeding"),
    "kidney": Saying("a kidney disease"),
    "diabetes": Saying("insulin or other diabetes medication"),
    "eating_disorder": Saying("an eating disorder, now or in the past"),
    "gut_surgery": Saying("surgery on the stomach or gut"),
}
"""Asked once, plainly: with any of them we compute no target and point to licensed care."""
CLINICIAN = Saying("follow your own clinician")
_LOW_ENERGY_SOURCE = f"Harvard Health Publishing on very low energy intakes; {CLINICIAN}"
_DEFICIT_SOURCE = f"UK National Health Service and US CDC: about 0.5 to 1 kg a week at most; {CLINICIAN}"
_CONDITION_SOURCE = f"common practice of dietetics: licensed care sets such targets; {CLINICIAN}"
_KIDNEY_SOURCE = f"KDIGO guideline on chronic kidney disease (2024): avoid high protein intakes; {CLINICIAN}"


@dataclass(frozen=True, slots=True)
class Caution:
    """One line of care, with its source; `needs_confirmation` when it may not be passed over in silence."""

    text: str
    source: str
    needs_confirmation: bool = False


def low_energy_caution(energy_kcal: float, sex: str = "") -> Caution | None:
    """The caution for a low daily energy target, or None.

    Floors: 1,200 kcal for women, 1,500 for men, both where nobody said; under 1,000 kcal an explicit confirmation is
    asked for, and nothing is planned to it automatically.
    """
    if energy_kcal < CONFIRM_BELOW_KCAL:
        return Caution(
            say(
                "Under {shown} kcal a day belongs in the hands of a doctor or registered dietitian. "
                "We keep such a target only when they gave it, and never plan to it by ourselves.",
                shown=shown(1000),
            ),
            _LOW_ENERGY_SOURCE,
            needs_confirmation=True,
        )
    if energy_kcal < WARN_BELOW_WOMEN_KCAL:
        words = say("Under {low} kcal a day: please set this with a doctor or registered dietitian.", low=shown(1200))
        return Caution(words, _LOW_ENERGY_SOURCE)
    if energy_kcal < WARN_BELOW_MEN_KCAL and sex != FEMALE:
        words = say("Under {shown} kcal a day is low", shown=shown(1500)) + ("" if sex == MALE else say(" for men"))
        words = say("{words}: please set this with a doctor or registered dietitian.", words=words)
        return Caution(words, _LOW_ENERGY_SOURCE)
    return None


def deficit_cautions(needed_kcal: float, chosen_kcal: float, loss_kg: float, weight_kg: float) -> Iterator[Caution]:
    """Cautions for eating much less than what keeps the weight: over 25 %, or over 1 % of the weight a week."""
    share = 1 - chosen_kcal / needed_kcal
    if share > LARGEST_DEFICIT_SHARE + 1e-9:
        words = say("{share} % less than keeps your weight is more than 25 %", share=shown(share * 100))
        yield Caution(
            say("{words}: choose less, or set it with a doctor or registered dietitian.", words=words), _DEFICIT_SOURCE
        )
    if loss_kg > LARGEST_LOSS_SHARE * weight_kg + 1e-9:
        share_pct = shown(loss_kg / weight_kg * 100, 1)
        words = say(
            "About {loss_kg} a week would be {share_pct} % of your weight, more than 1 %",
            loss_kg=told_weight(loss_kg),
            share_pct=share_pct,
        )
        yield Caution(
            say("{words}: choose less, or set it with a doctor or registered dietitian.", words=words), _DEFICIT_SOURCE
        )


def condition_cautions(conditions: Collection[str]) -> Iterator[Caution]:
    """One caution naming what was ticked, in the order asked."""
    named = [words for key, words in CONDITIONS.items() if key in conditions]
    if named:
        yield Caution(
            say(
                "With {named}, a target belongs with a doctor or registered dietitian. We compute "
                "none; type what they gave.",
                named=", ".join(named),
            ),
            _CONDITION_SOURCE,
        )


def protein_cautions(protein_g: float, weight_kg: float | None, conditions: Collection[str]) -> Iterator[Caution]:
    """A high protein floor with a kidney disease, and a very high one without anything known against it."""
    if "kidney" in conditions and (weight_kg is None or protein_g > 0.8 * weight_kg):
        yield Caution(
            say("A high protein floor can harm diseased kidneys: only as your clinician says."), _KIDNEY_SOURCE
        )
    elif weight_kg is not None and weight_kg > 0 and protein_g > HIGH_PROTEIN_G_PER_KG * weight_kg:
        per_kg = shown(protein_g / weight_kg, 1)
        words = say(
            "{protein_g} g of protein is {per_kg} g per kg of body weight, which is a lot",
            protein_g=shown(protein_g),
            per_kg=per_kg,
        )
        source = say(
            "EFSA (2012): twice the reference intake is safe for healthy adults; {CLINICIAN}", CLINICIAN=CLINICIAN
        )
        yield Caution(say("{words}: not with a kidney disease.", words=words), source)
