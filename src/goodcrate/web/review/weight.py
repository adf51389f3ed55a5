"""Routes of the body weight log: off unless an eater asked for it."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import MINUS, WRITING, body_weight, day_month, many, told_weight
from goodcrate.core.review.body_trend import NEED_DAYS, NEED_WEIGHINGS, TrendPoint
from goodcrate.core.review.over_time import axis_of
from goodcrate.core.targets.body import KCAL_PER_KG
from goodcrate.services.review.body_weight import BodyLog, body_log, note_weight, turn
from goodcrate.web.field_kinds import day as day_field
from goodcrate.web.fields import Fields, reads
from goodcrate.web.figures import number, whole
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.review.address import router
from goodcrate.web.security import Posted, Signed, Visitor
from goodcrate.web.tape import Tape, TapeLine, Why
from goodcrate.web.targets.figures import read_body_weight


class WeightFields(Fields):
    """A weight on a day, as it is typed."""

    day: Annotated[date, day_field()]
    kg: Annotated[float, reads(read_body_weight)]


@router.get("/weight/{eater_id}")
def show(request: Request, visitor: Signed, eater_id: UUID) -> Response:
    """An eater's log with its trend, or what it would be."""
    return _page(request, visitor, eater_id)


def _page(
    request: Request, visitor: Visitor, eater_id: UUID, faults: Faults = NO_FAULTS, typed: dict[str, str] | None = None
) -> Response:
    log = body_log(visitor.caller, eater_id)
    return page(
        request,
        visitor,
        "review/weight.html",
        "review",
        log=log,
        drawn=_drawn(log.points),
        rows=[
            (p.day, body_weight(p.kg), body_weight(p.trend_kg), body_weight(p.band_kg)) for p in reversed(log.points)
        ],
        unit=WRITING.get().body_weight,
        typed={"day": request.app.state.clock().isoformat(), "kg": "", **(typed or {})},
        tape=_tape(log) if log.points else None,
        faults=faults,
        status=422 if faults is not NO_FAULTS else 200,
    )


@router.post("/weight/{eater_id}/begin")
def begin(request: Request, visitor: Signed, _: Posted, eater_id: UUID) -> Response:
    """Begin the log: somebody asked for it."""
    try:
        turn(visitor.caller, eater_id, on=True)
    except InvalidInput as error:
        return _page(request, visitor, eater_id, Faults.of(InvalidInputs([error])))
    return go(f"/review/weight/{eater_id}")


@router.post("/weight/{eater_id}/away")
def put_away(visitor: Signed, _: Posted, eater_id: UUID) -> Response:
    """Put the log away."""
    turn(visitor.caller, eater_id, on=False)
    return go(f"/review/weight/{eater_id}")


@router.post("/weight/{eater_id}")
def note(request: Request, visitor: Signed, eater_id: UUID, form: Posted) -> Response:
    """Note a weight on a day; the last said of a day counts."""
    body_log(visitor.caller, eater_id)
    try:
        given = WeightFields.of(form)
        note_weight(visitor.caller, eater_id, given.day, given.kg, request.app.state.clock())
    except InvalidInputs as error:
        return _page(request, visitor, eater_id, Faults.of(error), dict(WeightFields.as_typed(form)))
    return go(f"/review/weight/{eater_id}")


@router.post("/weight/{eater_id}/out")
def take_out(request: Request, visitor: Signed, eater_id: UUID, form: Posted) -> Response:
    """Take a day's weight out."""
    body_log(visitor.caller, eater_id)
    try:
        day = OutFields.of(form).day
        note_weight(visitor.caller, eater_id, day, None, request.app.state.clock())
    except InvalidInputs as error:
        return _page(request, visitor, eater_id, Faults.of(error))
    return go(f"/review/weight/{eater_id}")


class OutFields(Fields):
    """A day whose weight is taken out."""

    day: Annotated[date, day_field()]


@dataclass(frozen=True)
class DrawnTrend:
    """The trend as a drawing: its band, its line, each weighing, and the marks of both axes."""

    band: str
    line: str
    dots: tuple[tuple[float, float], ...]
    values: tuple[tuple[float, str], ...]
    ends: tuple[str, str]


WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 860, 280, 60, 20, 14, 30


