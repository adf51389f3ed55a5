"""Targets: the household's eaters with their day types, slots and exclusions."""

from collections.abc import Iterator
from dataclasses import asdict, dataclass, field, replace
from datetime import time
from uuid import UUID, uuid4

from sqlalchemy import func, select

from goodcrate.core.foods.food import ALLERGENS
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import short, shown, told_weight
from goodcrate.core.targets.cautions import CONDITIONS, CONFIRM_BELOW_KCAL, low_energy_caution
from goodcrate.core.targets.day_target import LEAST_ROOM_PCT, MOST_ROOM_PCT, DayTarget, NutrientBand
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.eater_facts import EaterFacts, facts_of
from goodcrate.core.targets.slot import Slot
from goodcrate.core.targets.target_ways import DayWay, Person, work_out
from goodcrate.db.base import grams
from goodcrate.db.changes import Kept
from goodcrate.db.session import HouseholdSession
from goodcrate.db.targets import DayTypeRow, EaterExtraRow, EaterRow, SlotRow
from goodcrate.db.week import PlacementRow
from goodcrate.services.calling import Caller, NotFound, add_once, existing, older_than, saying_again
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.recipes.pasting import weighed_foods

DIETS_OF_EATERS = {
    "": Saying("eats everything"),
    "vegetarian": Saying("no meat, no fish"),
    "plant": Saying("plants only"),
}
MOST_EATERS, MOST_DAY_TYPES, MOST_SLOTS = 6, 5, 8
LIGHTEST_KG, HEAVIEST_KG = 2, 500


@dataclass(frozen=True)
class DayTypeInput:
    """A typed day type; weekdays count from Monday = 0."""

    id: UUID
    name: str
    energy_kcal: float
    protein_floor_g: float
    energy_band_pct: float = 3.0
    weekdays: tuple[int, ...] = ()
    way: DayWay = field(default_factory=DayWay)
    bands: tuple[NutrientBand, ...] = ()

    @property
    def as_set(self) -> DayWay:
        """How it is set, its typed figures filled in."""
        return replace(self.way, energy_kcal=self.energy_kcal, protein_g=self.protein_floor_g)


@dataclass(frozen=True)
class SlotInput:
    """A typed slot."""

    id: UUID
    name: str
    at: time
    eaten_cold: bool = False
    travels: bool = False
    no_reheat: bool = False
    within_min: int | None = None
    share_pct: float | None = None


@dataclass(frozen=True)
class EaterInput(EaterFacts):
    """A typed eater; `version` is the one it was read at, 0 for a new one."""

    id: UUID
    name: str
    day_types: tuple[DayTypeInput, ...]
    slots: tuple[SlotInput, ...]
    excluded_allergens: tuple[str, ...] = ()
    clinician_confirmed: bool = False
    version: int = 0
    conditions: tuple[str, ...] | None = None
    extras: str = ""
    field_prefixes: dict[UUID, str] = field(default_factory=dict)

    @property
    def person(self) -> Person:
        """What the targets are worked out with.

        Raises:
            InvalidInput, InvalidInputs: for a body size or blocks that cannot be.
        """
        if self.weight_kg is not None and not LIGHTEST_KG <= self.weight_kg <= HEAVIEST_KG:
            wanted = say(
                "From {LIGHTEST_KG} to {HEAVIEST_KG}, or leave it empty.",
                LIGHTEST_KG=told_weight(LIGHTEST_KG),
                HEAVIEST_KG=told_weight(HEAVIEST_KG),
            )
            raise InvalidInput(
                "weight_kg", say("{weight_kg} is not possible.", weight_kg=told_weight(self.weight_kg)), wanted
            )
        return Person(self.sex, self.body, self.weight_kg, self.activity, self.blocks, self.conditions or ())

    def at(self, row_id: UUID, name: str) -> str:
        """The form field of a row's figure, for messages."""
        return f"{self.field_prefixes.get(row_id, str(row_id))}-{name}"


def list_eaters(caller: Caller) -> list[Eater]:
    """The household's eaters in their order, with day types and slots; not those put aside."""
    return _eaters(caller, are_archived=False)


def list_put_aside(caller: Caller) -> list[Eater]:
    """The eaters that were put aside: past weeks keep them, and they can come back."""
    return _eaters(caller, are_archived=True)


