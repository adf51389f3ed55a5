"""Whether a run sheet keeps every rule, minute by minute. Shares no code with what makes sheets."""

from collections.abc import Iterator
from itertools import pairwise

from goodcrate.core.cook.sheet_problem import Sheet, SheetProblem
from goodcrate.core.ground.wording import say


def check_sheet(problem: SheetProblem, sheet: Sheet) -> list[str]:
    """Every rule that a sheet breaks, in words; nothing when it keeps them all."""
    if missing := [task.key for task in problem.tasks if task.key not in sheet.starts]:
        return [say("{task} is not on the sheet.", task=missing[0])]
    return [
        *_order(problem, sheet),
        *_trays(problem, sheet),
        *_looks(problem, sheet),
        *_minute_by_minute(problem, sheet),
        *_oven(problem, sheet),
    ]


def _order(problem: SheetProblem, sheet: Sheet) -> Iterator[str]:
    ends = {task.key: sheet.starts[task.key] + task.minutes for task in problem.tasks}
    for task in problem.tasks:
        start = sheet.starts[task.key]
        if start < 0:
            yield say("{task} starts before the session.", task=task.key)
        if start < task.earliest or (task.latest is not None and start > task.latest):
            yield say("{task} does not start when it should.", task=task.key)
        if early := [key for key in task.after if ends[key] > start]:
            yield say("{task} starts before {other} is over.", task=task.key, other=early[0])
        if task.at_once and task.after and start != max(ends[key] for key in task.after):
            yield say("{task} does not follow at once.", task=task.key)
    for pair in problem.within:
        if sheet.starts[pair.later] - ends[pair.earlier] > pair.minutes:
            told = {"later": pair.later, "minutes": pair.minutes, "earlier": pair.earlier}
            yield say("{later} is more than {minutes} min after {earlier}.", **told)
    if sheet.minutes != max(ends.values(), default=0):
        yield say("The sheet does not end when it says.")


def _trays(problem: SheetProblem, sheet: Sheet) -> Iterator[str]:
    """Two on a tray, no more, both for it, at one heat, and at the same time for a while."""
    by_key = problem.by_key
    on_trays = [key for pair in sheet.together for key in pair]
    for key in {key for key in on_trays if on_trays.count(key) > 1}:
        yield say("{task} is on two trays at once.", task=key)
    for one, other in sheet.together:
        a, b = by_key[one], by_key[other]
        if not a.shares or a.shares != b.shares or a.place != "oven" or b.place != "oven" or a.takes + b.takes != 2:
            yield say("{task} cannot be on a tray with {other}.", task=one, other=other)
        if sheet.heats.get(one) != sheet.heats.get(other):
            yield say("{task} is on a tray with {other} at another heat.", task=one, other=other)
        starts = sheet.starts[one], sheet.starts[other]
        if starts[0] >= starts[1] + b.minutes or starts[1] >= starts[0] + a.minutes:
            yield say("{task} is not in the oven while {other} is.", task=one, other=other)


def _looks(problem: SheetProblem, sheet: Sheet) -> Iterator[str]:
    for task in problem.tasks:
        for n, due in enumerate(() if task.is_hands_on else task.checks):
            at = sheet.looks.get((task.key, n))
            passed = -1 if at is None else at - sheet.starts[task.key]
            if abs(passed - due) > 2 or not 0 <= passed < task.minutes:
                yield say("Nobody looks at {task} when it is due.", task=task.key)


def _minute_by_minute(problem: SheetProblem, sheet: Sheet) -> Iterator[str]:
    kitchen = problem.kitchen
    minutes = {task.key: task.minutes for task in problem.tasks}
    on_trays = {key for pair in sheet.together for key in pair}
    held = [
        (
            hold.vessel,
            min(sheet.starts[key] for key in hold.tasks),
            max(sheet.starts[key] + minutes[key] for key in hold.tasks),
        )
        for hold in problem.holds
        if not (len(hold.tasks) == 1 and hold.tasks[0] in on_trays)
    ]
    trays = []
    for pair in sheet.together:
        span = min(sheet.starts[key] for key in pair), max(sheet.starts[key] + minutes[key] for key in pair)
        trays.append(span)
        held += [(vessel, *span) for vessel in {h.vessel for h in problem.holds if h.tasks in ((pair[0],), (pair[1],))}]
    for minute in range(sheet.minutes + 1):
        hands = sum(at <= minute < at + 1 for at in sheet.looks.values())
        taken: dict[str, int] = {}
        for task in problem.tasks:
            start, end = sheet.starts[task.key], sheet.starts[task.key] + task.minutes
            if start <= minute < end and task.is_hands_on:
                hands += 1
            if (
                task.place
                and task.key not in on_trays
                and start <= minute < end + (kitchen.wash_min if task.place == "blender" else 0)
            ):
                taken[task.place] = taken.get(task.place, 0) + task.takes
        taken["oven"] = taken.get("oven", 0) + sum(first <= minute < last for first, last in trays)
        for vessel, first, last in held:
            if first <= minute < last + kitchen.wash_min:
                taken[vessel] = taken.get(vessel, 0) + 1
        helped = kitchen.help_from is not None and minute >= kitchen.help_from
        if hands > kitchen.hands + helped:
            yield say("In minute {minute} there are not enough hands.", minute=minute)
            return
        for place, count in taken.items():
            if count > kitchen.places.get(place, 0):
                yield say("In minute {minute} {place} is over its places.", minute=minute, place=place)
                return


def _oven(problem: SheetProblem, sheet: Sheet) -> Iterator[str]:
    """One heat at a time, warm when it is needed, time between two heats."""
    at: dict[int, set[int]] = {}
    for task in problem.tasks:
        if task.place != "oven":
            continue
        heat, start = sheet.heats.get(task.key), sheet.starts[task.key]
        if heat is None or heat % 10 or not (task.low_c or 0) <= heat <= (task.high_c or 300):
            yield say("{task} does not get its heat.", task=task.key)
            continue
        if start < problem.kitchen.preheat_min:
            yield say("{task} starts in a cold oven.", task=task.key)
        for minute in range(start, start + task.minutes):
            at.setdefault(minute, set()).add(heat)
    if any(len(heats) > 1 for heats in at.values()):
        yield say("The oven would be at two heats at once.")
        return
    minutes = sorted(at)
    for before, after in pairwise(minutes):
        if at[before] != at[after] and after - before - 1 < problem.kitchen.reheat_min:
            yield say("The oven has no time to change its heat.")
            return
