"""What a week says of the containers its boxes need: too few at a time, or none that is large enough."""

from collections.abc import Sequence

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many, session_time
from goodcrate.core.recipes.vessels import BOX, MEAL_BOX_ML, Vessel, holds_g
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.figures import whole

TELLS_UP_TO = 6
"""With more boxes too few than this, another session or more boxes help, and no dish by itself."""
NAMED = 1
"""So many dishes without a container are named, the others counted."""


def container_warnings(picture: WeekPicture) -> tuple[str, ...]:
    """A sentence for each session that packs more boxes than there are containers, and for each dish whose portion no
    container takes; with what would take them."""
    kinds = [v for v in picture.vessels if v.kind == BOX and v.volume_ml >= MEAL_BOX_ML]
    if not kinds:
        return ()
    small = sum("/" in key for key in picture.packing.without)  # what is kept apart of a meal
    pots = (say("{count} too few for what is kept apart.", count=many(small, "small pot")),) if small else ()
    return (*_too_large(picture, max(map(holds_g, kinds))), *_too_few(picture, kinds), *pots)


def _grams(picture: WeekPicture, key: str) -> float:
    return sum(part.grams for part in picture.outcome.boxes[key].parts)


def _too_large(picture: WeekPicture, most_g: float) -> list[str]:
    found: dict[str, int] = {}
    for meal in picture.meals:
        if str(meal.id) in picture.packing.too_large:
            name = picture.recipes[str(meal.recipe_id)].name
            found[name] = found.get(name, 0) + 1
    return [
        say(
            "{name}: {portions} too large for any box ({most_g} g).",
            name=name,
            portions=many(count, "portion"),
            most_g=whole(most_g),
        )
        for name, count in found.items()
    ]


def _too_few(picture: WeekPicture, kinds: Sequence[Vessel]) -> list[str]:
    told = []
    for session in picture.sessions:
        lack: dict[str, list[float]] = {}
        for meal in picture.meals:
            key = str(meal.id)
            if key in picture.packing.without and picture.outcome.boxes[key].placing.session_key == session.key:
                lack.setdefault(picture.recipes[str(meal.recipe_id)].name, []).append(_grams(picture, key))
        if not lack:
            continue
        count = sum(map(len, lack.values()))
        meals = [f"{len(grams)} × {name} ({_fitting(max(grams), kinds)})" for name, grams in lack.items()]
        if len(meals) > NAMED:
            meals = [*meals[:NAMED], say("{count} more", count=count - sum(map(len, list(lack.values())[:NAMED])))]
        words = {"at": session_time(session.starts_at), "count": many(count, "box", "boxes")}
        if count <= TELLS_UP_TO:
            told.append(say("{at}: {count} too few, for {meals}.", meals=", ".join(meals), **words))
        else:
            told.append(say("{at}: {count} too few.", **words))
    return told


def _fitting(grams: float, kinds: Sequence[Vessel]) -> str:
    """What a portion would go into: “750 or 500 ml”."""
    sizes = sorted({round(v.volume_ml) for v in kinds if holds_g(v) >= grams}, reverse=True)
    return say("{sizes} ml", sizes=say(" or ").join(map(str, sizes))) if sizes else say("two boxes")
