"""Closed weeks over time: each one's figures as it was judged, worked out once and kept beside it."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date, timedelta
from uuid import UUID, uuid5

from sqlalchemy import func, select

from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.nutrients import KEYS
from goodcrate.core.review.over_time import COST_A_DAY, FINISHED, MISS_G, SESSIONS_MIN, THROWN_G, EaterWeek, WeekSummary
from goodcrate.db.at_table import DoneRow, OffPlanRow
from goodcrate.db.changes import Kept
from goodcrate.db.cook import BatchRow, WeighingRow
from goodcrate.db.review import WeekSummaryRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxEventRow, BoxRow
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.services.calling import Caller, add_once
from goodcrate.services.review.learned import learned_of
from goodcrate.services.review.week_story import WeekStory, is_in_band, means, week_story
from goodcrate.services.week.weeks import week_picture

MOST_AT_ONCE = 6
"""So many weeks are worked out at one asking; the others at the next."""


@dataclass(frozen=True)
class OverTime:
    """Closed weeks, and how many are still to be worked out."""

    weeks: tuple[WeekSummary, ...]
    to_come: int = 0


def over_time(caller: Caller) -> OverTime:
    """All closed weeks of a household as they were judged, with what was said of them since."""
    with caller.transaction() as session:
        sums = select(func.count(WeekSummaryRow.id), func.sum(func.crc32(WeekSummaryRow.stamp)))
        there = tuple(str(n) for n in session.execute(sums).one())
        kept, missing = _KEPT.get(session, ("over time", *there), lambda: _from_rows(session))
    if not missing:
        return kept
    for week_id, stamp in missing[:MOST_AT_ONCE]:
        _work_out(caller, week_id, stamp)
    with caller.transaction() as session:
        return _from_rows(session)[0]


@dataclass(frozen=True)
class _Stamp:
    """What a week's figures were worked out from: when it was closed, its meals, and how far each log had come."""

    first_day: date
    closed: str
    meals: str
    through: tuple[int, ...]

    @property
    def text(self) -> str:
        """The stamp as it is stored."""
        return "|".join((self.closed, self.meals, ".".join(map(str, self.through))))


Missing = list[tuple[UUID, _Stamp]]
"""Weeks that are to be worked out, with the stamp they get."""
_KEPT: Kept[tuple[OverTime, Missing]] = Kept(16)


def _from_rows(session: HouseholdSession) -> tuple[OverTime, Missing]:
    """The weeks that are worked out as their logs are now, and those that are not, the newest first."""
    rows = session.execute(select(WeekSummaryRow.week_id, WeekSummaryRow.stamp, WeekSummaryRow.figures)).all()
    stamps, weeks = _stamps(session), dict[UUID, WeekSummary]()
    known = {row.week_id: tuple(map(int, row.stamp.split("|")[2].split("."))) for row in rows}
    newer = _newer(session, [min(throughs) for throughs in zip(*known.values(), strict=True)]) if known else {}
    for row in rows:
        now, through = stamps.get(row.week_id), known[row.week_id]
        if now is None or row.stamp.split("|")[:2] != [now.closed, now.meals]:
            continue
        days = [now.first_day + timedelta(days=n) for n in range(14)]
        said = [newer.get((n, key), 0) for n, key in ((0, row.week_id), (1, row.week_id), *((2, d) for d in days))]
        if said[0] <= through[0] and said[1] <= through[1] and max(said[2:]) <= through[2]:
            weeks[row.week_id] = _summary(now.first_day, row.figures)
    missing = [(key, stamp) for key, stamp in stamps.items() if key not in weeks]
    missing.sort(key=lambda one: one[1].first_day, reverse=True)
    return OverTime(tuple(sorted(weeks.values(), key=lambda w: w.first_day)), len(missing)), missing


def _stamps(session: HouseholdSession) -> dict[UUID, _Stamp]:
    """By closed week what its figures would be worked out from now."""
    closed = select(WeekRow.id, WeekRow.first_day, WeekRow.closed_at).where(WeekRow.closed_at.is_not(None))
    versions = select(PlacementRow.week_id, func.sum(PlacementRow.version)).group_by(PlacementRow.week_id)
    meals = {row[0]: str(row[1]) for row in session.execute(versions)}
    logs = (BoxEventRow.seq, WeighingRow.seq, OffPlanRow.seq, DoneRow.seq)
    events, weighings, besides, done = (session.scalar(select(func.max(seq))) or 0 for seq in logs)
    through = (events, weighings, max(besides, done))
    return {
        week.id: _Stamp(week.first_day, f"{week.closed_at:%y%m%d%H%M%S}", meals.get(week.id, ""), through)
        for week in session.execute(closed)
    }


