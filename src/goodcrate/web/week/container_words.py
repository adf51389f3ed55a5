"""What a week says of the containers its boxes need: too few at a time, or none that is large enough."""

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many, session_time, weekday
from goodcrate.core.portion.containers import holds_g
from goodcrate.core.recipes.vessels import BOX, MEAL_BOX_ML
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.figures import whole


def container_warnings(picture: WeekPicture) -> tuple[str, ...]:
    """A sentence for each session that packs more boxes than there are containers, and for each dish whose portion no
    container takes; with what would take them."""
    kinds = [v for v in picture.vessels if v.kind == BOX and v.volume_ml >= MEAL_BOX_ML]
    if not kinds:
        return ()
    return (*_too_large(picture, max(map(holds_g, kinds))), *_too_few(picture))


def _grams(picture: WeekPicture, key: str) -> float:
    return sum(part.grams for part in picture.outcome.boxes[key].parts)


def _too_large(picture: WeekPicture, most_g: float) -> list[str]:
    found: dict[str, list[str]] = {}
    for meal in picture.meals:
        if str(meal.id) in picture.packing.too_large:
            portion = f"{weekday(meal.day)} {whole(_grams(picture, str(meal.id)))} g"
            found.setdefault(picture.recipes[str(meal.recipe_id)].name, []).append(portion)
    return [
        say(
            "{name} ({portions}): no box takes so much, your largest takes {most_g} g. Two boxes each, or less.",
            name=name,
            portions=", ".join(portions),
            most_g=whole(most_g),
        )
        for name, portions in found.items()
    ]


def _too_few(picture: WeekPicture) -> list[str]:
    told = []
    packing = picture.packing
    for session in picture.sessions:
        lack = [
            m for m in picture.meals if str(m.id) in packing.without and _cooked_in(picture, str(m.id)) == session.key
        ]
        if not lack:
            continue
        meals = ", ".join(
            f"{picture.recipes[str(m.recipe_id)].name} {weekday(m.day)} ({whole(_grams(picture, str(m.id)))} g)"
            for m in lack
        )
        taken: dict[str, int] = {}
        for key, container in packing.by_key.items():
            if _cooked_in(picture, key) == session.key:
                taken[container.name] = taken.get(container.name, 0) + 1
        told.append(
            say(
                "{at}: {count} too few. None is left for {meals}; this session fills {taken}.",
                at=session_time(session.starts_at),
                count=many(len(lack), "box", "boxes"),
                meals=meals,
                taken=", ".join(f"{count} × {name}" for name, count in taken.items()),
            )
        )
    return told


def _cooked_in(picture: WeekPicture, key: str) -> str | None:
    return picture.outcome.boxes[key].placing.session_key
