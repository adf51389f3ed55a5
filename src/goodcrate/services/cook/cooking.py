"""Cooking: starting the batches a week asks for, and weighing what really goes in."""

from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.cook.batch_record import BatchRecord, check_lines
from goodcrate.core.cook.weighing_doubts import WeighingDoubt, weighing_doubt
from goodcrate.core.foods.food import Food, largest_plausible_g
from goodcrate.core.ground.amounts import Amount
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.portion.week_outcome import WorkedBatch, planned_record
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.variants import base_recipe_key
from goodcrate.db.base import grams
from goodcrate.db.cook import INGREDIENT, POT_KIND, BatchLineRow, BatchRow, PotRow, WeighingRow
from goodcrate.db.recipes import LineRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, NotFound, SentOtherwise, add_once, existing, utc_now
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.kitchen import learn_yields
from goodcrate.services.week.weeks import WeekPicture, existing_picture, take_turns


def batch_id_for(week_id: UUID, session_key: str, component_key: str) -> UUID:
    """The id a batch has from the moment it is planned: starting it twice starts one."""
    return uuid5(week_id, f"batch:{session_key}:{component_key}")


def worked_batch(picture: WeekPicture, batch_id: UUID) -> WorkedBatch:
    """The worked-out batch with this id, started or not.

    Raises:
        NotFound: when the week asks for no such batch.
    """
    for worked in picture.outcome.batches:
        if batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key) == batch_id:
            return worked
    raise NotFound("batch")


def start_batch(caller: Caller, first_day: date, batch_id: UUID) -> None:
    """Fix a planned batch's ingredient weights, so that weighing can begin. A started one stays as it is.

    Raises:
        NotFound: when the week asks for no such batch.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        started(session, first_day, batch_id)


def started(session: HouseholdSession, first_day: date, batch_id: UUID) -> BatchRow:
    """The batch's row, made from the plan when there is none yet; inside the caller's transaction.

    Raises:
        NotFound: when the week asks for no such batch.
    """
    row = session.find(BatchRow, batch_id)
    if row is not None:
        return row
    picture = existing_picture(session, first_day)
    plan = worked_batch(picture, batch_id).plan
    recipe = picture.recipes[plan.recipe_key]
    component = next(c for c in recipe.components if c.key == plan.component_key)
    record = planned_record(component, plan)
    row = BatchRow(
        id=batch_id,
        week_id=picture.week.id,
        session_id=UUID(plan.session_key),
        recipe_id=UUID(base_recipe_key(plan.recipe_key)),
        component_id=UUID(plan.component_key),
        factor=plan.factor,
        planned_cooked_g=grams(plan.cooked_g),
        planned_error_g=None if plan.cooked_error_g is None else grams(plan.cooked_error_g),
        started_at=utc_now(),
    )
    if not add_once(session, row):
        return existing(session, BatchRow, batch_id, "batch")
    row.lines = _planned_lines(session, batch_id, plan.session_key, component, record)
    row.pots.append(PotRow(id=uuid5(batch_id, "pot:0"), batch_id=batch_id, filling=1, position=0, live=1))
    session.flush()
    return row


def _planned_lines(
    session: HouseholdSession, batch_id: UUID, session_key: str, component: Component, record: BatchRecord
) -> list[BatchLineRow]:
    """A batch's ingredients as planned, each with the figures its line in the recipe keeps."""
    foods = foods_by_key(session, {line.food.key for line in record.lines})
    line_ids = {UUID(_line_key(line.key)) for line in component.lines}
    keeping = select(LineRow.id, LineRow.figures_version).where(
        LineRow.id.in_(line_ids), LineRow.keeps_figures.is_(True)
    )
    kept = {str(row.id): row.figures_version for row in session.execute(keeping)}
    return [
        BatchLineRow(
            id=uuid5(batch_id, line.key),
            food_id=foods[line.food.key].id,
            planned_g=grams(line.amount.grams),
            measure=line.amount.measure,
            error_g=_own_error_g(line.amount),
            position=position,
            uptake=line.uptake,
            is_discarded=line.is_discarded,
            is_poured_off=line.is_poured_off,
            use_at=line.use,
            kept_version=kept.get(_line_key(line.key.removeprefix(f"{session_key}/"))),
        )
        for position, line in enumerate(record.lines)
    ]


def _line_key(key: str) -> str:
    """The recipe's own line behind a line, also behind a variant's."""
    return key.partition("~")[0]


def _own_error_g(amount: Amount) -> float | None:
    """The error to keep beside an amount, in g; the scale's own is the measure's."""
    return None if amount.measure == "weighed" else amount.standard_error_g


class AskedFirst(InvalidInput):
    """Something that is asked about before it counts; `instead_g` is what is meant if it was weighed cooked."""

    def __init__(self, doubt: WeighingDoubt, field: str = "net_g") -> None:
        super().__init__(field, doubt.words)
        self.instead_g = doubt.instead_g


