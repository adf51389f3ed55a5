"""A run sheet's problem and its answer: tasks of a session's batches over a kitchen with counts, without a solver."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field, replace

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say

HANDS, HOB, OVEN, BLENDER = "hands", "hob", "oven", "blender"
LONGEST_MIN = 24 * 60
CHECK_MIN = 1
"""A look in between takes somebody a minute: our assumption."""
CHECK_SLACK_MIN = 2
"""A look may come so many minutes earlier or later than the step says: our assumption."""
HEAT_STEP_C = 10
"""An oven's knob goes in steps of 10 °C."""


@dataclass(frozen=True, slots=True)
class Task:
    """One step of a batch as it is scheduled, in whole minutes.

    `place` is what it stands in or on (a key of the kitchen's `places`), empty for hands alone; a hands-on task needs
    somebody all the time, another one for its `checks` only (minutes after its start). In the oven any heat from
    `low_c` to `high_c` will do. `after` are tasks that end before; with `at_once` it begins as the last of them ends.
    It starts from minute `earliest` on, at `latest` at the latest (None: whenever), and `takes` so many places.
    In the oven two tasks whose `shares` are the same stand on one tray, if that helps: each fills half of it at most.
    """

    key: str
    dish: str
    minutes: int
    is_hands_on: bool = True
    place: str = ""
    low_c: int | None = None
    high_c: int | None = None
    after: tuple[str, ...] = ()
    at_once: bool = False
    checks: tuple[int, ...] = ()
    earliest: int = 0
    latest: int | None = None
    takes: int = 1
    shares: str = ""


def may_share(one: Task, other: Task) -> bool:
    """Whether two tasks can stand on one tray in the oven: a heat will do for both."""
    in_oven = one.place == other.place == OVEN and one.takes == other.takes == 1
    return in_oven and one.shares == other.shares != "" and bool({*heats_of(one)} & {*heats_of(other)})


@dataclass(frozen=True, slots=True)
class Hold:
    """A vessel that these tasks share (a key of the kitchen's `places`): it is taken from the first to the last of
    them, and washed after."""

    vessel: str
    tasks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Within:
    """`later` begins at most so many minutes after `earlier` ends: from the end of the heat to the fridge above all."""

    earlier: str
    later: str
    minutes: int


@dataclass(frozen=True, slots=True)
class SheetKitchen:
    """How many hands, and how many tasks each place takes at once; the oven is one, its places are shelves.

    `preheat_min` before the oven's first task, `reheat_min` between two heats, `wash_min` after each use of the
    blender and of a vessel. From minute `help_from` on there is one pair of hands more.
    """

    hands: int = 1
    places: Mapping[str, int] = field(default_factory=dict)
    preheat_min: int = 12
    reheat_min: int = 8
    wash_min: int = 3
    help_from: int | None = None

    @property
    def most_hands(self) -> int:
        """The hands there are in the end."""
        return self.hands + (self.help_from is not None)


