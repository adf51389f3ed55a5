"""What cannot be in a week that is to be planned or fitted: every fault at once, each at its place."""

from collections.abc import Iterable, Iterator, Sequence

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short, shown
from goodcrate.core.week.week_problem import AIMS, PlanBand, PlanDay, PlanDish, PlanMean, PlanSlot, WeekPlanProblem


def check_plan_problem(problem: WeekPlanProblem) -> None:
    """Refuse a week no plan can be made for.

    Raises:
        InvalidInputs: naming every slot, day, dish and session that stands twice, points nowhere, or cannot be.
    """
    faults = list(_rule_faults(problem))
    slots = [(s.eater_key, s.day, s.slot_key) for s in problem.slots]
    days = [(d.eater_key, d.day) for d in problem.days]
    dishes = [d.key for d in problem.dishes]
    for place, keys in (("slots", slots), ("days", days), ("dishes", dishes)):
        faults.extend(twice(place, keys))
    faults.extend(twice("sessions", [s.key for s in problem.sessions]))
    for n, day in enumerate(problem.days):
        faults.extend(_day_faults(say("days.{n}", n=n), day))
    for n, dish in enumerate(problem.dishes):
        faults.extend(_dish_faults(say("dishes.{n}", n=n), dish))
    faults.extend(mean_faults("means", problem.means, [(d.eater_key, d.bands) for d in problem.days]))
    known, banded = set(dishes), set(days)
    for n, slot in enumerate(problem.slots):
        faults.extend(_slot_faults(say("slots.{n}", n=n), slot, known))
        if slot.fixed is None and (slot.eater_key, slot.day) not in banded:
            faults.append(
                InvalidInput(f"slots.{n}.day", say("This day has no band for this eater."), say("Give it one in days."))
            )
    for n, session in enumerate(problem.sessions):
        late = sorted(day for _, day, _ in session.serves if day < session.day)
        if late:
            problem_words = say(
                "It is on day {day} and serves a slot on day {late}, before it.", day=session.day, late=late[0]
            )
            faults.append(
                InvalidInput(f"sessions.{n}.serves", problem_words, say("A session comes before what it serves."))
            )
    if faults:
        raise InvalidInputs(faults)


MOST_GRAMS, MOST_KCAL, MOST_PROTEIN_G, LAST_DAY = 5000.0, 12_000.0, 500.0, 13


def _rule_faults(problem: WeekPlanProblem) -> Iterator[InvalidInput]:
    if not problem.slots:
        yield InvalidInput("slots", say("There is no slot to fill."), say("Give an eater a slot."))
    if not problem.dishes:
        yield InvalidInput("dishes", say("There is no recipe to fill slots with."), say("Make one first."))
    if problem.rules.aim not in AIMS:
        yield InvalidInput(
            "aim", say("“{aim}” is no aim.", aim=problem.rules.aim), say("One of {AIMS}.", AIMS=", ".join(AIMS))
        )
    if not 0.1 <= problem.rules.limit_seconds <= 60:
        yield InvalidInput("limit_seconds", say("Up to a minute."), say("0.1 to 60 s."))


def twice(place: str, keys: Sequence[object]) -> Iterator[InvalidInput]:
    """A fault for every key that stands in a list more than once, at its second place."""
    seen: set[object] = set()
    for n, key in enumerate(keys):
        if key in seen:
            words = " ".join(str(part) for part in key) if isinstance(key, tuple) else str(key)
            yield InvalidInput(
                f"{place}.{n}", say("“{words}” stands there twice.", words=words), say("Once is enough.")
            )
        seen.add(key)


def _slot_faults(place: str, slot: PlanSlot, known: set[str]) -> Iterator[InvalidInput]:
    if slot.day > LAST_DAY:
        yield InvalidInput(place, say("A plan covers at most 14 days."), say("Plan a shorter week."))
    for key in slot.dishes:
        if key not in known:
            yield InvalidInput(f"{place}.dishes", say("There is no dish “{key}”.", key=key))
    if slot.fixed is not None:
        key, grams = slot.fixed
        if key not in known:
            yield InvalidInput(f"{place}.fixed", say("There is no dish “{key}”.", key=key))
        if not 0 < grams <= MOST_GRAMS:
            yield InvalidInput(
                f"{place}.fixed", say("A portion of {grams} g is not possible.", grams=short(grams)), say("Above 0 g.")
            )


