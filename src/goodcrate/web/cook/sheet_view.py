"""A run sheet as it is drawn: lanes for hands, burners, oven and others with their blocks, and its twin, a list."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from goodcrate.core.cook.batch_record import goes_in_now
from goodcrate.core.cook.session_tasks import PAUSE_MIN, TaskTold
from goodcrate.core.cook.sheet_problem import CHECK_MIN, HOB, OVEN, Sheet, Task
from goodcrate.core.ground.clocks import minutes_later
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import at_least_heat, clock, heat, heat_unit
from goodcrate.core.recipes.steps import EQUIPMENT
from goodcrate.core.recipes.variants import base_recipe_key
from goodcrate.formats.reference import core_temperatures
from goodcrate.services.cook.run_sheet import SessionSheet

WIDE_PX, LETTER_PX, GAP_PX = 700.0, 6.1, 6.0
"""A lane at its usual width, and a letter on it: where words have room is reckoned with these."""
ROW_PX, LEVEL_PX, BAR_PX = 30, 15, 20
MOST_LEVELS = 4
TICKS_MIN = (10, 15, 30, 60, 120)
MOST_TICKS, LAST_TICK_PCT = 9, 8.0
OVEN_PX, OVEN_TOP_C, DECAY_MIN = 44.0, 260.0, 20
PLACE_WORDS: Mapping[str, str] = {"hob": Saying("Burner {n}"), "cooling": Saying("Cooling"), "oven": Saying("Oven")}
AS_ROWS = ("oven", "cooling")
"""Places whose tasks stand in rows of one lane; of others each has a lane of its own."""


@dataclass(frozen=True)
class Block:
    """A task on a lane, in % of its width; `label` stands in it or beside it, or on a level above it (`ends_here`: it
    ends with the task, where it would run over the edge)."""

    left: float
    width: float
    row: int
    label: str
    says: str
    dish: str
    is_hands_on: bool
    is_inside: bool = True
    level: int = 0
    looks: tuple[float, ...] = ()
    until: float | None = None
    is_pause: bool = False
    ends_here: bool = False


@dataclass(frozen=True)
class Lane:
    """A row of the drawing. `path` is the oven's heat over the minutes, `notes` are words at their place (%)."""

    words: str
    sub: str
    blocks: tuple[Block, ...]
    rows: int = 1
    levels: int = 0
    path: str = ""
    notes: tuple[tuple[float, str], ...] = ()

    @property
    def height(self) -> int:
        """In px."""
        above = self.levels * LEVEL_PX + (round(OVEN_PX) + 8 if self.path else 0)
        return self.rows * ROW_PX + above + 8

    def top(self, block: Block) -> float:
        """Where a block's bar begins, in px."""
        above = self.levels * LEVEL_PX + (round(OVEN_PX) + 8 if self.path else 0)
        return above + 4 + block.row * ROW_PX + (ROW_PX - BAR_PX) / 2


@dataclass(frozen=True)
class SheetLine:
    """A line of the list: when, what, how long, where; a look in between is a line of its own."""

    at: str
    words: str
    dish: str
    minutes: int
    where: str
    until: str
    is_hands_on: bool
    is_look: bool = False
    guessed: str = ""
    recipe_id: str = ""
    step_key: str = ""
    core: str = ""


@dataclass(frozen=True)
class Bowl:
    """What is weighed out for a step of a batch, and when it is needed."""

    at: str
    words: str
    step: str
    lines: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class SheetView:
    """All of it."""

    ready: str
    whole: int
    ticks: tuple[tuple[float, str], ...]
    lanes: tuple[Lane, ...]
    lines: tuple[SheetLine, ...]
    bowls: tuple[Bowl, ...]
    hands_on_min: int
    oven: tuple[tuple[str, str], ...]
    guesses: tuple[SheetLine, ...] = field(default=())


def sheet_view(there: SessionSheet) -> SheetView | None:
    """The drawing of a session's sheet; None as long as there is none."""
    if there.sheet is None:
        return None
    drawn = _Drawn(there, there.sheet)
    lines = tuple(drawn.lines())
    return SheetView(
        drawn.at(there.sheet.minutes),
        drawn.whole,
        tuple(drawn.ticks()),
        tuple(drawn.lanes()),
        lines,
        bowls=tuple(drawn.bowls()),
        hands_on_min=sum(line.minutes for line in lines if line.is_hands_on),
        oven=tuple(drawn.oven_words()),
        guesses=tuple(line for line in lines if line.guessed),
    )


