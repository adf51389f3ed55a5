"""The kitchen: which vessels there are, and what weighed pots taught about yields."""

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field
from uuid import UUID, uuid5

from sqlalchemy import select, update

from goodcrate.core.cook.batch_record import TAKEN_OUT, Weighing, settled
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short
from goodcrate.core.recipes.counting import traces_out
from goodcrate.core.recipes.equipment import EQUIPMENT_KINDS, Equipment
from goodcrate.core.recipes.figures_shown import FiguresShown
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.core.recipes.yields import LEARN_FROM
from goodcrate.core.targets.excluding import Exclusions
from goodcrate.core.week.storing import CAUTIOUS, USUAL
from goodcrate.db.accounts import Household
from goodcrate.db.base import grams
from goodcrate.db.changes import Memo
from goodcrate.db.cook import BatchRow, PotRow, last_events
from goodcrate.db.foods import count_stamp, is_settled, stamp_of
from goodcrate.db.kitchen import EquipmentRow, VesselRow
from goodcrate.db.recipes import ComponentRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxRow
from goodcrate.db.targets import EaterRow
from goodcrate.services.calling import Caller, add_once, existing, older_than, saying_again


@dataclass(frozen=True)
class VesselInput:
    """A typed vessel; `version` is 0 for a new one."""

    id: UUID
    name: str
    kind: str
    volume_ml: float
    minimum_ml: float = 0.0
    count: int = 1
    tare_g: float | None = None
    version: int = 0
    compartments: int = 1
    stands: frozenset[str] | None = None


def keep_tare(caller: Caller, vessel_id: UUID, tare_g: float) -> None:
    """Write down what a vessel weighs empty, in g.

    Raises:
        NotFound: when the kitchen has no such vessel.
    """
    with caller.transaction() as session:
        existing(session, VesselRow, vessel_id, "vessel").tare_g = grams(tare_g)


def vessels(caller: Caller) -> list[Vessel]:
    """The household's vessels in their order."""
    with caller.transaction() as session:
        return vessels_in(session)


def vessel_versions(caller: Caller) -> dict[str, int]:
    """The vessels' versions by their keys."""
    with caller.transaction() as session:
        return {str(row.id): row.version for row in session.scalars(select(VesselRow))}


def vessels_in(session: HouseholdSession) -> list[Vessel]:
    """The household's vessels, inside the caller's transaction."""
    return [row.value() for row in session.scalars(select(VesselRow).order_by(VesselRow.position, VesselRow.name))]


@dataclass(frozen=True)
class Excluding:
    """An eater by what they must not get: enough to judge a recipe, without their days and slots."""

    id: UUID
    exclusions: Exclusions


def eaters_in(session: HouseholdSession) -> list[Excluding]:
    """The household's eaters with their exclusions, inside the caller's transaction."""
    columns = (EaterRow.id, EaterRow.name, EaterRow.excluded_allergens, EaterRow.no_pork, EaterRow.diet)
    rows = session.execute(
        select(*columns).where(EaterRow.is_archived.is_(False)).order_by(EaterRow.position, EaterRow.name)
    ).all()
    return [
        Excluding(row.id, Exclusions(row.name, frozenset(row.excluded_allergens), row.no_pork, row.diet))
        for row in rows
    ]


MOST_BOXES = 200
"""No fridge or freezer of a home holds more boxes."""


@dataclass(frozen=True)
class Capacity:
    """How many boxes fridge and freezer hold (None: nobody said), and by which guidance boxes keep.

    `version` is the household's when it was read; None overwrites whatever stands there.
    """

    fridge_boxes: int | None = None
    freezer_boxes: int | None = None
    keep_rule: str = USUAL
    version: int | None = field(default=None, compare=False)


@dataclass(frozen=True)
class Setup:
    """What of a household recipes and weeks are worked out and worded with."""

    eaters: tuple[Excluding, ...]
    vessels: tuple[Vessel, ...]
    convention: str
    polyol_share: float
    capacity: Capacity
    leaves_traces_out: bool = False
    equipment: Equipment = field(default_factory=Equipment)
    shows_net_carbohydrate: bool = False
    hides_spread: bool = False

    @property
    def shown(self) -> FiguresShown:
        """Which figures it wants to see."""
        return FiguresShown(self.polyol_share, self.shows_net_carbohydrate, not self.hides_spread)

    def counted(self, recipe: Recipe) -> Recipe:
        """A recipe as this household counts it: every gram, or without the traces."""
        return traces_out(recipe) if self.leaves_traces_out else recipe


