"""What can be done about a day that went off plan: which days, meals and foods the moves may touch."""

from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.store.at_table import TO_COME, Plate
from goodcrate.core.store.box import EATEN
from goodcrate.core.store.slip_moves import DayNow, Movable, Move, slip_moves
from goodcrate.core.targets.cautions import CONFIRM_BELOW_KCAL
from goodcrate.core.targets.day_target import banded_amount, banded_per_g
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.excluding import why_not_food
from goodcrate.core.week.meals import Meal
from goodcrate.services.at_table.eating import why_not_swapped
from goodcrate.services.at_table.table import Table
from goodcrate.services.at_table.today import TodayPicture


def moves_after(today: TodayPicture, eater: Eater) -> tuple[Move, ...]:
    """The moves for an eater's day, where something went off plan; none where its target is a clinician's to keep.

    Boxes past their date are touched by none. A day with a gap says nothing of the week's mean and is left out, but for
    the day itself. A box changes places with one of the same slot.
    """
    at_table, own = today.table.day(eater, today.day), eater.day_type_on(today.day.weekday())
    slipped = bool(at_table.off_plan) or any(p.fate not in (TO_COME, EATEN) for p in at_table.plates)
    if not slipped or own is None or own.energy_kcal < CONFIRM_BELOW_KCAL:
        return ()
    days, portions, share = [], [], today.table.picture.polyol_share
    for n, day in enumerate(today.table.picture.dates):
        target, there = eater.target_on(day.weekday()), today.table.day(eater, day)
        if target is None or (not today.table.is_whole(eater, day) and day != today.day):
            continue
        total = there.whole
        others = {band.key: banded_amount(total, band.key, share) for band in target.bands}
        days.append(DayNow(n, total.amount("energy_kcal").value, total.amount("protein_g").value, target, others))
        portions += [_movable(plate, n, share) for plate in there.plates if _may_be_eaten(today.table, plate)]
    house = [
        Movable(
            str(s.id),
            0,
            s.grams,
            s.kcal_per_g,
            s.protein_per_g,
            banded_per_g(Tally.of(s.food.composition, 100.0), share),
        )
        for s in today.snacks
        if not why_not_food(eater.exclusions, s.food)
    ]

    def may_swap(a: str, b: str) -> bool:
        one, other = meal_of(today.table, a), meal_of(today.table, b)
        return (
            one.slot_id == other.slot_id
            and not why_not_swapped(today.table, one, other)
            and not why_not_swapped(today.table, other, one)
        )

    mean = eater.mean_over(today.table.picture.dates[d.day].weekday() for d in days)
    return slip_moves((today.day - today.first_day).days, days, portions, house, may_swap, mean)


def meal_of(table: Table, key: str) -> Meal:
    """A meal of the week by its key."""
    return next(m for m in table.picture.meals if str(m.id) == key)


def _may_be_eaten(table: Table, plate: Plate) -> bool:
    if not plate.is_open or plate.box is None or plate.ahead.grams <= 0:
        return False
    last = table.last_day(plate.box)
    return last is None or meal_of(table, plate.meal_key).day <= last


def _movable(plate: Plate, day: int, polyol_share: float) -> Movable:
    there = plate.ahead
    energy, protein = there.amount("energy_kcal").value, there.amount("protein_g").value
    others = banded_per_g(there, polyol_share)
    return Movable(plate.meal_key, day, there.grams, energy / there.grams, protein / there.grams, others)
