"""What the planner may do: the form of the wishes, as typed and as read."""

from datetime import date, datetime, timedelta
from typing import Annotated

from starlette.datastructures import FormData

from goodcrate.core.ground.typed import whole_of
from goodcrate.core.ground.wording import Saying
from goodcrate.core.ground.writing import coins
from goodcrate.core.week.placings import SECOND_SESSION_AT
from goodcrate.services.plan.problem import Wishes
from goodcrate.services.shop.habits import MOST_BUDGET
from goodcrate.web.field_kinds import number, whole, words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.security import text

MOST_TYPED = 9999
MOST_DAYS_OFF = 20
_FIRST = Wishes()
_COUNT = whole(0, MOST_TYPED)


class WishFields(Fields):
    """The wishes as they are typed; a count that is left empty is not counted."""

    keep: str = _FIRST.keep
    different: Annotated[int, _COUNT] = _FIRST.different
    repeats: Annotated[int, _COUNT] = _FIRST.repeats
    freezer_boxes: Annotated[int, _COUNT] = _FIRST.freezer_boxes
    fridge_boxes: Annotated[int | None, maybe(_COUNT)] = None
    box_count: Annotated[int | None, maybe(_COUNT)] = None
    budget: Annotated[
        float | None, maybe(number(0, MOST_BUDGET, "", Saying("What the list may cost, such as 80.")))
    ] = None
    scope: str = _FIRST.scope
    house: str = "yes"
    in_turns: Annotated[int, _COUNT] = _FIRST.in_turns
    in_two: Annotated[int, _COUNT] = _FIRST.in_two
    step_g: Annotated[int, _COUNT] = _FIRST.step_g
    alike: Annotated[int, _COUNT] = _FIRST.alike
    plain: Annotated[int, _COUNT] = _FIRST.plain
    lower_floors_g: Annotated[int, _COUNT] = 0
    widen_bands_kcal: Annotated[int, _COUNT] = 0
    leave_bands: Annotated[int, _COUNT] = 0
    free_meal: Annotated[str, words(36)] = ""

    @property
    def wishes(self) -> Wishes:
        """The wishes."""
        return Wishes(eat_house=self.house != "no", **self.model_dump(exclude={"house"}))


def typed_of(wishes: Wishes) -> dict[str, str]:
    """Wishes as their form shows them."""
    values = {name: getattr(wishes, name) for name in WishFields.model_fields if name != "house"}
    shown = {name: "" if value is None else str(value) for name, value in values.items()}
    shown["budget"] = "" if wishes.budget is None else coins(wishes.budget)
    return {**shown, "house": "yes" if wishes.eat_house else "no"}


def read_session(form: FormData, first_day: date) -> datetime | None:
    """When one more session begins that a way out asks for; days are counted from the week's first."""
    typed = text(form, "session_day")
    days = whole_of(typed.removeprefix("-"), MOST_DAYS_OFF)
    if days is None:
        return None
    return datetime.combine(first_day + timedelta(days=-days if typed.startswith("-") else days), SECOND_SESSION_AT)
