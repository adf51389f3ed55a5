"""Where the mean of a week at the table stands: what was eaten and what is to come, against the eater's bands."""

from dataclasses import dataclass

from goodcrate.core.targets.day_target import Judgement, banded_amount
from goodcrate.core.targets.eater import Eater
from goodcrate.services.at_table.table import Table

CLOSE_PCT = 2.0
"""A mean within so many % of its targets' mean is close to it: our line."""


@dataclass(frozen=True)
class MeanAtTable:
    """The mean of an eater's whole days: energy in kcal a day, protein in g a day, how both stand, the protein floor in
    g, and the other nutrients outside their bands by their words. `counts`: the bands hold for the mean, not for each
    day. `target_kcal` is the mean of those days' targets."""

    days: int
    kcal: float
    protein_g: float
    energy: Judgement
    protein: Judgement
    floor_g: float
    outside: tuple[str, ...]
    counts: bool
    target_kcal: float = 0.0

    @property
    def by_pct(self) -> float:
        """How far the mean is from the targets' mean, in %."""
        return (self.kcal / self.target_kcal - 1) * 100

    @property
    def is_close(self) -> bool:
        """Whether there is nothing to make up for."""
        return abs(self.by_pct) <= CLOSE_PCT


def mean_at_table(table: Table, eater: Eater) -> MeanAtTable | None:
    """The mean of the days on which each of an eater's slots has a meal; None without such a day, or without a target.

    Raises:
        InvalidInputs: when a target cannot be.
    """
    days = [d for d in table.picture.dates if table.is_whole(eater, d) and eater.target_on(d.weekday()) is not None]
    wanted = eater.mean_target(d.weekday() for d in days)
    if wanted is None:
        return None
    tallies = [table.day(eater, d).whole for d in days]
    kcal, protein_g = (sum(t.amount(k).value for t in tallies) / len(tallies) for k in ("energy_kcal", "protein_g"))
    energy, protein = wanted.judge(kcal, protein_g)
    share = table.picture.polyol_share
    others = {b.key: sum(banded_amount(t, b.key, share) for t in tallies) / len(tallies) for b in wanted.bands}
    return MeanAtTable(
        len(days),
        kcal,
        protein_g,
        energy,
        protein=protein,
        floor_g=wanted.protein_floor_g,
        outside=tuple(wanted.missed_bands(others)),
        counts=eater.day_room_pct is not None,
        target_kcal=wanted.energy_kcal,
    )