class _Drawn:
    """A sheet while it is drawn."""

    def __init__(self, there: SessionSheet, sheet: Sheet) -> None:
        self.there, self.sheet, self.problem = there, sheet, there.problem
        self.tasks = sorted(self.problem.tasks, key=lambda t: (sheet.starts[t.key], t.key))
        self.whole = max(1, sheet.minutes)

    def at(self, minute: int) -> str:
        """The time of day of a minute."""
        return clock(minutes_later(self.there.starts_at, minute).time())

    def told(self, task: Task) -> TaskTold:
        """What a task is called."""
        return self.there.tasks.told[task.key]

    def dish(self, task: Task) -> str:
        """The name of its dish."""
        found = self.there.dishes.get(task.dish)
        return "" if found is None else found.name

    def pct(self, minute: float) -> float:
        """A minute in % of the width."""
        return round(minute / self.whole * 100, 2)

    def start(self, task: Task) -> int:
        """Its first minute."""
        return self.sheet.starts[task.key]

    def end(self, task: Task) -> int:
        """The minute it is over."""
        return self.sheet.starts[task.key] + task.minutes

    def ticks(self) -> Iterable[tuple[float, str]]:
        """Times along the top, whole ones of the clock."""
        step = next((s for s in TICKS_MIN if self.whole / s <= MOST_TICKS), TICKS_MIN[-1])
        begins: datetime = self.there.starts_at
        first = -(begins.hour * 60 + begins.minute) % step
        for minute in range(first, self.whole + 1, step):
            if self.pct(minute) < 100 - LAST_TICK_PCT:  # else the end stands there
                yield self.pct(minute), self.at(minute)

    def lanes(self) -> Iterable[Lane]:
        """Hands first, then what is used, in the order of the equipment."""
        yield from self._hands()
        for place in EQUIPMENT:
            there = [t for t in self.tasks if t.place == place and place]
            if not there:
                continue
            rows = _rows(there, self.start, self.end, lambda t: (t.dish, self.told(t).component))
            if place in AS_ROWS:
                yield self._as_rows(place, there, rows)
                continue
            for n in range(max(rows.values()) + 1):
                words = PLACE_WORDS.get(place, say("{place} {n}")).format(n=n + 1, place=str(EQUIPMENT[place]))
                blocks = self._beside([self._block(t) for t in there if rows[t.key] == n])
                yield Lane(words if max(rows.values()) or place == HOB else _capital(EQUIPMENT[place]), "", blocks)

    def _as_rows(self, place: str, there: Sequence[Task], rows: Mapping[str, int]) -> Lane:
        blocks: list[Block] = []
        for n in range(max(rows.values()) + 1):
            blocks += self._beside([self._block(t, n) for t in there if rows[t.key] == n])
        count = self.problem.kitchen.places.get(place, 0)
        if place != OVEN:
            sub = say("lids off, then boxed")
            return Lane(PLACE_WORDS[place], sub, tuple(blocks), max(rows.values()) + 1)
        path, notes = self._heat()
        shelves = say("{count} shelves", count=count) if count != 1 else say("one shelf")
        high = max(rows.values()) + 1
        return Lane(PLACE_WORDS[place], shelves, tuple(blocks), high, path=path, notes=notes)

    def _block(self, task: Task, row: int = 0) -> Block:
        told, start = self.told(task), self.start(task)
        says = say("{at} {words}, {minutes} min", at=self.at(start), words=told.words, minutes=task.minutes)
        looks = tuple(self.pct(at) for (key, _), at in sorted(self.sheet.looks.items()) if key == task.key)
        return Block(
            self.pct(start),
            self.pct(task.minutes),
            row,
            told.component or self.dish(task) or told.short,
            says,
            task.dish,
            is_hands_on=task.is_hands_on,
            looks=looks,
            until=self._until(task),
        )

    def _until(self, task: Task) -> float | None:
        """Until when what cools must be in the fridge at the latest."""
        if task.place != "cooling":
            return None
        latest = [
            self.end(self.problem.by_key[w.earlier]) + w.minutes
            for w in self.problem.within
            if self.problem.by_key[w.later].dish == task.dish
        ]
        return None if not latest or min(latest) > self.whole else self.pct(min(latest))

    def _beside(self, blocks: Sequence[Block]) -> tuple[Block, ...]:
        """Words in the block where they fit, else beside it where there is room, else cut."""
        found = []
        for n, block in enumerate(blocks):
            px = block.width / 100 * WIDE_PX
            next_left = blocks[n + 1].left if n + 1 < len(blocks) else 100.0
            after, until = next_left - block.left, block.until
            until = None if until is not None and until > next_left else until
            inside, room = len(block.label) * LETTER_PX + GAP_PX <= px, after / 100 * WIDE_PX - px
            label = block.label
            if not inside:
                letters = int((max(px, room) - GAP_PX) / LETTER_PX)
                inside = px >= room
                label = label if len(label) <= letters else label[: max(0, letters - 1)].rstrip() + "…"
            found.append(replace(block, label=label if len(label) > 2 else "", is_inside=inside, until=until))
        return tuple(found)

    def _hands(self) -> Iterable[Lane]:
        """A lane for everybody who cooks; who was at a dish goes on with it where that can be."""
        busy: list[tuple[int, int, Task, bool]] = [
            (self.start(t), self.end(t), t, False) for t in self.tasks if t.is_hands_on
        ]
        busy += [(at, at + CHECK_MIN, self.problem.by_key[key], True) for (key, _), at in self.sheet.looks.items()]
        busy.sort(key=lambda b: (b[0], b[1], b[2].key))
        free = [0] * self.problem.kitchen.most_hands
        last = [""] * len(free)
        lanes: list[list[Block]] = [[] for _ in free]
        for start, end, task, is_look in busy:
            able = [n for n, until in enumerate(free) if until <= start]
            if not able:
                continue
            n = next((n for n in able if last[n] == task.dish), able[0])
            free[n], last[n] = end, task.dish
            if not is_look:
                lanes[n].append(replace(self._block(task), label=self.told(task).short, looks=()))
        for n, blocks in enumerate(lanes):
            levelled, levels = _levelled(sorted([*blocks, *self._pauses(n)], key=lambda b: b.left))
            yield Lane(say("Hands") if n == 0 else say("More hands"), "", levelled, 1, levels)

    def _pauses(self, cook: int) -> Iterable[Block]:
        for key, at in self.sheet.starts.items():
            if key.startswith("pause.") and key.endswith(f".{cook}"):
                left, width = self.pct(at), self.pct(PAUSE_MIN)
                words = say("{at} a pause of {minutes} min", at=self.at(at), minutes=PAUSE_MIN)
                yield Block(left, width, 0, say("pause"), words, "", is_hands_on=False, is_pause=True)

    def _heats(self) -> list[tuple[int, int, int]]:
        """The oven's heats one after the other: °C, from and to minute."""
        found: list[tuple[int, int, int]] = []
        for task in (t for t in self.tasks if t.place == OVEN):
            degrees, start, end = self.sheet.heats[task.key], self.start(task), self.end(task)
            if found and found[-1][0] == degrees:
                found[-1] = (degrees, found[-1][1], max(found[-1][2], end))
            else:
                found.append((degrees, start, end))
        return found

    def _heat(self) -> tuple[str, tuple[tuple[float, str], ...]]:
        """The heat as a line over the minutes, and words at its changes."""
        kitchen, points, notes = self.problem.kitchen, [], []
        before: tuple[int, int, int] | None = None
        for degrees, start, end in self._heats():
            y = round(OVEN_PX * (1 - degrees / OVEN_TOP_C), 1)
            warm = start - (kitchen.preheat_min if before is None else kitchen.reheat_min)
            points += [(warm, OVEN_PX if before is None else round(OVEN_PX * (1 - before[0] / OVEN_TOP_C), 1))]
            points += [(start, y), (end, y)]
            notes.append((self.pct(start), _degrees(degrees)))
            before = degrees, start, end
        if before is not None:
            points.append((min(self.whole, before[2] + DECAY_MIN), OVEN_PX))
        line = " ".join(f"{'M' if n == 0 else 'L'}{x} {y}" for n, (x, y) in enumerate(points))
        return line, tuple(notes)

    def oven_words(self) -> Iterable[tuple[str, str]]:
        """When the oven is set to what."""
        kitchen, is_first = self.problem.kitchen, True
        for degrees, start, _ in self._heats():
            at = start - (kitchen.preheat_min if is_first else kitchen.reheat_min)
            yield self.at(at), _degrees(degrees)
            is_first = False

    def lines(self) -> Iterable[SheetLine]:
        """Every task and every look, in their order."""
        found: list[tuple[int, SheetLine]] = []
        for task in self.tasks:
            told = self.told(task)
            found.append((self.start(task), self._line(task, told)))
        for (key, _), at in self.sheet.looks.items():
            task = self.problem.by_key[key]
            told = self.told(task)
            words = told.look_words
            look = replace(self._line(task, told), at=self.at(at), words=words, minutes=CHECK_MIN, is_look=True)
            found.append((at, replace(look, until="", is_hands_on=True, guessed="", core="")))
        for at in dict.fromkeys(self.there.pauses):
            until = self.at(at + PAUSE_MIN)
            found.append((at, SheetLine(self.at(at), say("A pause"), "", PAUSE_MIN, "", until, is_hands_on=False)))
        return [line for _, line in sorted(found, key=lambda f: (f[0], not f[1].is_hands_on, f[1].words))]

    def _line(self, task: Task, told: TaskTold) -> SheetLine:
        return SheetLine(
            self.at(self.start(task)),
            told.words,
            self.dish(task),
            task.minutes,
            self._where(task),
            until=self.at(self.end(task)),
            is_hands_on=task.is_hands_on,
            guessed=told.guessed,
            recipe_id=base_recipe_key(task.dish),
            step_key=told.step_key,
            core=core_words(told.core_kind),
        )

    def _where(self, task: Task) -> str:
        if task.place == OVEN:
            return oven_words(self.sheet, task.key, self.there.tasks.told)
        return str(EQUIPMENT[task.place]) if task.place else ""

    def bowls(self) -> Iterable[Bowl]:
        """What is weighed out, step by step, in the order it is needed."""
        worked = {
            (w.plan.recipe_key, w.plan.component_key): w
            for w in self.there.picture.outcome.batches
            if w.plan.session_key == self.there.session.key
        }
        found = []
        for dish in self.there.dishes.values():
            for batch in dish.batches:
                lines = [x for x in worked[dish.key, batch.component.key].record.lines if goes_in_now(x)]
                for task in (t for t in self.tasks if t.dish == dish.key):
                    told = self.told(task)
                    if told.component not in ("", batch.component.name):
                        continue
                    bowl = tuple((x.food.name, x.amount.grams) for x in lines if x.food.key in told.weighs)
                    if bowl:
                        words = _of(batch.component.name, dish.name)
                        found.append((self.start(task), Bowl(self.at(self.start(task)), words, told.short, bowl)))
        return [bowl for _, bowl in sorted(found, key=lambda f: (f[0], f[1].words))]


