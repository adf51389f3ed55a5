"""The log of body weights: off unless an eater asked for it, and never there for somebody with a condition ticked."""

from dataclasses import dataclass
from datetime import date, timedelta
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import told_weight
from goodcrate.core.review.body_trend import (
    NEED_DAYS,
    NeedTold,
    Slope,
    TrendPoint,
    Weighing,
    need_by,
    predicted_kg_a_week,
    slope_of,
    trend_of,
)
from goodcrate.core.review.over_time import WeekSummary
from goodcrate.core.targets.body import needed_energy
from goodcrate.core.targets.eater import Eater
from goodcrate.db.review import BodyWeightRow, WeightLogRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, NotFound, add_once, utc_now
from goodcrate.services.review.over_time import over_time
from goodcrate.services.targets.household_eaters import eater_in

LEAST_KG, MOST_KG = 20.0, 400.0


@dataclass(frozen=True)
class BodyLog:
    """An eater's log: `may` is False for somebody with a condition ticked, or who was not asked for them yet
    (`is_asked`); `is_on` once they asked for it. Then the trend, its slope over four weeks, what was eaten a day on the
    mean of the closed weeks in them, what the need by formula predicts, and the need that fits instead."""

    eater: Eater
    may: bool
    is_asked: bool
    is_on: bool
    points: tuple[TrendPoint, ...] = ()
    slope: Slope | None = None
    eaten_kcal: float | None = None
    predicted_kg_a_week: float | None = None
    need_by_formula: float | None = None
    need: NeedTold | None = None


def body_log(caller: Caller, eater_id: UUID) -> BodyLog:
    """An eater's log of body weights.

    Raises:
        NotFound: when the household has no such eater.
    """
    with caller.transaction() as session:
        eater = eater_in(session, eater_id)
        log = session.find(WeightLogRow, _log_id(eater_id))
        is_asked, may = eater.conditions is not None, eater.conditions == ()
        if not may or log is None or log.live is None:
            return BodyLog(eater, may, is_asked, is_on=False)
        rows = select(BodyWeightRow).where(BodyWeightRow.eater_id == eater_id, BodyWeightRow.live == 1)
        weighings = [Weighing(r.day, r.kg) for r in session.scalars(rows.order_by(BodyWeightRow.day))]
    slope = slope_of(weighings)
    eaten = _eaten(over_time(caller).weeks, str(eater_id), weighings[-1].day if weighings else None)
    formula = None if eater.body is None else needed_energy(eater.body, eater.activity).value
    return BodyLog(
        eater,
        may,
        is_asked,
        is_on=True,
        points=tuple(trend_of(weighings)),
        slope=slope,
        eaten_kcal=eaten,
        predicted_kg_a_week=None if formula is None or eaten is None else predicted_kg_a_week(eaten, formula),
        need_by_formula=formula,
        need=need_by(slope, eaten),
    )


def _log_id(eater_id: UUID) -> UUID:
    return uuid5(eater_id, "weight log")


def _eaten(weeks: tuple[WeekSummary, ...], eater_key: str, until: date | None) -> float | None:
    """What an eater ate a day, in kcal, on the mean of the days of closed weeks in the last four weeks; None where
    those do not cover them, or the energy of something is not known."""
    if until is None:
        return None
    since = until - timedelta(days=NEED_DAYS)
    own = [w.eaters[eater_key] for w in weeks if eater_key in w.eaters and since <= w.first_day <= until]
    days = sum(week.days for week in own)
    if days < NEED_DAYS * 3 // 4 or any(week.means.get("energy_kcal", (0.0, 1.0))[1] > 0 for week in own):
        return None
    return sum(week.means["energy_kcal"][0] * week.days for week in own) / days


def turn(caller: Caller, eater_id: UUID, *, on: bool) -> None:
    """Begin a log, or put it away: what was noted stays and is not shown.

    Raises:
        NotFound: when the household has no such eater.
        InvalidInput: for somebody with a condition ticked, or who was not asked yet.
    """
    with caller.transaction() as session:
        if on:
            _check_may(session, eater_id)
        row = session.find(WeightLogRow, _log_id(eater_in(session, eater_id).id))
        if row is not None:
            row.live = 1 if on else None
        elif on:
            add_once(session, WeightLogRow(id=_log_id(eater_id), eater_id=eater_id, live=1))


def _check_may(session: HouseholdSession, eater_id: UUID) -> None:
    eater = eater_in(session, eater_id)
    if eater.conditions is None:
        told = say("{who} was not asked yet what belongs with a clinician.", who=eater.first_name)
        raise InvalidInput("weight", told, say("Answer it at Targets first."))
    if eater.conditions:
        told = say(
            "With what {who} ticked, weight belongs with a doctor or registered dietitian.", who=eater.first_name
        )
        raise InvalidInput("weight", told, say("We keep no log of it."))


def note_weight(caller: Caller, eater_id: UUID, day: date, kg: float | None, today: date) -> None:
    """Note what an eater weighed on a day, in kg; None takes that day out. The last said counts.

    Raises:
        NotFound: when the household has no such eater, or they keep no log.
        InvalidInputs: for a weight nobody has, or a day to come.
    """
    if kg is not None and not LEAST_KG <= kg <= MOST_KG:
        wanted = say("{least} to {most}.", least=told_weight(LEAST_KG, 0), most=told_weight(MOST_KG, 0))
        raise InvalidInputs([InvalidInput("kg", say("{kg} is not possible.", kg=told_weight(kg)), wanted)])
    if day > today:
        raise InvalidInputs([InvalidInput("day", say("That day is still to come."), say("Today, or a day before."))])
    with caller.transaction() as session:
        log = session.find(WeightLogRow, _log_id(eater_in(session, eater_id).id))
        if log is None or log.live is None:
            raise NotFound("log")
        _check_may(session, eater_id)
        row_id = uuid5(eater_id, f"weight:{day.isoformat()}")
        row = session.find(BodyWeightRow, row_id)
        if row is not None:
            row.kg, row.live, row.noted_at = row.kg if kg is None else kg, None if kg is None else 1, utc_now()
        elif kg is not None:
            add_once(session, BodyWeightRow(id=row_id, eater_id=eater_id, day=day, kg=kg, live=1, noted_at=utc_now()))