def _eaters(caller: Caller, *, are_archived: bool) -> list[Eater]:
    wanted = select(EaterRow).where(EaterRow.is_archived.is_(are_archived)).order_by(EaterRow.position, EaterRow.name)
    with caller.transaction() as session:
        return list(_EATERS.get(session, (are_archived,), lambda: [row.value() for row in session.scalars(wanted)]))


_EATERS: Kept[list[Eater]] = Kept(64)


def put_aside(caller: Caller, eater_id: UUID, *, aside: bool) -> None:
    """Put an eater aside, or take them back; weeks in which they have meals keep showing them.

    Raises:
        NotFound: when the household has none with this id.
    """
    with caller.transaction() as session:
        session.execute(select(EaterRow.id).where(EaterRow.id == eater_id).with_for_update())  # one after another
        existing(session, EaterRow, eater_id, "eater").is_archived = aside


def get_eater(caller: Caller, eater_id: UUID) -> Eater:
    """One eater.

    Raises:
        NotFound: when the household has none with this id.
    """
    with caller.transaction() as session:
        return eater_in(session, eater_id)


def eater_in(session: HouseholdSession, eater_id: UUID) -> Eater:
    """The same inside the caller's transaction.

    Raises:
        NotFound: when the household has none with this id.
    """
    return existing(session, EaterRow, eater_id, "eater").value()


def slot_in(session: HouseholdSession, slot_id: UUID) -> Slot:
    """A slot of one of the household's eaters, inside the caller's transaction.

    Raises:
        NotFound: when it has none with this id.
    """
    return existing(session, SlotRow, slot_id, "slot").value()


def save_eater(caller: Caller, typed: EaterInput) -> None:
    """Save a new or changed eater. Sending a new one twice saves one.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: for a changed eater the household does not have.
        StaleWrite: when somebody saved a newer version in the meantime.
    """
    typed = worked_out(typed)
    _check(typed)
    with caller.transaction() as session:
        if typed.version == 0:
            _add(session, typed)
            return
        row = existing(session, EaterRow, typed.id, "eater")
        with saying_again(session, older_than("eater", row.version, typed.version)):
            _fill(row, typed)
            _put_rows(session, row, typed)
        if row.version == typed.version:
            row.version += 1  # kinds of day or slots changed, the eater's own row perhaps not


def _add(session: HouseholdSession, typed: EaterInput) -> None:
    """A new eater; the same one sent again is there already."""
    if session.find(EaterRow, typed.id) is not None:
        return
    row = EaterRow(id=typed.id, version=1)
    _fill(row, typed)
    row.position = session.scalar(select(func.count(EaterRow.id))) or 0
    here = session.scalar(select(func.count(EaterRow.id)).where(EaterRow.is_archived.is_(False))) or 0
    if here >= MOST_EATERS:
        raise InvalidInputs(
            [InvalidInput("name", say("A household has at most {MOST_EATERS} eaters.", MOST_EATERS=MOST_EATERS))]
        )
    if add_once(session, row):
        _put_rows(session, row, typed)


def worked_out(typed: EaterInput) -> EaterInput:
    """The same eater with every kind of day worked out by its way.

    Raises:
        InvalidInputs: naming every field that keeps a figure away.
    """
    faults: list[InvalidInput] = []
    days = []
    person = _person(typed)
    for d in typed.day_types:
        try:
            done = work_out(d.as_set, person)
        except InvalidInputs as found:
            faults += [InvalidInput(typed.at(d.id, f.field), f.problem, f.wanted) for f in found.faults]
            continue
        own = {band.key for band in d.bands}
        follow = tuple(NutrientBand(key, *ends) for key, ends in done.bands.items() if key not in own)
        days.append(
            replace(d, energy_kcal=done.energy.value, protein_floor_g=done.protein.value, bands=(*d.bands, *follow))
        )
    if faults:
        raise InvalidInputs(faults)
    return replace(typed, day_types=tuple(days))


def _person(typed: EaterInput) -> Person:
    try:
        return typed.person
    except InvalidInput as fault:
        raise InvalidInputs([fault]) from None