@dataclass(frozen=True, slots=True)
class SheetProblem:
    """Everything a run sheet is made from.

    Raises:
        InvalidInputs: naming each task that cannot be: no minutes or a day of them, a place the kitchen lacks, a heat
            nobody can meet, something after itself or after what is not there.
    """

    tasks: tuple[Task, ...]
    kitchen: SheetKitchen
    within: tuple[Within, ...] = ()
    holds: tuple[Hold, ...] = ()

    def __post_init__(self) -> None:
        faults = [*self._faults(), *self._circles()]
        if faults:
            raise InvalidInputs(faults)

    def _faults(self) -> Iterable[InvalidInput]:
        known = {task.key for task in self.tasks}
        for task in self.tasks:
            if not 1 <= task.minutes <= LONGEST_MIN:
                told = say("{minutes} min is not possible.", minutes=task.minutes)
                yield InvalidInput(task.key, told, say("1 to {most} min.", most=LONGEST_MIN))
            if any(not 0 <= due < task.minutes for due in task.checks):
                yield InvalidInput(task.key, say("A look lies outside of its {minutes} min.", minutes=task.minutes))
            if task.place and not self.kitchen.places.get(task.place):
                yield InvalidInput(
                    task.key, say("The kitchen has no {place}.", place=task.place), say("Choose another.")
                )
            elif task.place and task.takes > self.kitchen.places[task.place]:
                told = say("It takes {count} places of {place}.", count=task.takes, place=task.place)
                yield InvalidInput(task.key, told, say("The kitchen has {most}.", most=self.kitchen.places[task.place]))
            if task.place == OVEN and not heats_of(task):
                told = say("No oven can be at {low} and {high} °C.", low=task.low_c, high=task.high_c)
                yield InvalidInput(task.key, told, say("From the lower to the higher, such as 170 to 190."))
            if task.latest is not None and task.latest < task.earliest:
                yield InvalidInput(task.key, say("It cannot start after it must have started."))
            if unknown := [key for key in task.after if key not in known]:
                yield InvalidInput(task.key, say("It waits for {what}, which is not there.", what=unknown[0]))

        for hold in self.holds:
            if not self.kitchen.places.get(hold.vessel):
                told = say("The kitchen has no {place}.", place=hold.vessel)
                yield InvalidInput(hold.tasks[0], told, say("Choose another."))

    def _circles(self) -> Iterable[InvalidInput]:
        left = {task.key: set(task.after) & {t.key for t in self.tasks} for task in self.tasks}
        while free := [key for key, waits in left.items() if not waits & left.keys()]:
            for key in free:
                del left[key]
        if left:
            yield InvalidInput(
                min(left), say("These steps wait for each other: {steps}.", steps=", ".join(sorted(left)))
            )

    def without(self, dishes: Collection[str]) -> "SheetProblem":
        """The same session without some dishes."""
        return self.without_tasks({task.key for task in self.tasks if task.dish in dishes})

    def without_tasks(self, gone: Collection[str]) -> "SheetProblem":
        """The same session without some tasks; nothing waits for them."""
        keys = {task.key for task in self.tasks} - set(gone)
        left = (task for task in self.tasks if task.key in keys)
        tasks = tuple(replace(task, after=tuple(key for key in task.after if key in keys)) for task in left)
        within = tuple(pair for pair in self.within if {pair.earlier, pair.later} <= keys)
        holds = (Hold(hold.vessel, tuple(key for key in hold.tasks if key in keys)) for hold in self.holds)
        return SheetProblem(tasks, self.kitchen, within, tuple(hold for hold in holds if hold.tasks))

    @property
    def by_key(self) -> Mapping[str, Task]:
        """The tasks by their key."""
        return {task.key: task for task in self.tasks}


def heats_of(task: Task) -> tuple[int, ...]:
    """The heats in °C an oven's knob can be at for a task, lowest first; a task that says none is content with any."""
    low, high = task.low_c or 50, task.high_c or 300
    return tuple(range(-(-low // HEAT_STEP_C) * HEAT_STEP_C, high + 1, HEAT_STEP_C))


def longest_chain(tasks: Iterable[Task]) -> Mapping[str, int]:
    """By task the minutes from its start to the end of the longest chain that follows it."""
    found: dict[str, int] = {}
    tasks = list(tasks)
    follow: dict[str, list[Task]] = {task.key: [] for task in tasks}
    for task in tasks:
        for key in task.after:
            follow[key].append(task)

    def of(task: Task) -> int:
        if task.key not in found:
            found[task.key] = task.minutes + max((of(later) for later in follow[task.key]), default=0)
        return found[task.key]

    for task in tasks:
        of(task)
    return found


@dataclass(frozen=True, slots=True)
class Sheet:
    """A run sheet: by task the minute it starts at, by look in between (task, number) likewise, by oven task its heat.

    `minutes` is when all is done; no sheet is shorter than `bound`. Proven shortest when they are the same. `together`
    are pairs of oven tasks on one tray, which is theirs from the first one in to the last one out.
    """

    starts: Mapping[str, int]
    looks: Mapping[tuple[str, int], int]
    heats: Mapping[str, int]
    minutes: int
    bound: int
    together: tuple[tuple[str, str], ...] = ()

    def mate_of(self, key: str) -> str:
        """What stands on a tray with an oven task; empty when nothing does."""
        return next((one if key == other else other for one, other in self.together if key in (one, other)), "")

    @property
    def is_proven_shortest(self) -> bool:
        """Whether no sheet within the rules is shorter."""
        return self.minutes == self.bound
