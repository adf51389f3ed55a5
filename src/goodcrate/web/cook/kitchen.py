"""The galley's vessels: pots, pans, trays, bowls and blenders, with what they hold and weigh empty."""

from collections.abc import Iterable
from dataclasses import dataclass
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from goodcrate.core.ground.amounts import read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of, whole_of
from goodcrate.core.recipes.vessels import KINDS, STANDS, Vessel
from goodcrate.services import kitchen
from goodcrate.services.calling import StaleWrite
from goodcrate.services.kitchen import VesselInput
from goodcrate.services.week.weeks import new_id
from goodcrate.web.cook.address import router
from goodcrate.web.figures import plain
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text

FIELDS = ("name", "kind", "volume_ml", "minimum_ml", "count", "tare_g", "compartments", "stands")


@dataclass
class VesselForm:
    """One vessel as typed; litres for its size, millilitres for the least it works with."""

    id: str
    name: str = ""
    kind: str = "pot"
    litres: str = ""
    minimum: str = ""
    count: str = "1"
    tare: str = ""
    version: int = 0
    compartments: str = "1"
    stands: tuple[str, ...] = ()

    @classmethod
    def of_vessel(cls, v: Vessel, version: int) -> "VesselForm":
        """A saved vessel."""
        return cls(
            v.key, v.name, v.kind, plain(v.volume_ml / 1000), plain(v.minimum_ml) if v.minimum_ml else "",
            str(v.count), "" if v.tare_g is None else plain(v.tare_g), version,
            str(v.compartments), tuple(sorted(v.stands or ())),
        )  # fmt: skip

    @classmethod
    def of_post(cls, form: FormData, vessel_id: str) -> "VesselForm":
        """A vessel as it was sent."""
        p = f"vessel-{vessel_id}"
        return cls(
            vessel_id, text(form, f"{p}-name"), text(form, f"{p}-kind", "pot"), text(form, f"{p}-volume_ml"),
            text(form, f"{p}-minimum_ml"), text(form, f"{p}-count", "1"), text(form, f"{p}-tare_g"),
            whole_of(text(form, f"{p}-version")) or 0, text(form, f"{p}-compartments", "1"),
            tuple(str(value) for value in form.getlist(f"{p}-stands")),
        )  # fmt: skip

    def read(self, faults: list[InvalidInput]) -> VesselInput:
        """The vessel as input, with every fault at its field."""
        p = f"vessel-{self.id}"

        def number(value: str, name: str, wanted: str, empty: float = 0.0) -> float:
            if not value.strip():
                return empty
            try:
                return read_number(value.strip().rstrip(" l").strip(), f"{p}-{name}", wanted, largest=100)
            except InvalidInput as fault:
                faults.append(fault)
                return empty

        litres = number(self.litres, "volume_ml", "Give litres, such as 4.5.")
        tare = None
        if self.tare.strip():
            try:
                tare = read_grams(self.tare, f"{p}-tare_g", 20_000, allow_zero=False)
            except InvalidInput as fault:
                faults.append(fault)
        minimum = number(self.minimum, "minimum_ml", "Give millilitres, such as 300.")
        count = number(self.count, "count", "How many of them?", 1)
        compartments = number(self.compartments, "compartments", "How many compartments?", 1)
        return VesselInput(
            UUID(self.id), self.name.strip(), self.kind, litres * 1000, minimum, int(count), tare, self.version,
            int(compartments), frozenset(self.stands) or None,
        )  # fmt: skip


def _kitchen_page(
    request: Request, visitor: Visitor, forms: list[VesselForm], was_shown: Iterable[str], faults: Faults = NO_FAULTS,
    status: int = 200,
) -> Response:  # fmt: skip
    return page(
        request, visitor, "cook/kitchen.html", "cook", status=status, vessels=forms, kinds=KINDS, stands=STANDS,
        faults=faults, was_shown=list(was_shown),
    )  # fmt: skip


def _saved(visitor: Visitor) -> list[VesselForm]:
    versions = kitchen.vessel_versions(visitor.caller)
    return [VesselForm.of_vessel(v, versions.get(v.key, 0)) for v in kitchen.vessels(visitor.caller)]


@router.get("/kitchen")
def show_kitchen(request: Request, visitor: Signed) -> Response:
    """The vessels there are."""
    forms = _saved(visitor)
    return _kitchen_page(request, visitor, forms or [VesselForm(str(new_id()))], [f.id for f in forms])


@router.get("/kitchen/vessel")
def new_vessel(request: Request, visitor: Signed) -> Response:
    """A fresh row."""
    blank = VesselForm(str(new_id()))
    return fragment("cook/_vessel.html", v=blank, kinds=KINDS, stands=STANDS, faults=NO_FAULTS, is_new=True)


@router.post("/kitchen")
def save_kitchen(request: Request, visitor: Signed, form: Posted) -> Response:
    """Save the vessels of the form; those the page showed that are left out go, what was added elsewhere stays."""
    shown = [v for v in map(id_of, form.getlist("shown")) if v is not None]
    forms = [VesselForm.of_post(form, str(v)) for v in map(id_of, form.getlist("vessel")) if v]
    forms = [f for f in forms if f.name.strip() or f.litres.strip()]
    faults: list[InvalidInput] = []
    typed = [f.read(faults) for f in forms]
    try:
        if faults:
            raise InvalidInputs(faults)
        kitchen.save_vessels(visitor.caller, typed, shown)
    except StaleWrite as error:
        # What was typed is kept, upon the vessels as they are now.
        now = {f.id: f for f in _saved(visitor)}
        for f in forms:
            f.version = now[f.id].version if f.id in now else 0
        there = {f.id for f in forms} | {str(v) for v in shown}
        forms += [f for f in now.values() if f.id not in there]
        return _kitchen_page(request, visitor, forms, now, Faults.of(error), 409)
    except InvalidInputs as error:
        known = {f"vessel-{f.id}-{n}" for f in forms for n in FIELDS}
        return _kitchen_page(request, visitor, forms, map(str, shown), Faults.of(error, known), 422)
    return go("/cook/kitchen")