def weigh_ingredient(
    caller: Caller,
    first_day: date,
    batch_id: UUID,
    line_id: UUID,
    event_id: UUID,
    net_g: float | None,
    *,
    is_sure: bool = True,
    tare_g: float | None = None,
) -> None:
    """Log what was really weighed of one ingredient; None takes it out. The batch is started if it was not. `tare_g` is
    what the scale had tared off, where it said so: the bowl and what was in it.

    Raises:
        AskedFirst: for a weight far from plan that nobody is sure of yet.
        NotFound: when batch or line is not the household's.
        InvalidInput: for a weight no ingredient has.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        line = line_to_weigh(session, first_day, batch_id, line_id)
        if net_g is not None:
            food = existing(session, type(line.food), line.food_id, "food").value()
            check_grams(food, net_g)
            is_asked = not is_sure and session.find(WeighingRow, event_id) is None  # sent again, it is no question
            doubt = weighing_doubt(food, float(line.planned_g), net_g) if is_asked else None
            if doubt is not None:
                raise AskedFirst(doubt)
        log(
            session,
            caller,
            event_id,
            batch_id=batch_id,
            kind=INGREDIENT,
            batch_line_id=line_id,
            net_g=net_g,
            gross_g=None if net_g is None or tare_g is None else net_g + tare_g,
            tare_g=None if net_g is None else tare_g,
        )
        if net_g is None:
            _take_back_with_it(session, caller, line, event_id)


def line_to_weigh(session: HouseholdSession, first_day: date, batch_id: UUID, line_id: UUID) -> BatchLineRow:
    """A line of a batch that is put in; the batch is started if it was not.

    Raises:
        NotFound: when batch or line is not the household's.
    """
    line = next((line for line in started(session, first_day, batch_id).lines if line.id == line_id), None)
    if line is None or line.is_poured_off:
        raise NotFound("ingredient")
    return line


def check_grams(food: Food, net_g: float) -> None:
    """Refuse what nobody puts into a pot.

    Raises:
        InvalidInput, InvalidInputs: for a weight no ingredient, or not this one, has.
    """
    check_lines([("net_g", net_g)])
    most = largest_plausible_g(food)
    if net_g > most:
        raise InvalidInput(
            "net_g",
            say("{net_g} g of {name} is not plausible.", net_g=shown(net_g), name=food.name.lower()),
            say("At most {most} g.", most=shown(most)),
        )


def _take_back_with_it(session: HouseholdSession, caller: Caller, line: BatchLineRow, event_id: UUID) -> None:
    """What went in for a line is taken out with it, and the other way round."""
    siblings = session.scalars(select(BatchLineRow).where(BatchLineRow.batch_id == line.batch_id)).all()
    for other in siblings:
        if other.instead_of == line.id or other.id == line.instead_of:
            log(
                session,
                caller,
                uuid5(event_id, str(other.id)),
                batch_id=line.batch_id,
                kind=INGREDIENT,
                batch_line_id=other.id,
                net_g=None,
            )


def log(
    session: HouseholdSession,
    caller: Caller,
    event_id: UUID,
    *,
    batch_id: UUID | None,
    kind: str,
    net_g: float | None,
    batch_line_id: UUID | None = None,
    pot_id: UUID | None = None,
    content_id: UUID | None = None,
    gross_g: float | None = None,
    tare_g: float | None = None,
    shortfall: str | None = None,
    how: str = "",
    teaspoons: int = 0,
    tablespoons: int = 0,
    rest_as: str = "",
    pieces: int = 0,
) -> bool:
    """Append one event; False when this very event is already in the log. What a weighed pot taught is kept up.

    Raises:
        SentOtherwise: when an event of this id says something else: neither is dropped in silence.
    """
    row = WeighingRow(
        id=event_id,
        batch_id=batch_id,
        kind=kind,
        batch_line_id=batch_line_id,
        pot_id=pot_id,
        content_id=content_id,
        gross_g=None if gross_g is None else grams(gross_g),
        tare_g=None if tare_g is None else grams(tare_g),
        net_g=None if net_g is None else grams(net_g),
        shortfall=shortfall,
        how=how,
        teaspoons=teaspoons,
        tablespoons=tablespoons,
        rest_as=rest_as,
        pieces=pieces,
        user_id=caller.user_id,
        weighed_at=utc_now(),
    )
    there = session.find(WeighingRow, event_id)
    if there is not None and any(getattr(there, name) != getattr(row, name) for name in _WHAT_AN_EVENT_SAYS):
        was = say("taken out") if there.net_g is None else say("saved as {net_g} g", net_g=shown(float(there.net_g), 1))
        raise SentOtherwise(
            say("This weighing was {was} already. Reload the page, and weigh again if that is wrong.", was=was)
        )
    is_new = there is None and add_once(session, row)
    if is_new and kind == INGREDIENT and batch_id is not None:
        _learn_anew(session, batch_id)
    return is_new


def _learn_anew(session: HouseholdSession, batch_id: UUID) -> None:
    """What goes into a pot that is weighed already changes what the pot taught."""
    weighed = select(WeighingRow.id).where(WeighingRow.batch_id == batch_id, WeighingRow.kind == POT_KIND)
    if session.scalar(weighed.limit(1)) is not None:
        session.flush()
        learn_yields(session, existing(session, BatchRow, batch_id, "batch").component_id)


_WHAT_AN_EVENT_SAYS = (
    "batch_id",
    "kind",
    "batch_line_id",
    "pot_id",
    "content_id",
    "gross_g",
    "tare_g",
    "net_g",
    "shortfall",
    "how",
    "teaspoons",
    "tablespoons",
    "rest_as",
    "pieces",
)