def _drawn(points: tuple[TrendPoint, ...]) -> DrawnTrend | None:
    if not points:
        return None
    marks = axis_of([e for p in points for e in (p.kg, p.trend_kg - p.band_kg, p.trend_kg + p.band_kg)])
    days = max(1, (points[-1].day - points[0].day).days)

    def across(point: TrendPoint) -> float:
        share = (point.day - points[0].day).days / days if len(points) > 1 else 0.5
        return round(LEFT + share * (WIDTH - LEFT - RIGHT), 1)

    def down(kg: float) -> float:
        share = (kg - marks[0]) / (marks[-1] - marks[0]) if marks[-1] > marks[0] else 0.5
        return round(HEIGHT - BOTTOM - share * (HEIGHT - TOP - BOTTOM), 1)

    upper = [f"{across(p)},{down(p.trend_kg + p.band_kg)}" for p in points]
    lower = [f"{across(p)},{down(p.trend_kg - p.band_kg)}" for p in reversed(points)]
    return DrawnTrend(
        " ".join([*upper, *lower]),
        " ".join(f"{across(p)},{down(p.trend_kg)}" for p in points),
        tuple((across(p), down(p.kg)) for p in points),
        tuple((down(m), body_weight(m)) for m in marks),
        ends=(day_month(points[0].day), day_month(points[-1].day)),
    )


def _change(kg: float) -> str:
    return f"{'+' if kg > 0 else MINUS if kg < 0 else ''}{told_weight(abs(kg), 2)}"


def _tape(log: BodyLog) -> Tape:
    last = log.points[-1]
    lines = [
        TapeLine(say("weighed, {day}", day=day_month(last.day)), "", told_weight(last.kg)),
        TapeLine(say("trend"), f"± {told_weight(last.band_kg)}", told_weight(last.trend_kg)),
    ]
    sums = []
    if log.slope is not None:
        told = {"days": many(log.slope.days, "day"), "weighings": many(log.slope.weighings, "weighing")}
        note = say("straight line through {weighings} of {days}, least squares", **told)
        error = told_weight(2 * log.slope.standard_error, 2)
        sums.append(TapeLine(say("a week"), f"± {error}", _change(log.slope.kg_a_week), note))
    if log.predicted_kg_a_week is not None and log.need_by_formula is not None and log.eaten_kcal is not None:
        told = {"eaten": whole(log.eaten_kcal), "need": whole(log.need_by_formula), "per": whole(KCAL_PER_KG)}
        note = say("({eaten} eaten − {need} by formula) × 7 ÷ {per} kcal a kg", **told)
        sums.append(TapeLine(say("predicted"), "", _change(log.predicted_kg_a_week), note))
    return Tape(
        say("{who}’s weight", who=log.eater.first_name),
        say("smoothed over a week"),
        tuple(lines),
        tuple(sums),
        tuple(_whys(log)),
        heading=WRITING.get().body_weight,
    )


def _whys(log: BodyLog) -> list[Why]:
    whys = [
        Why(
            say(
                "Simple exponential smoothing (Brown, 1959): a weighing moves the trend by 1 − e^(−days/7) of its "
                "distance. The band is two standard deviations; until five weighings say it better, one is taken to be "
                "{one} for a single weighing.",
                one=told_weight(1.0),
            )
        )
    ]
    if log.need is not None:
        told = {"kcal": whole(log.need.kcal), "error": whole(max(1.0, 2 * log.need.standard_error))}
        words = say(
            "What was eaten and how the weight changed would fit a need of {kcal} ± {error} kcal a day.", **told
        )
        whys.append(Why(words, say("Look at the target"), f"/targets/{log.eater.id}"))
    else:
        told = {"days": str(NEED_DAYS), "weighings": str(NEED_WEIGHINGS)}
        words = say(
            "A need is worked out again only from {days} days and {weighings} weighings on, with closed weeks in them "
            "whose energy is all known.",
            **told,
        )
        whys.append(Why(words))
    whys.append(
        Why(
            say(
                "A kilogram is counted as {per} kcal, a round figure that overstates long losses. A loss of more than "
                "1 % of the weight a week, or any you did not mean, belongs with a doctor or registered dietitian.",
                per=number(KCAL_PER_KG, 0),
            )
        )
    )
    return whys
