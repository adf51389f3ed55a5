"""The one router of targets, and what the selects of an eater offer; the short page comes first on it."""

from fastapi import APIRouter

from goodcrate.core.foods.food import ALLERGENS
from goodcrate.core.ground.document import ReadDocument
from goodcrate.core.targets.body import ACTIVITIES, SEXES
from goodcrate.core.targets.cautions import CONDITIONS
from goodcrate.core.targets.target_ways import ENERGY_WAYS, PROTEIN_WAYS
from goodcrate.services.targets import household_eaters
from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/targets", route_class=AgainRoute)
CHOICES: ReadDocument = {
    "allergens": ALLERGENS,
    "ways": ENERGY_WAYS,
    "protein_ways": PROTEIN_WAYS,
    "conditions": CONDITIONS,
    "diets": household_eaters.DIETS_OF_EATERS,
    "sexes": SEXES,
    "activities": ACTIVITIES,
}
"""What the selects and ticks of an eater offer."""
