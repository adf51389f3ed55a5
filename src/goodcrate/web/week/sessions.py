"""What a week's sessions cook, how full fridge and freezer get, and what to take out when: as the tape shows it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import heats_told, many, weekday
from goodcrate.core.recipes.steps import hands_on_min
from goodcrate.core.week.batch_notes import BatchNote, batch_notes
from goodcrate.core.week.storing import PAST, Load, loads, thawing
from goodcrate.services.cook.cooking import batch_id_for
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.week.container_words import container_warnings


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
    """An evening's column: boxes in fridge or freezer, `over` how many too many; pixels from the drawing's top."""

    label: str
    boxes: int
    over: int
    left_pct: float
    top_px: float
    height_px: float
    over_px: float


@dataclass(frozen=True)
class LoadChart:
    """Evening after evening: how full one place gets, drawn and told. `line_px`: where it is full, None if not said."""

    name: str
    bars: tuple[LoadBar, ...]
    width_pct: float
    line_px: float | None
    told: str
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
    """All of it for one week. `past` names boxes that would be eaten past the guidance, with why; `containers` those
    that no container is left for or large enough."""

    lines: tuple[SessionLine, ...]
    charts: tuple[LoadChart, ...]
    thaw: tuple[ThawLine, ...]
    past: tuple[str, ...]
    containers: tuple[str, ...] = ()


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
    return Sessions(tuple(_lines(picture)), charts, thaw, _past(picture, names), container_warnings(picture))


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


CHART_FOOT_PX, CHART_TALLEST_PX = 50, 37
"""Where the columns of the drawing stand, from its top, and how high the fullest evening's is."""


def _chart(name: str, evenings: Sequence[Load], boxes: Sequence[int], most: int | None) -> LoadChart:
    box_px = CHART_TALLEST_PX / max([*boxes, most or 0, 1])
    bars, width_pct = [], round(100 / len(boxes), 2)
    for n, (load, count) in enumerate(zip(evenings, boxes, strict=True)):
        over = max(0, count - most) if most is not None else 0
        tall = round(count * box_px, 1)
        left, top = round(n * width_pct, 2), round(CHART_FOOT_PX - tall, 1)
        over_px = round(over * box_px, 1)
        label = weekday(load.day)[:2]
        bars.append(LoadBar(label, count, over, left_pct=left, top_px=top, height_px=tall, over_px=over_px))
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
    line_px = None if most is None else round(CHART_FOOT_PX - most * box_px, 1)
    each = ", ".join(f"{weekday(load.day)} {count}" for load, count in zip(evenings, boxes, strict=True))
    told = say("Boxes in the {name}, evening by evening: {each}", name=name, each=each)
    return LoadChart(name, tuple(bars), width_pct, line_px, told=told, words=words, is_over=worst.over > 0)


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
