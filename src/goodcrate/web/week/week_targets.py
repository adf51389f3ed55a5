"""Targets of one week or one of its days: what is otherwise, added and taken back."""

from collections.abc import Mapping
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import week_number
from goodcrate.core.targets.day_target import BANDED
from goodcrate.core.targets.week_changes import TargetChange
from goodcrate.services.calling import NotFound
from goodcrate.services.week import week_targets, weeks
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Day
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Sent, Signed, Visitor, text
from goodcrate.web.week.address import router
from goodcrate.web.week.planning import names_of

FIELDS = ("eater", "day", "energy_kcal", "protein_g", "band", "band_by", "plants_only")


def _page(
    request: Request,
    visitor: Visitor,
    first_day: Day,
    faults: Faults = NO_FAULTS,
    typed: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    picture = weeks.week_picture(visitor.caller, first_day)
    if picture is None:
        raise NotFound("week")
    return page(
        request,
        visitor,
        "week/targets.html",
        "week",
        status=status,
        faults=faults,
        first_day=first_day,
        week_number=week_number(first_day),
        days=picture.dates[:7],
        eaters=names_of(visitor),
        changes=week_targets.list_changes(visitor.caller, first_day),
        banded=BANDED,
        typed={**dict.fromkeys(FIELDS, ""), **(typed or {})},
        new_id=new_id(),
    )


@router.get("/{first_day}/targets")
def show_targets(request: Request, visitor: Signed, first_day: Day) -> Response:
    """What is otherwise in a week."""
    return _page(request, visitor, first_day)


def _more(form: Sent, name: str) -> float:
    """A signed figure as it is typed: “+300”, “−15”; nothing is 0."""
    typed = text(form, name).strip().replace("−", "-").replace("–", "-").replace(",", ".")
    if not typed:
        return 0.0
    try:
        value = float(typed)
    except ValueError:
        value = float("nan")
    if not abs(value) <= 99_999:  # NaN is no figure either
        raise InvalidInput(
            name, say("“{typed}” is no figure.", typed=text(form, name)[:20]), say("Such as +300 or −15.")
        )
    return value


def _change(form: Sent, eater_id: UUID) -> TargetChange:
    band, day = text(form, "band"), text(form, "day")
    by = _more(form, "band_by")
    if band and band not in BANDED:
        raise InvalidInput("band", say("“{band}” takes no band.", band=band[:20]), say("Choose one."))
    if bool(band) != bool(by):
        raise InvalidInput("band_by", say("A band and by how much belong together."), say("Give both, or none."))
    return TargetChange(
        str(id_of(text(form, "id")) or new_id()),
        eater_id,
        int(day) if day in set("0123456") else None,
        _more(form, "energy_kcal"),
        _more(form, "protein_g"),
        {band: by} if band else {},
        plants_only=text(form, "plants_only") == "1",
    )


@router.post("/{first_day}/targets")
def change_targets(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Let a target be otherwise in this week."""
    eater_id = id_of(text(form, "eater"))
    if eater_id is None:
        raise NotFound("eater")
    try:
        week_targets.change_targets(visitor.caller, first_day, _change(form, eater_id))
    except (InvalidInput, InvalidInputs) as error:
        typed = {name: text(form, name) for name in FIELDS}
        return _page(request, visitor, first_day, Faults.of(error, set(FIELDS)), typed, 422)
    return go(f"/week/{first_day}/targets")


@router.post("/{first_day}/targets/{change_id}/back")
def take_change_back(visitor: Signed, form: Posted, first_day: Day, change_id: UUID) -> Response:
    """The household's own target holds again."""
    week_targets.take_change_back(visitor.caller, change_id)
    return go(f"/week/{first_day}/targets")
