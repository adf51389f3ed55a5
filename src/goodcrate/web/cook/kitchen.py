"""The kitchen: what it cooks with, and its pots, pans, trays, bowls, blenders and boxes."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of, read_whole
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.recipes.equipment import EQUIPMENT_KINDS, Equipment
from goodcrate.core.recipes.vessels import BOX, FILL_SHARE, KINDS, MOST_COMPARTMENTS, STANDS, Vessel
from goodcrate.services import kitchen
from goodcrate.services.calling import StaleWrite
from goodcrate.services.kitchen import VesselInput
from goodcrate.services.store.boxes import containers_in_use
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Whole
from goodcrate.web.cook.address import router
from goodcrate.web.field_kinds import number, one_of, weight, whole, words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.figures import plain
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text


class VesselFields(Fields):
    """A vessel as it is typed: litres for its size, millilitres for the least it works with."""

    name: Annotated[str, words(80, Saying("The vessel needs a name."))]
    kind: Annotated[str, one_of(KINDS)] = "pot"
    volume_ml: Annotated[float, number(0, 60, "l", Saying("Give litres, such as 4."), scale=1000)]
    minimum_ml: Annotated[float | None, maybe(number(0, 60_000, "ml", Saying("Give millilitres, such as 300.")))] = None
    count: Annotated[int, whole(1, 20, Saying("How many of them?"))] = 1
    tare_g: Annotated[float | None, maybe(weight(20_000, allow_zero=False))] = None
    compartments: Annotated[int, whole(1, MOST_COMPARTMENTS)] = 1
    stands: tuple[str, ...] = ()
    version: Annotated[int, whole(0, 10**9)] = 0


NEW: Mapping[str, str] = {
    "name": "",
    "kind": "pot",
    "volume_ml": "",
    "minimum_ml": "",
    "count": "1",
    "tare_g": "",
    "compartments": "1",
    "version": "0",
}


@dataclass(frozen=True)
class ShownVessel:
    """A row of the form: what stands in its fields."""

    id: str
    typed: Mapping[str, str] = field(default_factory=lambda: NEW)
    stands: tuple[str, ...] = ()

    @property
    def prefix(self) -> str:
        """What its fields' names begin with."""
        return f"vessel-{self.id}-"

    @classmethod
    def of_vessel(cls, v: Vessel, version: int) -> "ShownVessel":
        """A saved vessel."""
        typed = {
            "name": v.name,
            "kind": v.kind,
            "volume_ml": plain(v.volume_ml / 1000),
            "minimum_ml": plain(v.minimum_ml) if v.minimum_ml else "",
            "count": str(v.count),
            "tare_g": "" if v.tare_g is None else plain(v.tare_g),
            "compartments": str(v.compartments),
            "version": str(version),
        }
        return cls(v.key, typed, tuple(sorted(v.stands or ())))

    @classmethod
    def of_form(cls, form: FormData, vessel_id: UUID) -> "ShownVessel":
        """A vessel as it was sent."""
        row = cls(str(vessel_id))
        typed = {**NEW, **{k: v for k, v in VesselFields.as_typed(form, row.prefix).items() if row.prefix + k in form}}
        return replace(row, typed=typed, stands=tuple(str(s) for s in form.getlist(f"{row.prefix}stands")))

    def input(self, form: FormData) -> VesselInput:
        """The vessel as it goes into the kitchen.

        Raises:
            InvalidInputs: with every fault at its field.
        """
        typed = VesselFields.of(form, self.prefix)
        stands = frozenset(typed.stands) or None
        facts = typed.model_dump(exclude={"stands", "minimum_ml"})
        return VesselInput(UUID(self.id), stands=stands, minimum_ml=typed.minimum_ml or 0.0, **facts)


def _kitchen_page(
    request: Request,
    visitor: Visitor,
    shown: list[ShownVessel],
    was_shown: Iterable[str],
    faults: Faults = NO_FAULTS,
    status: int = 200,
    counts: Mapping[str, str] | None = None,
) -> Response:
    there = kitchen.who_and_what(visitor.caller).equipment.counts
    return page(
        request,
        visitor,
        "cook/kitchen.html",
        "cook",
        status=status,
        vessels=shown,
        kinds=KINDS,
        stands=STANDS,
        faults=faults,
        was_shown=list(was_shown),
        equipment=EQUIPMENT_KINDS,
        shares=FILL_SHARE,
        free=_free(visitor),
        counts={key: str(there.get(key, "")) for key in EQUIPMENT_KINDS} if counts is None else counts,
    )