def _put_rows(session: HouseholdSession, row: EaterRow, typed: EaterInput) -> None:
    for kind, ids in ((DayTypeRow, {d.id for d in typed.day_types}), (SlotRow, {s.id for s in typed.slots})):
        if session.scalar(select(kind.id).where(kind.id.in_(ids), kind.eater_id != row.id).limit(1)) is not None:
            raise NotFound(say("row of this eater"))  # it is another eater's
    _put_day_types(row, typed)
    _put_slots(session, row, typed)
    _put_extras(session, row, typed)


def _put_extras(session: HouseholdSession, row: EaterRow, typed: EaterInput) -> None:
    lines = typed.extras.strip()
    if lines == "\n".join(extra.text for extra in row.extras):
        return
    found = weighed_foods(session, lines, "extras", say("200 ml whole milk"))
    rows = foods_by_key(session, {f.food_key for f in found})
    extras = [
        EaterExtraRow(
            id=uuid4(),
            eater_id=row.id,
            food_id=rows[f.food_key].id,
            text=f.said[:160],
            grams=grams(f.amount.grams),
            measure=f.amount.measure,
            standard_error_g=f.amount.standard_error_g,
            position=n,
        )
        for n, f in enumerate(found)
    ]
    row.extras[:] = extras


def _fill(row: EaterRow, typed: EaterInput) -> None:
    row.name = typed.name.strip()
    row.excluded_allergens = sorted(typed.excluded_allergens)
    row.conditions = None if typed.conditions is None else list(typed.conditions)
    for name, fact in facts_of(typed).items():
        setattr(row, name, fact.strip() if isinstance(fact, str) else fact)


def _put_day_types(row: EaterRow, typed: EaterInput) -> None:
    kept = {d.id: d for d in row.day_types}
    rows = []
    for place, d in enumerate(typed.day_types):
        day_type = kept.get(d.id) or DayTypeRow(id=d.id)
        day_type.name, day_type.weekdays, day_type.position = d.name, sorted(d.weekdays), place
        day_type.energy_kcal, day_type.energy_band_pct = d.energy_kcal, d.energy_band_pct
        day_type.protein_floor_g, day_type.clinician_confirmed = d.protein_floor_g, typed.clinician_confirmed
        day_type.way = asdict(d.as_set)
        day_type.bands = {band.key: [band.low, band.high] for band in d.bands}
        rows.append(day_type)
    row.day_types[:] = rows


def _put_slots(session: HouseholdSession, row: EaterRow, typed: EaterInput) -> None:
    """Write the typed slots; one that is gone and holds meals somewhere is put aside, for those weeks keep it."""
    kept = {s.id: s for s in row.all_slots}
    gone = kept.keys() - {s.id for s in typed.slots}
    held = set(session.scalars(select(PlacementRow.slot_id).where(PlacementRow.slot_id.in_(gone)))) if gone else set()
    rows = []
    for place, s in enumerate(typed.slots):
        slot = kept.get(s.id) or SlotRow(id=s.id)
        slot.name, slot.at, slot.eaten_cold, slot.travels = s.name, s.at, s.eaten_cold, s.travels
        slot.no_reheat, slot.within_min, slot.share_pct, slot.position = s.no_reheat, s.within_min, s.share_pct, place
        slot.is_archived = False
        rows.append(slot)
    for slot_id in held:
        kept[slot_id].is_archived, kept[slot_id].position = True, len(rows)
        rows.append(kept[slot_id])
    row.all_slots[:] = rows


