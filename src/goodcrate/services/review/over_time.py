"""Closed weeks over time: each one's figures as it was judged, worked out once and kept beside it."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date, timedelta
from uuid import UUID, uuid5

from sqlalchemy import Executable, func, select

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
    for week_id, first_day, stamp in missing[:MOST_AT_ONCE]:
        _work_out(caller, week_id, first_day, stamp)
    with caller.transaction() as session:
        return _from_rows(session)[0]


Missing = list[tuple[UUID, date, str]]
"""Weeks that are to be worked out: id, first day, and the stamp they get."""
_KEPT: Kept[tuple[OverTime, Missing]] = Kept(16)


def _from_rows(session: HouseholdSession) -> tuple[OverTime, Missing]:
    """The weeks that are worked out as their logs are now, and those that are not, the newest first."""
    rows = session.execute(select(WeekSummaryRow.week_id, WeekSummaryRow.stamp, WeekSummaryRow.figures)).all()
    stamps, weeks = _stamps(session), dict[UUID, WeekSummary]()
    for row in rows:
        first_day, stamp = stamps.get(row.week_id, (None, ""))
        if first_day is not None and stamp == row.stamp:
            weeks[row.week_id] = _summary(first_day, row.figures)
    missing = [(key, day, stamp) for key, (day, stamp) in stamps.items() if key not in weeks]
    missing.sort(key=lambda one: one[1], reverse=True)
    return OverTime(tuple(sorted(weeks.values(), key=lambda w: w.first_day)), len(missing)), missing


def _stamps(session: HouseholdSession) -> dict[UUID, tuple[date, str]]:
    """By closed week its first day, and how far each log that it depends on has come."""
    closed = select(WeekRow.id, WeekRow.first_day, WeekRow.days, WeekRow.closed_at).where(
        WeekRow.closed_at.is_not(None)
    )
    logs = [_last(session, asked) for asked in _LOGS]
    by_day = [_last(session, select(kind.day, func.max(kind.seq)).group_by(kind.day)) for kind in (OffPlanRow, DoneRow)]
    found = {}
    for week in session.execute(closed):
        days = [week.first_day + timedelta(days=n) for n in range(week.days)]
        parts = [log.get(week.id, "") for log in logs]
        parts += [str(max((int(log.get(day, 0)) for day in days), default=0)) for log in by_day]
        found[week.id] = (week.first_day, ":".join([f"{week.closed_at:%y%m%d%H%M%S}", *parts]))
    return found


_PACKED = select(PlacementRow.week_id, func.max(BoxEventRow.seq)).join(BoxRow, BoxRow.packed_for == PlacementRow.id)
_LOGS = (
    _PACKED.join(BoxEventRow, BoxEventRow.box_id == BoxRow.id).group_by(PlacementRow.week_id),
    select(PlacementRow.week_id, func.max(BoxEventRow.seq))
    .join(BoxEventRow, BoxEventRow.placement_id == PlacementRow.id)
    .group_by(PlacementRow.week_id),
    select(BatchRow.week_id, func.max(WeighingRow.seq))
    .join(WeighingRow, WeighingRow.batch_id == BatchRow.id)
    .group_by(BatchRow.week_id),
    select(PlacementRow.week_id, func.sum(PlacementRow.version)).group_by(PlacementRow.week_id),
)
"""What is said of a week's own boxes, of boxes that its meals ate, and of its batches; and its meals themselves."""


def _last(session: HouseholdSession, asked: Executable) -> Mapping[object, str]:
    return {row[0]: str(int(row[1])) for row in session.execute(asked) if row[1] is not None}


def _work_out(caller: Caller, week_id: UUID, first_day: date, stamp: str) -> None:
    picture = week_picture(caller, first_day)
    if picture is None:
        return
    figures = _figures(caller, week_story(caller, picture))
    with caller.transaction() as session:
        row_id = uuid5(week_id, "summary")
        row = session.find(WeekSummaryRow, row_id)
        if row is not None:
            row.stamp, row.figures = stamp, figures
            return
        row = WeekSummaryRow(id=row_id, week_id=week_id, first_day=first_day, stamp=stamp, figures=figures)
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
