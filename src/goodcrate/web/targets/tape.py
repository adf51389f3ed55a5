"""The tape of an eater's form: every target with its working, formula and source, and the cautions that apply."""

from dataclasses import dataclass

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short
from goodcrate.core.targets.cautions import Caution
from goodcrate.core.targets.day_target import BANDED, energy_band, slot_share_kcal
from goodcrate.core.targets.eater_facts import EATER_FACTS, EaterFacts
from goodcrate.core.targets.target_ways import Person, WorkedDay, work_out
from goodcrate.web.figures import plain, whole
from goodcrate.web.targets.day_type_form import DayTypeForm
from goodcrate.web.targets.forms import EaterForm
from goodcrate.web.targets.slot_form import SlotFields


@dataclass(frozen=True)
class DayWorking:
    """One kind of day on the tape: its working, or what keeps it away."""

    name: str
    worked: WorkedDay | None
    problems: tuple[str, ...] = ()
    band: str = ""

    @property
    def bands(self) -> tuple[str, ...]:
        """Bands that follow from a split, in words."""
        if self.worked is None:
            return ()
        words = []
        for key, (low, high) in self.worked.bands.items():
            word, unit, _ = BANDED[key]
            words.append(f"{word} {plain(low or 0)}–{plain(high or 0)} {unit}")
        return tuple(words)


@dataclass(frozen=True)
class TargetTape:
    """All kinds of day as they are typed right now; cautions once each; shares of the first kind by slot."""

    days: tuple[DayWorking, ...]
    cautions: tuple[Caution, ...]
    shares: tuple[tuple[str, str], ...]
    problems: tuple[str, ...]


def target_tape(form: EaterForm) -> TargetTape:
    """Work out what is typed; nothing is saved."""
    person, problems = _person(form)
    days = [_day(row, person) for row in form.day_types if not row.is_blank]
    cautions = {c.text: c for d in days if d.worked is not None for c in d.worked.cautions}
    return TargetTape(tuple(days), tuple(cautions.values()), _shares(form, days), problems)


def _day(row: DayTypeForm, person: Person) -> DayWorking:
    """One kind of day, worked out as it is typed."""
    faults: list[InvalidInput] = []
    read = row.read(faults)
    name = row.name.strip() or say("a kind of day")
    if read is None:
        return DayWorking(name, None, tuple(f.message for f in faults))
    try:
        done = work_out(read.as_set, person)
    except InvalidInputs as found:
        return DayWorking(name, None, tuple(f.message for f in found.faults))
    low, high = energy_band(done.energy.value, read.energy_band_pct)
    return DayWorking(name, done, (), say("{low}–{high} kcal", low=whole(low), high=whole(high)))


def _person(form: EaterForm) -> tuple[Person, tuple[str, ...]]:
    """Whatever of the person can be read; the rest as problems in words."""
    faults: list[InvalidInput] = []
    read = form.readable(faults)
    facts = EaterFacts(**{name: read[name] for name in EATER_FACTS if name in read})
    body = blocks = None
    try:
        body = facts.body
    except InvalidInputs as found:
        faults += found.faults
    try:
        blocks = facts.blocks
    except InvalidInput as fault:
        faults.append(fault)
    conditions = tuple(sorted(form.conditions))
    person = Person(facts.sex, body, facts.weight_kg, facts.activity, blocks, conditions)
    return person, tuple(f.message for f in faults)


def _shares(form: EaterForm, days: list[DayWorking]) -> tuple[tuple[str, str], ...]:
    first = next((d.worked for d in days if d.worked is not None), None)
    if first is None:
        return ()
    faults: list[InvalidInput] = []
    shares = []
    for slot in form.slots:
        share = SlotFields.partly(slot, slot.prefix, faults).share_pct
        if share is not None:
            shares.append(
                (
                    slot.name,
                    say(
                        "{share} % = {value} kcal",
                        share=short(share),
                        value=whole(slot_share_kcal(first.energy.value, share)),
                    ),
                )
            )
    return tuple(shares)