def _check(typed: EaterInput) -> None:
    faults: list[InvalidInput] = []
    if not 1 <= len(typed.name.strip()) <= 160:
        faults.append(InvalidInput("name", say("An eater needs a name."), say("1 to 160 letters.")))
    if not 1 <= len(typed.day_types) <= MOST_DAY_TYPES:
        faults.append(
            InvalidInput(
                "day_types",
                say("At least one kind of day needs a target."),
                say("1 to {MOST_DAY_TYPES}.", MOST_DAY_TYPES=MOST_DAY_TYPES),
            )
        )
    if not 1 <= len(typed.slots) <= MOST_SLOTS:
        faults.append(
            InvalidInput("slots", say("An eating day needs slots."), say("1 to {MOST_SLOTS}.", MOST_SLOTS=MOST_SLOTS))
        )
    unknown = sorted(set(typed.excluded_allergens) - ALLERGENS.keys())
    faults.extend(InvalidInput("allergens", say("“{a}” is none of the 14 declared allergens.", a=a)) for a in unknown)
    if typed.diet not in DIETS_OF_EATERS:
        faults.append(InvalidInput("diet", say("“{diet}” is no diet we know.", diet=typed.diet), say("Choose one.")))
    not_asked = sorted(set(typed.conditions or ()) - CONDITIONS.keys())
    faults.extend(InvalidInput("conditions", say("“{c}” was not asked.", c=c)) for c in not_asked)
    room = typed.day_room_pct
    if room is not None and not LEAST_ROOM_PCT <= room <= MOST_ROOM_PCT:
        told = say("A day off by {room} % is not possible.", room=short(room))
        wanted = say("{least} to {most} %, or nothing.", least=short(LEAST_ROOM_PCT), most=short(MOST_ROOM_PCT))
        faults.append(InvalidInput("day_room_pct", told, wanted))
    elif room is not None and not typed.clinician_confirmed:
        least = min((d.energy_kcal for d in typed.day_types), default=0.0) * (1 - room / 100)
        if least < CONFIRM_BELOW_KCAL:  # no day is planned there by itself
            told = say("A single day could be planned with {kcal} kcal.", kcal=shown(least))
            wanted = say("Less room: no day under {least} kcal is planned.", least=shown(CONFIRM_BELOW_KCAL))
            faults.append(InvalidInput("day_room_pct", told, wanted))
    faults += _slot_faults(typed)
    claimed: dict[int, str] = {}
    for d in typed.day_types:
        faults.extend(_day_type_faults(typed, d, claimed))
    if faults:
        raise InvalidInputs(faults)


def _slot_faults(typed: EaterInput) -> Iterator[InvalidInput]:
    for s in typed.slots:
        if not 1 <= len(s.name.strip()) <= 40:
            yield InvalidInput(typed.at(s.id, "name"), say("A slot needs a name."), say("1 to 40 letters."))
        if s.within_min is not None and not 1 <= s.within_min <= 240:
            yield InvalidInput(
                typed.at(s.id, "within_min"),
                say("{within_min} minutes is not possible.", within_min=s.within_min),
                say("1 to 240."),
            )
        if s.share_pct is not None and not 0 < s.share_pct <= 100:
            yield InvalidInput(
                typed.at(s.id, "share_pct"),
                say("{share_pct} % is no share.", share_pct=short(s.share_pct)),
                say("Over 0, up to 100 %."),
            )
    shares = [s.share_pct for s in typed.slots if s.share_pct is not None]
    if shares and (len(shares) < len(typed.slots) or abs(sum(shares) - 100) > 0.5):
        wanted = say("Give every slot a share, together 100 %, or none.")
        yield InvalidInput(
            "slots",
            say("The shares come to {shares} % over {shares2} slots.", shares=short(sum(shares)), shares2=len(shares)),
            wanted,
        )


def _day_type_faults(typed: EaterInput, d: DayTypeInput, claimed: dict[int, str]) -> Iterator[InvalidInput]:
    if not 1 <= len(d.name.strip()) <= 40:
        yield InvalidInput(typed.at(d.id, "name"), say("A kind of day needs a name."), say("1 to 40 letters."))
    for weekday in d.weekdays:
        if weekday in claimed:
            problem = say("A weekday is already a “{claimed}” day.", claimed=claimed[weekday])
            yield InvalidInput(typed.at(d.id, "weekdays"), problem, say("Tick it once."))
        claimed[weekday] = d.name
    try:
        DayTarget(d.energy_kcal, d.protein_floor_g, d.energy_band_pct, d.bands)
    except InvalidInputs as found:
        for fault in found.faults:
            yield InvalidInput(typed.at(d.id, fault.field), fault.problem, fault.wanted)
    caution = low_energy_caution(d.energy_kcal)
    if caution and caution.needs_confirmation and not typed.clinician_confirmed:
        wanted = say("Confirm below that a clinician gave this target.")
        yield InvalidInput(typed.at(d.id, "energy_kcal"), caution.text, wanted)