def raw_words() -> str:
    """What to mind where hands touch what must be heated before it is eaten."""
    return say(
        "Raw meat, fish or egg: other boards and knives than for what is eaten as it is; wash your hands after "
        "(UK Food Standards Agency)"
    )


def oven_words(sheet: Sheet, key: str, told: Mapping[str, TaskTold]) -> str:
    """At which heat something is in the oven, and with what on its tray."""
    degrees, mate = _degrees(sheet.heats[key]), sheet.mate_of(key)
    if mate:
        return say("oven, {degrees}, on one tray with: {what}", degrees=degrees, what=told[mate].short)
    return say("oven, {degrees}", degrees=degrees)


def core_words(kind: str) -> str:
    """How hot a dish must be inside, with who says so: the first row of its kind, others in the table; empty where it
    does not matter."""
    found = next((t for t in core_temperatures() if t.kind == kind), None)
    if found is None:
        return ""
    told = {"what": found.label, "heat": at_least_heat(found.core_c), "hold": found.hold, "source": found.source}
    return say("Inside: {what} {heat}, {hold} ({source})", **told)


def _of(component: str, dish: str) -> str:
    return dish if component in ("", "all of it") else f"{component} · {dish}"


def _degrees(celsius: float) -> str:
    return f"{heat(celsius)} {heat_unit()}"


