"""Fitting a week's portions to its days: shown first, then taken, then kept or put back."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.portion.filled_boxes import PLANNED
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.scaling import piece_portion_g
from goodcrate.core.recipes.vessels import largest_portion_g
from goodcrate.core.targets.cautions import CONFIRM_BELOW_KCAL
from goodcrate.core.targets.day_target import banded_amount, banded_per_g
from goodcrate.core.targets.eater import Eater
from goodcrate.core.week.dish import LARGEST_SERVINGS, SMALLEST_SERVINGS
from goodcrate.core.week.fit.fit_problem import (
    FitDay,
    FitPortion,
    FittedPortion,
    WeekFit,
    WeekFitProblem,
    block_sizes_g,
)
from goodcrate.core.week.fit.week_fit import fit_week
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.placings import kept_servings
from goodcrate.core.week.week_problem import PlanBand, PlanMean
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import PlacementRow
from goodcrate.services.calling import Caller
from goodcrate.services.week.weeks import WeekPicture, existing_week, load_picture, take_turns


@dataclass(frozen=True)
class Move:
    """Boxes of one eater and recipe that a fit makes larger or smaller, alike."""

    eater_name: str
    recipe_name: str
    boxes: int
    before_g: float
    after_g: float
    before_kcal: float
    after_kcal: float
    placement_ids: tuple[UUID, ...]
    servings: float


@dataclass(frozen=True)
class FittedWeek:
    """What a fit would do to a week, and how its days stand before and after."""

    fit: WeekFit
    moves: tuple[Move, ...]
    met_before: int
    gaps: int
    dates: tuple[date, ...]
    eater_names: Mapping[str, str]

    @property
    def days(self) -> int:
        """Days with a target and a meal in every slot."""
        return len(self.fit.days)


@dataclass(frozen=True)
class _Group:
    """Placements whose boxes are equal: one eater, one recipe, one size."""

    portion: FitPortion
    placements: tuple[Meal, ...]
    recipe_name: str
    serving_g: float


def _problem(picture: WeekPicture, step_g: int) -> tuple[WeekFitProblem, list[_Group]]:
    """A week as a fit problem. Boxes that are equal now stay equal; pinned and packed keep their size."""
    at = {day: n for n, day in enumerate(picture.dates)}
    groups: dict[tuple[UUID, str, float, bool], list[Meal]] = {}
    fixed: dict[tuple[UUID, date], list[Tally]] = {}
    meals: dict[tuple[UUID, date], int] = {}
    for p in picture.meals:
        box = picture.outcome.boxes[str(p.id)]
        meals[p.eater_id, p.day] = meals.get((p.eater_id, p.day), 0) + 1
        if box.stage == PLANNED and box.tally.grams > 0 and p.from_box is None:
            groups.setdefault((p.eater_id, box.placing.recipe_key, p.servings, p.is_pinned), []).append(p)
        else:
            fixed.setdefault((p.eater_id, p.day), []).append(box.tally)
    eaters = {e.id: e for e in picture.eaters}
    made = [
        _group(picture, eaters[eater_id], picture.recipes[recipe_key], placements, step_g)
        for (eater_id, recipe_key, _, _), placements in groups.items()
    ]
    days = []
    for eater in picture.eaters:
        for day in picture.dates:
            day_type = eater.day_type_on(day.weekday())
            if day_type is None or meals.get((eater.id, day), 0) < len(eater.slots):
                continue  # a day with a gap is not stretched over it
            if day_type.energy_kcal < CONFIRM_BELOW_KCAL:
                continue  # such a target is the clinician's and the eater's: nothing is planned to it by itself
            target = eater.target_on(day.weekday()) or day_type.target
            there = Tally.sum([eater.extras_tally, *fixed.get((eater.id, day), [])])
            share = picture.polyol_share
            bands = tuple(PlanBand(b.key, b.low, b.high, banded_amount(there, b.key, share)) for b in target.bands)
            days.append(
                FitDay(
                    str(eater.id),
                    at[day],
                    target.energy_low_kcal,
                    target.energy_high_kcal,
                    target.protein_floor_g,
                    there.amount("energy_kcal").value,
                    fixed_protein_g=there.amount("protein_g").value,
                    bands=bands,
                )
            )
    means = tuple(mean for eater in picture.eaters if (mean := _mean(picture, eater, days)) is not None)
    return WeekFitProblem(tuple(g.portion for g in made), tuple(days), step_g, means), made


def _mean(picture: WeekPicture, eater: Eater, days: Sequence[FitDay]) -> PlanMean | None:
    """What the mean of an eater's fitted days must keep to, where it is what counts."""
    target = eater.mean_over(picture.dates[d.day].weekday() for d in days if d.eater_key == str(eater.id))
    if target is None:
        return None
    bands = tuple(PlanBand(b.key, b.low, b.high) for b in target.bands)
    return PlanMean(str(eater.id), target.energy_low_kcal, target.energy_high_kcal, target.protein_floor_g, bands)