def _day_faults(place: str, day: PlanDay) -> Iterator[InvalidInput]:
    if not 0 < day.energy_low_kcal <= day.energy_high_kcal <= MOST_KCAL:
        words = say(
            "From {energy_low_kcal} to {energy_high_kcal} kcal is no band.",
            energy_low_kcal=short(day.energy_low_kcal),
            energy_high_kcal=short(day.energy_high_kcal),
        )
        yield InvalidInput(
            f"{place}.energy_low_kcal",
            words,
            say("From less to more, up to {MOST_KCAL} kcal.", MOST_KCAL=shown(MOST_KCAL)),
        )
    if not day.protein_floor_g <= MOST_PROTEIN_G or min(day.protein_floor_g, day.extra_kcal, day.extra_protein_g) < 0:
        yield InvalidInput(
            place, say("A floor, or what is eaten besides, is not possible."), say("0 or more, up to 500 g.")
        )
    yield from band_faults(place, day.bands)


def band_faults(place: str, bands: Iterable[PlanBand]) -> Iterator[InvalidInput]:
    """What cannot be in a day's other bands: from more to less, negative, or one nutrient twice."""
    named = list(bands)
    yield from twice(f"{place}.bands", [band.key for band in named])
    for n, band in enumerate(named):
        ends = [end for end in (band.low, band.high) if end is not None]
        if any(end < 0 for end in (*ends, band.extra)) or (len(ends) == 2 and ends[0] > ends[1]):
            yield InvalidInput(
                f"{place}.bands.{n}",
                say("That is no band of {key}.", key=band.key),
                say("From less to more, 0 or above."),
            )


def mean_faults(
    place: str, means: Sequence[PlanMean], days: Iterable[tuple[str, Iterable[PlanBand]]]
) -> Iterator[InvalidInput]:
    """What cannot be in the means of a week: from more to less, one eater twice, or a band that a day does not have.

    `days` are each day's eater and bands.
    """
    named: dict[str, list[set[str]]] = {}
    for eater_key, bands in days:
        named.setdefault(eater_key, []).append({band.key for band in bands})
    yield from twice(place, [mean.eater_key for mean in means])
    for n, mean in enumerate(means):
        if not 0 < mean.energy_low_kcal <= mean.energy_high_kcal <= MOST_KCAL:
            yield InvalidInput(
                f"{place}.{n}.energy_low_kcal",
                say("The band goes from less to more."),
                say("Up to {most} kcal.", most=shown(MOST_KCAL)),
            )
        if not 0 <= mean.protein_floor_g <= MOST_PROTEIN_G:
            yield InvalidInput(
                f"{place}.{n}.protein_floor_g",
                say("That is no floor of a day."),
                say("0 to {most} g.", most=shown(MOST_PROTEIN_G)),
            )
        yield from band_faults(f"{place}.{n}", mean.bands)
        for m, band in enumerate(mean.bands):
            if any(band.key not in own for own in named.get(mean.eater_key, ())):
                yield InvalidInput(
                    f"{place}.{n}.bands.{m}",
                    say("Not every day of it has a band of {key}.", key=band.key),
                    say("Give each day one."),
                )


def _dish_faults(place: str, dish: PlanDish) -> Iterator[InvalidInput]:
    if not 0 < dish.low_g <= dish.high_g <= MOST_GRAMS:
        words = say(
            "Sizes from {low_g} to {high_g} g are not possible.", low_g=short(dish.low_g), high_g=short(dish.high_g)
        )
        yield InvalidInput(f"{place}.low_g", words, say("From less to more, above 0 g."))
    if not 0 < dish.kcal_per_g <= 9.1 or dish.protein_per_g < 0:
        words = say("{name} cannot be portioned.", name=dish.name)
        yield InvalidInput(f"{place}.kcal_per_g", words, say("Above 0, up to 9.1 kcal a gram; protein of 0 or more."))
    for key, value in dish.others_per_g.items():
        if value < 0:
            yield InvalidInput(
                f"{place}.others_per_g.{key}", say("{value} is not possible.", value=short(value)), say("0 or more.")
            )