def _free(visitor: Visitor) -> list[str]:
    """How many boxes of each kind are free now: those that are not packed and in the house."""
    used = containers_in_use(visitor.caller)
    return [
        say("{free} of {count} × {name}", free=max(0, v.count - used.get(UUID(v.key), 0)), count=v.count, name=v.name)
        for v in kitchen.vessels(visitor.caller)
        if v.kind == BOX
    ]


def _saved(visitor: Visitor) -> list[ShownVessel]:
    versions = kitchen.vessel_versions(visitor.caller)
    return [ShownVessel.of_vessel(v, versions.get(v.key, 0)) for v in kitchen.vessels(visitor.caller)]


@router.get("/kitchen")
def show_kitchen(request: Request, visitor: Signed, more: Whole = 0) -> Response:
    """What the kitchen cooks with, and its vessels; with a blank row (`more`) for a browser without scripts."""
    saved = _saved(visitor)
    blank = [ShownVessel(str(new_id()))] if more or not saved else []
    return _kitchen_page(request, visitor, [*saved, *blank], [v.id for v in saved])


@router.get("/kitchen/vessel")
def new_vessel(request: Request, visitor: Signed) -> Response:
    """A fresh row."""
    blank = ShownVessel(str(new_id()))
    return fragment("cook/_vessel.html", v=blank, kinds=KINDS, stands=STANDS, faults=NO_FAULTS, is_new=True)


@router.post("/kitchen/equipment")
def save_equipment(request: Request, visitor: Signed, form: Posted) -> Response:
    """Who and what cooks; an empty field was never said."""
    typed = {key: text(form, key).strip() for key in EQUIPMENT_KINDS}
    counts, faults = {}, []
    for key, kind in EQUIPMENT_KINDS.items():
        try:
            if typed[key]:
                bare = typed[key].removesuffix(kind.unit).strip()
                counts[key] = read_whole(bare, key, say("A number, or leave it empty."), largest=kind.most)
        except InvalidInput as fault:
            faults.append(fault)
    try:
        if faults:
            raise InvalidInputs(faults)
        kitchen.save_equipment(visitor.caller, Equipment(counts))
    except InvalidInputs as error:
        saved = _saved(visitor)
        refused = Faults.of(error, set(EQUIPMENT_KINDS))
        return _kitchen_page(request, visitor, saved, [v.id for v in saved], refused, 422, counts=typed)
    return go("/cook/kitchen")


@router.post("/kitchen")
def save_kitchen(request: Request, visitor: Signed, form: Posted) -> Response:
    """Save the vessels of the form; those the page showed that are left out go, what was added elsewhere stays."""
    was_shown = [v for v in map(id_of, form.getlist("shown")) if v is not None]
    sent = [ShownVessel.of_form(form, v) for v in map(id_of, form.getlist("vessel")) if v]
    sent = [v for v in sent if v.typed["name"].strip() or v.typed["volume_ml"].strip()]
    faults: list[InvalidInput] = []
    typed = []
    for vessel in sent:
        try:
            typed.append(vessel.input(form))
        except InvalidInputs as error:
            faults += error.faults
    try:
        if faults:
            raise InvalidInputs(faults)
        kitchen.save_vessels(visitor.caller, typed, was_shown)
    except StaleWrite as error:
        # What was typed is kept, upon the vessels as they are now.
        now = {v.id: v for v in _saved(visitor)}
        fresh = [
            replace(v, typed={**v.typed, "version": now[v.id].typed["version"] if v.id in now else "0"}) for v in sent
        ]
        there = {v.id for v in fresh} | {str(v) for v in was_shown}
        fresh += [v for v in now.values() if v.id not in there]
        return _kitchen_page(request, visitor, fresh, now, Faults.of(error), 409)
    except InvalidInputs as error:
        known = {name for v in sent for name in VesselFields.names(v.prefix)}
        return _kitchen_page(request, visitor, sent, map(str, was_shown), Faults.of(error, known), 422)
    return go("/cook/kitchen")