_SETUPS: Memo[Setup] = Memo(200)


def who_and_what(caller: Caller) -> Setup:
    """The household's eaters with their exclusions, its vessels, and its cups and spoons."""
    with caller.transaction() as session:
        return setup_of(session)


def setup_of(session: HouseholdSession) -> Setup:
    """The same inside the caller's transaction, kept in memory under the household's stamp, which counts changes."""
    stamp = stamp_of(session)
    kept = _SETUPS.find((session.household_id, stamp))
    if kept is not None:
        return kept
    row = session.get_one(Household, session.household_id)
    capacity = Capacity(row.fridge_boxes, row.freezer_boxes, row.keep_rule, row.version)
    vessels = tuple(vessels_in(session))
    equipment = Equipment({e.kind: e.count for e in session.scalars(select(EquipmentRow)) if e.kind in EQUIPMENT_KINDS})
    setup = Setup(
        tuple(eaters_in(session)),
        vessels,
        row.measures,
        row.polyol_share,
        capacity,
        row.leaves_traces_out,
        equipment=equipment,
        shows_net_carbohydrate=row.shows_net_carbohydrate,
        hides_spread=row.hides_spread,
    )
    return _SETUPS.put((session.household_id, stamp), setup) if is_settled(session) else setup


def count_traces(caller: Caller, *, leave_out: bool) -> None:
    """Choose the school: count every gram, or leave the traces out."""
    with caller.transaction() as session:
        session.get_one(Household, session.household_id).leaves_traces_out = leave_out


def save_capacity(caller: Caller, typed: Capacity) -> None:
    """Say how many boxes fridge and freezer hold, and by which guidance boxes keep.

    Raises:
        InvalidInputs: for a number or a rule that cannot be.
        StaleWrite: when somebody changed the household's settings since the page was shown.
    """
    faults = []
    for name in ("fridge_boxes", "freezer_boxes"):
        boxes = getattr(typed, name)
        if boxes is not None and not 0 <= boxes <= MOST_BOXES:
            wanted = say("0 to {MOST_BOXES}, or leave it empty.", MOST_BOXES=MOST_BOXES)
            faults.append(InvalidInput(name, say("{boxes} boxes are not possible.", boxes=boxes), wanted))
    if typed.keep_rule not in (CAUTIOUS, USUAL):
        said = say("“{keep_rule}” is no keeping rule.", keep_rule=typed.keep_rule)
        faults.append(InvalidInput("keep_rule", said, say("Cautious or usual.")))
    if faults:
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        row = session.get_one(Household, session.household_id)
        with saying_again(session, older_than("kitchen", row.version, typed.version)):
            row.fridge_boxes, row.freezer_boxes = typed.fridge_boxes, typed.freezer_boxes
            row.keep_rule = typed.keep_rule


def save_equipment(caller: Caller, typed: Equipment) -> None:
    """Say what the kitchen cooks with; what is not named any more was never said."""
    with caller.transaction() as session:
        known = {row.kind: row for row in session.scalars(select(EquipmentRow))}
        for kind, row in known.items():
            if kind not in typed.counts:
                session.delete(row)
        for kind, count in typed.counts.items():
            if kind in known:
                known[kind].count = count
            else:
                row_id = uuid5(caller.household_id, f"equipment:{kind}")
                add_once(session, EquipmentRow(id=row_id, kind=kind, count=count))


MOST_VESSELS = 60