def _newer(session: HouseholdSession, since: Sequence[int]) -> Mapping[tuple[int, object], int]:
    """What was said since the logs had come so far: by number of the log and by week (by day in the third) the last of
    it. Boxes are of the week they were packed for, and of that whose meal ate them."""
    own = select(PlacementRow.week_id, func.max(BoxEventRow.seq)).where(BoxEventRow.seq > since[0])
    packed = own.select_from(BoxEventRow).join(BoxRow, BoxRow.id == BoxEventRow.box_id)
    asked = [
        (0, packed.join(PlacementRow, PlacementRow.id == BoxRow.packed_for).group_by(PlacementRow.week_id)),
        (
            0,
            own.select_from(BoxEventRow)
            .join(PlacementRow, PlacementRow.id == BoxEventRow.placement_id)
            .group_by(PlacementRow.week_id),
        ),
        (
            1,
            select(BatchRow.week_id, func.max(WeighingRow.seq))
            .join(WeighingRow, WeighingRow.batch_id == BatchRow.id)
            .where(WeighingRow.seq > since[1])
            .group_by(BatchRow.week_id),
        ),
        *(
            (2, select(kind.day, func.max(kind.seq)).where(kind.seq > since[2]).group_by(kind.day))
            for kind in (OffPlanRow, DoneRow)
        ),
    ]
    found: dict[tuple[int, object], int] = {}
    for n, statement in asked:
        for key, last in session.execute(statement).all():
            found[n, key] = max(found.get((n, key), 0), int(last))
    return found


def _work_out(caller: Caller, week_id: UUID, stamp: _Stamp) -> None:
    picture = week_picture(caller, stamp.first_day)
    if picture is None:
        return
    figures = _figures(caller, week_story(caller, picture))
    with caller.transaction() as session:
        row_id = uuid5(week_id, "summary")
        row = session.find(WeekSummaryRow, row_id)
        if row is not None:
            row.stamp, row.figures = stamp.text, figures
            return
        told = {"first_day": stamp.first_day, "stamp": stamp.text, "figures": figures}
        row = WeekSummaryRow(id=row_id, week_id=week_id, **told)
        add_once(session, row)


def _figures(caller: Caller, story: WeekStory) -> Document:
    """A week's figures as they are kept: what is computed from stays with it in case it is taken apart anew."""
    learned = learned_of(caller, story)
    whole: dict[str, float] = {}
    if learned.cost is not None and not learned.cost.is_at_least:
        whole[COST_A_DAY] = learned.cost.a_day
    boxes = sum(f.boxes for f in learned.fates)
    if boxes:
        whole[FINISHED] = sum(f.finished for f in learned.fates) / boxes
        whole[THROWN_G] = sum(f.thrown_g for f in learned.fates)
    weighed = sum(a.boxes for a in learned.accuracy)
    if weighed:
        whole[MISS_G] = sum(a.miss_g * a.boxes for a in learned.accuracy) / weighed
    if learned.sessions:
        whole[SESSIONS_MIN] = float(sum(s.time.took_min for s in learned.sessions))
    eaters = {}
    for eater in story.table.picture.eaters:
        days = [d for d in story.days if d.eater.id == eater.id and d.is_over]
        targets = [t for d in days if (t := d.eater.target_on(d.day.weekday())) is not None]
        mean_kcal = sum(t.energy_kcal for t in targets) / len(targets) if targets else None
        brought = {key: (known, unknown) for key, known, unknown in means(days, KEYS)}
        eaters[str(eater.id)] = asdict(
            EaterWeek(eater.first_name, len(days), sum(map(is_in_band, days)), mean_kcal, brought)
        )
    return {"eaters": eaters, "whole": whole}


def _summary(first_day: date, stored: ReadDocument) -> WeekSummary:
    eaters = {
        key: EaterWeek(
            one["name"],
            one["days"],
            one["in_band"],
            one["target_kcal"],
            {nutrient: (known, unknown) for nutrient, (known, unknown) in one["means"].items()},
        )
        for key, one in stored["eaters"].items()
    }
    return WeekSummary(first_day, eaters, stored["whole"])