def _group(picture: WeekPicture, eater: Eater, recipe: Recipe, placements: Sequence[Meal], step_g: int) -> _Group:
    """Equal boxes of an eater as one portion, with how far it may move and what its slots want of it."""
    servings, tally = placements[0].servings, serving_of(recipe).tally
    kcal_per_g = tally.amount("energy_kcal").value / tally.grams
    low, high = min(SMALLEST_SERVINGS, servings) * tally.grams, max(LARGEST_SERVINGS, servings) * tally.grams
    in_a_box = largest_portion_g(picture.vessels)
    if in_a_box is not None:
        high = max(min(high, in_a_box), servings * tally.grams)
    slots = {slot.id: slot for slot in eater.slots}
    wanted = tuple(eater.wanted_kcal(slots[p.slot_id], p.day.weekday()) for p in placements)
    portion = FitPortion(
        str(eater.id),
        recipe.key,
        servings * tally.grams,
        kcal_per_g,
        tally.amount("protein_g").value / tally.grams,
        low,
        high_g=high,
        days=tuple((p.day - picture.week.first_day).days for p in placements),
        piece_g=piece_portion_g(recipe, tally.grams),
        is_held=placements[0].is_pinned,
        others_per_g=banded_per_g(tally, picture.polyol_share),
        wanted_kcal=wanted,
        sizes_g=block_sizes_g(eater.blocks.sums(), kcal_per_g, low, high, step_g) if eater.blocks else (),
    )
    return _Group(portion, tuple(placements), recipe.name, tally.grams)


def _fitted(picture: WeekPicture, step_g: int) -> FittedWeek:
    problem, groups = _problem(picture, step_g)
    fit = fit_week(problem)
    names = {str(e.id): e.first_name for e in picture.eaters}
    fitted = zip(groups, fit.portions, strict=True)
    moves = tuple(_move(g, f, names[g.portion.eater_key]) for g, f in fitted if abs(f.moved_g) >= 0.5)
    slots = {e.id: len(e.slots) for e in picture.eaters}
    eaten = [(p.eater_id, p.day) for p in picture.meals]
    gaps = sum(eaten.count(key) < slots[key[0]] for key in set(eaten))
    return FittedWeek(fit, moves, sum(d.was_met for d in fit.days), gaps, picture.dates, names)


def _move(g: _Group, f: FittedPortion, eater: str) -> Move:
    return Move(
        eater,
        g.recipe_name,
        len(g.placements),
        f.before_g,
        f.after_g,
        f.before_g * g.portion.kcal_per_g,
        after_kcal=f.after_g * g.portion.kcal_per_g,
        placement_ids=tuple(p.id for p in g.placements),
        servings=f.after_g / g.serving_g,
    )


def fit(caller: Caller, first_day: date, step_g: int = 5) -> FittedWeek:
    """What fitting the portions of a week would do; nothing is changed.

    Raises:
        NotFound: when there is no such week.
        InvalidInputs: for a step we do not know.
    """
    with caller.transaction() as session:
        return _fitted(load_picture(session, existing_week(session, first_day)), step_g)


def take_fit(caller: Caller, first_day: date, step_g: int = 5) -> int:
    """Fit the portions and keep what they were beside them; gives how many portions moved.

    Worked out anew inside the transaction, so it fits the week as it stands now.

    Raises:
        NotFound: when there is no such week.
        InvalidInputs: for a step we do not know.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        done = _fitted(load_picture(session, existing_week(session, first_day)), step_g)
        for move in done.moves:
            for row in session.scalars(select(PlacementRow).where(PlacementRow.id.in_(move.placement_ids))):
                if row.servings_before is None:
                    row.servings_before = row.servings
                row.servings = kept_servings(move.servings)
        return len(done.moves)


def settle_fit(caller: Caller, first_day: date, *, keep: bool) -> None:
    """Keep the fitted portions, or put those before them back.

    Raises:
        NotFound: when there is no such week.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        week = existing_week(session, first_day)
        for row in _moved(session, week.id):
            if not keep and row.servings_before is not None:
                row.servings = row.servings_before
            row.servings_before = None


def _moved(session: HouseholdSession, week_id: UUID) -> list[PlacementRow]:
    return list(
        session.scalars(
            select(PlacementRow).where(
                PlacementRow.week_id == week_id, PlacementRow.live == 1, PlacementRow.servings_before.is_not(None)
            )
        )
    )