def _faults_of_vessels(typed: list[VesselInput]) -> list[InvalidInput]:
    faults: list[InvalidInput] = []
    if len(typed) > MOST_VESSELS:
        faults.append(
            InvalidInput(
                "vessels",
                say("{typed} vessels are too many.", typed=len(typed)),
                say("At most {MOST_VESSELS}.", MOST_VESSELS=MOST_VESSELS),
            )
        )
    for v in typed:
        if not v.name.strip() or len(v.name) > 80:
            faults.append(
                InvalidInput(f"vessel-{v.id}-name", say("The vessel needs a name."), say("Such as “large pot”."))
            )
        if v.tare_g is not None and not 0 < v.tare_g <= 20_000:
            faults.append(
                InvalidInput(
                    f"vessel-{v.id}-tare_g",
                    say("{tare_g} g is not possible.", tare_g=short(v.tare_g)),
                    say("Up to 20 kg."),
                )
            )
        try:
            Vessel(
                str(v.id),
                v.name,
                v.kind,
                v.volume_ml,
                v.minimum_ml,
                v.count,
                tare_g=v.tare_g,
                compartments=v.compartments,
                stands=v.stands,
            )
        except InvalidInput as fault:
            faults.append(InvalidInput(f"vessel-{v.id}-{fault.field}", fault.problem, fault.wanted))
    return faults


def save_vessels(caller: Caller, typed: list[VesselInput], shown: Collection[UUID] = ()) -> None:
    """New vessels come, changed ones change, and those that were `shown` and are left out go; others stay.

    Raises:
        InvalidInputs: naming every field (`vessel-<id>-<field>`) that cannot be used.
        StaleWrite: when a vessel was changed or removed since the page was shown; nothing is saved then.
    """
    if faults := _faults_of_vessels(typed):
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        known = {row.id: row for row in session.scalars(select(VesselRow))}
        versions = {row_id: row.version for row_id, row in known.items()}
        older = (older_than("vessel", versions.get(v.id, 0), v.version or None) for v in typed)
        with saying_again(session, next((stale for stale in older if stale), None)):
            for row_id in (known.keys() & set(shown)) - {v.id for v in typed}:
                _forget_vessel(session, row_id)
                session.delete(known[row_id])
            for place, v in enumerate(typed):
                row = known.get(v.id)
                if row is None:
                    row = VesselRow(id=v.id)
                    session.add(row)
                row.name, row.kind, row.volume_ml, row.minimum_ml = v.name.strip(), v.kind, v.volume_ml, v.minimum_ml
                row.count, row.position, row.compartments = v.count, place, v.compartments
                row.stands = None if v.stands is None else sorted(v.stands)
                row.tare_g = None if v.tare_g is None else grams(v.tare_g)


def _forget_vessel(session: HouseholdSession, vessel_id: UUID) -> None:
    """Boxes and pots that were in a vessel stay; nobody knows any more what it was."""
    for kind in (BoxRow, PotRow):
        session.execute(update(kind).where(kind.vessel_id == vessel_id).values(vessel_id=None))


def learn_yields(session: HouseholdSession, component_id: UUID) -> None:
    """Work out anew what the last weighed pots of a component teach about its yield; inside the caller's transaction.

    A pot from which food was taken teaches nothing: what is missing was eaten, not steamed off.
    """
    component = session.find(ComponentRow, component_id)
    if component is None:
        return
    session.expire_all()
    rows = session.scalars(
        select(BatchRow).where(BatchRow.component_id == component_id).order_by(BatchRow.started_at.desc()).limit(20)
    ).all()
    events = last_events(session, *(row.id for row in rows))
    yields = [y for y in (pot_yield(row, events[row.id]) for row in rows) if y is not None][:LEARN_FROM]
    yields.reverse()
    if yields != component.learned:
        component.learned = yields
        count_stamp(session)


def pot_yield(row: BatchRow, log: Iterable[Weighing]) -> float | None:
    """A weighed batch's cooked net weight ÷ what was weighed in; None before all its pots are weighed."""
    record = row.record(log)
    last = settled(record.log)
    pots = [last.get(pot) for pot in record.pots]
    if any(pot is None or pot.shortfall == TAKEN_OUT for pot in pots):
        return None
    cooked_g, weighed_in = sum(pot.net_g or 0.0 for pot in pots if pot is not None), 0.0
    for line in record.lines:
        event = last.get(line.key)
        actual = line.weighed_in_g if event is None or event.net_g is None else event.net_g
        weighed_in += 0.0 if line.is_poured_off else actual
    return round(cooked_g / weighed_in, 6) if weighed_in > 0 else None
