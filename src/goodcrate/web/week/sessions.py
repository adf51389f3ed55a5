"""What a week's sessions cook, how full fridge and freezer get, and what to take out when: as the tape shows it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import day_month, heats_told, many, weekday
from goodcrate.core.recipes.steps import hands_on_min
from goodcrate.core.week.batch_notes import BatchNote, batch_notes
from goodcrate.core.week.storing import PAST, Load, loads, thawing
from goodcrate.services.cook.cooking import batch_id_for
from goodcrate.services.week.weeks import WeekPicture


@dataclass(frozen=True)
class BatchLine:
    """One batch of a session: what, for how many boxes, how much, and what to know of it."""

    url: str
    name: str
    of: str
    boxes: int
    cooked_g: float
    notes: tuple[BatchNote, ...]


@dataclass(frozen=True)
class SessionLine:
    """One session with its batches and the sum of its recipes' hands-on minutes as they are written."""

    key: str
    batches: tuple[BatchLine, ...]
    boxes: int
    hands_on_min: float


@dataclass(frozen=True)
class LoadBar:
    """An evening's column: boxes in fridge or freezer; `height_pct` of the drawing, `over` how many too many."""

    label: str
    title: str
    boxes: int
    height_pct: float
    over_pct: float
    over: int


@dataclass(frozen=True)
class LoadChart:
    """Evening after evening: how full one place gets. `line_pct` is where it is full, None when nobody said."""

    name: str
    bars: tuple[LoadBar, ...]
    line_pct: float | None
    words: str
    is_over: bool


@dataclass(frozen=True)
class ThawLine:
    """What to take out of the freezer on an evening."""

    day: date
    names: tuple[str, ...]
    how: str


@dataclass(frozen=True)
class Sessions:
    """All of it for one week. `past` names boxes that would be eaten past the guidance, with why."""

    lines: tuple[SessionLine, ...]
    charts: tuple[LoadChart, ...]
    thaw: tuple[ThawLine, ...]
    past: tuple[str, ...]


def sessions_of(picture: WeekPicture) -> Sessions:
    """Put together what the sessions of a week cook and where their boxes wait."""
    names = {str(p.id): picture.recipes[str(p.recipe_id)].name for p in picture.meals}
    evenings = (picture.dates[0] - timedelta(days=1), *picture.dates)
    all_loads = loads(picture.stays.values(), evenings)
    capacity = picture.capacity
    charts = (
        _chart("fridge", all_loads, [load.fridge for load in all_loads], capacity.fridge_boxes),
        _chart("freezer", all_loads, [load.freezer for load in all_loads], capacity.freezer_boxes),
    )
    thaw = tuple(
        ThawLine(day, _counted([names[s.key] for s in stays]), heats_told(stays[0].keeping.group.thaw))
        for day, stays in thawing(picture.stays.values()).items()
    )
    return Sessions(tuple(_lines(picture)), charts, thaw, _past(picture, names))


def _lines(picture: WeekPicture) -> list[SessionLine]:
    lines = []
    for session in picture.sessions:
        batches, minutes, boxes = [], dict[str, float](), set[str]()
        for worked in picture.outcome.batches:
            plan = worked.plan
            if plan.session_key != session.key:
                continue
            recipe = picture.recipes[plan.recipe_key]
            component = next(c for c in recipe.components if c.key == plan.component_key)
            minutes[plan.recipe_key] = hands_on_min(recipe.steps)
            boxes |= {p.placing_key for p in plan.portions}
            url = f"/cook/{picture.dates[0]}/{batch_id_for(picture.week.id, plan.session_key, plan.component_key)}"
            notes = () if worked.is_started else batch_notes(component, plan, picture.vessels)
            batches.append(BatchLine(url, component.name, recipe.name, len(plan.portions), plan.cooked_g, notes))
        lines.append(SessionLine(session.key, tuple(batches), len(boxes), sum(minutes.values())))
    return lines


def _chart(name: str, evenings: Sequence[Load], boxes: Sequence[int], most: int | None) -> LoadChart:
    top = max([*boxes, most or 0, 1])
    bars = []
    for load, count in zip(evenings, boxes, strict=True):
        over = max(0, count - most) if most is not None else 0
        title = say(
            "{day} {day2}, evening: {count} in the {name}",
            day=weekday(load.day),
            day2=day_month(load.day),
            count=many(count, "box", "boxes"),
            name=name,
        )
        bars.append(
            LoadBar(weekday(load.day)[:2], title, count, round(count / top * 100, 1), round(over / top * 100, 1), over)
        )
    worst = max(bars, key=lambda b: b.boxes)
    if most is None:
        words = say("At most {boxes} at once. How many it holds is not said.", boxes=many(worst.boxes, "box", "boxes"))
    elif worst.over:
        on = weekday(evenings[bars.index(worst)].day)
        boxes_there = many(worst.boxes, "box", "boxes")
        words = say(
            "{boxes_there} for {most} on {on} evening: {over} too many.",
            boxes_there=boxes_there,
            most=many(most or 0, "place"),
            on=on,
            over=worst.over,
        )
    else:
        words = say("At most {boxes} of {most} places are taken.", boxes=worst.boxes, most=most)
    line = None if most is None else round(most / top * 100, 1)
    return LoadChart(name, tuple(bars), line, words, worst.over > 0)


def _counted(names: Sequence[str]) -> tuple[str, ...]:
    counts = {name: names.count(name) for name in names}
    return tuple(f"{n} × {name}" for name, n in counts.items())


def _past(picture: WeekPicture, names: dict[str, str]) -> tuple[str, ...]:
    said: dict[str, tuple[int, str]] = {}
    for stay in picture.stays.values():
        if stay.place == PAST:
            keeping = stay.keeping
            longest = max(stay.days, said.get(names[stay.key], (0, ""))[0])
            words = say(
                "{longest} from cooking to eating; {keep_rule} advice says ",
                longest=many(longest, "day"),
                keep_rule=picture.capacity.keep_rule,
            )
            words += say(
                "{fridge_days} ({decided_by} decides, and it does not freeze)",
                fridge_days=keeping.fridge_days,
                decided_by=keeping.decided_by.lower(),
            )
            said[names[stay.key]] = (longest, f"{words}. {keeping.group.source}.")
    return tuple(f"{name}: {words}" for name, (_, words) in said.items())