def _capital(words: str) -> str:
    return str(words)[:1].upper() + str(words)[1:]


def _rows(
    tasks: Iterable[Task], start: Callable[[Task], int], end: Callable[[Task], int], batch: Callable[[Task], object]
) -> dict[str, int]:
    """A row for each task, none over another: where its batch was before, if that is free, else the first that is."""
    until: list[int] = []
    last: list[object] = []
    found = {}
    for task in tasks:
        free = [n for n, at in enumerate(until) if at <= start(task)]
        row = next((n for n in free if last[n] == batch(task)), free[0] if free else len(until))
        if row == len(until):
            until.append(0)
            last.append(None)
        until[row], last[row], found[task.key] = end(task), batch(task), row
    return found


def _levelled(blocks: Sequence[Block]) -> tuple[tuple[Block, ...], int]:
    """Words above a lane of hands, each on the lowest level with room; without room they are in the list."""
    until = [0.0] * MOST_LEVELS
    found = []
    for block in blocks:
        wide = (len(block.label) * LETTER_PX + GAP_PX) / WIDE_PX * 100
        ends_here = block.left + wide > 100
        first = block.left + block.width - wide if ends_here else block.left
        level = next((n for n, at in enumerate(until) if at <= first), None)
        if level is None:
            found.append(replace(block, label=""))
            continue
        until[level] = first + wide
        found.append(replace(block, level=level + 1, is_inside=False, ends_here=ends_here))
    return tuple(found), max((block.level for block in found), default=0)
