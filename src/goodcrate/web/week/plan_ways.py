"""What is in the way of a week, as ways out by one click."""

from collections.abc import Mapping, Sequence
from datetime import date, timedelta

from goodcrate.core.ground.document import ReadDocument
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import weekday
from goodcrate.core.week.storing import USUAL
from goodcrate.services.plan.planning import Planning
from goodcrate.services.plan.problem import UNPINNED, Wishes
from goodcrate.web.ways_out import Blocked, WayOut
from goodcrate.web.week.wish_form import typed_of

COUNTED = ("fridge_boxes", "box_count")
"""Wishes that may be left empty: then they are not counted."""
TRIED_ALL = Saying("Each of these changes was tried and makes it work.")
TRIED_IT = Saying("Tried: this makes it work.")
LEAST = Saying("The least that does: with one less it is proven that no week can be.")
ENOUGH = Saying("Enough; that less does too is not ruled out.")
AMOUNTS = frozenset(
    {"freezer_boxes", "fridge_boxes", "box_count", "different", "repeats", "lower_floors_g", "widen_bands_kcal"}
)
"""What changes by an amount."""
LOOKING = Saying("Looking for a small change that makes it work")
_BUTTON: Mapping[str, str] = {
    "freezer_boxes": Saying("Plan with {value} boxes in the freezer"),
    "fridge_boxes": Saying("Plan with {value} boxes in the fridge"),
    "box_count": Saying("Plan with {value} boxes in all"),
    "in_turns": Saying("Allow pots to be filled more than once"),
    "in_two": Saying("Allow two boxes for a large portion"),
    "different": Saying("Plan with {value} dishes in a slot"),
    "repeats": Saying("Plan with a dish up to {value} times"),
    "lower_floors_g": Saying("Plan this week with floors {value} g lower"),
    "widen_bands_kcal": Saying("Plan this week with bands {value} kcal wider"),
    "leave_bands": Saying("Plan this week without the other bands"),
    "free_meal": Saying("Plan this meal again too"),
    "pins": Saying("Plan all but the pinned meals"),
    "keep_usual": Saying("Plan with the usual keeping advice"),
}
_TOO: Mapping[str, str] = {
    "fridge_boxes": Saying("{value} in the fridge"),
    "freezer_boxes": Saying("{value} in the freezer"),
    "box_count": Saying("{value} boxes in all"),
}
_ELSEWHERE: Mapping[str, tuple[str, str]] = {
    **dict.fromkeys(("protein", "energy", "bands"), (Saying("To the targets"), "/targets")),
    "dishes": (Saying("To the recipes"), "/recipes"),
    **dict.fromkeys(("sessions", "keeping"), (Saying("To the sessions"), "/week/{first_day}")),
}


def ways_out(planning: Planning | None, first_day: date) -> list[WayOut]:
    """The ways out of a week that cannot be, each by one click where its changes have amounts and were tried."""
    if planning is None:
        return []
    groups: dict[object, list[ReadDocument]] = {}
    for n, conflict in enumerate(planning.conflicts):
        groups.setdefault(conflict.get("way") or say("alone {n}", n=n), []).append(conflict)
    return [_way(planning, first_day, conflicts, len(groups)) for conflicts in groups.values()]


def all_tried(planning: Planning | None) -> str:
    """What is said above several ways out of which each was tried; empty otherwise."""
    if planning is None or not all(c.get("is_tried") for c in planning.conflicts):
        return ""
    return TRIED_ALL if len({c.get("way") or n for n, c in enumerate(planning.conflicts)}) > 1 else ""


def _way(planning: Planning, first_day: date, conflicts: Sequence[ReadDocument], ways: int) -> WayOut:
    counts = {name: getattr(planning.wishes, name) for name in ("freezer_boxes", *COUNTED)}
    blocked = tuple(Blocked(c["words"], _change(c, counts, among=len(conflicts))) for c in conflicts)
    was_tried = all(c.get("is_tried") for c in conflicts)
    note = str(TRIED_IT) if was_tried and ways == 1 else ""
    if was_tried and conflicts[-1].get("field") in AMOUNTS:
        how = LEAST if conflicts[-1].get("is_least") else ENOUGH
        note = f"{note} {say(str(how))}".strip()
    if planning.is_running:
        return WayOut(blocked, note=LOOKING)
    fields = _fields(planning.wishes, conflicts) if was_tried else None
    if fields is None:
        known = dict.fromkeys(_elsewhere(c) for c in conflicts if c["rule"] in _ELSEWHERE)
        return WayOut(blocked, note=note, links=tuple((w, to.format(first_day=first_day)) for w, to in known))
    return WayOut(blocked, _button(conflicts, first_day), f"/week/{first_day}/plan", fields, note)


def _elsewhere(conflict: ReadDocument) -> tuple[str, str]:
    """Where what stands in the way can be changed; of a missing tag, the recipes that it would help."""
    if conflict.get("lacks"):
        return say("To the recipes it would help"), f"/recipes?lacks={conflict['lacks']}"
    words, to = _ELSEWHERE[conflict["rule"]]
    return say(str(words)), to


def _change(conflict: ReadDocument, counts: Mapping[str, int | None], among: int) -> str:
    if among > 1 and conflict.get("field") in counts:
        return say(
            "{counts} → {conflict} boxes",
            counts=counts[conflict["field"]] or say("not counted"),
            conflict=conflict["value"],
        )
    return str(conflict["change"])


def _button(conflicts: Sequence[ReadDocument], first_day: date) -> str:
    first, *others = conflicts
    by = first.get("field") or first["rule"]
    if by == "session_day":
        evening = weekday(first_day + timedelta(days=first["value"]))
        return (
            say("Cook on {evening} evening too", evening=evening)
            + ("" if others else say(", and plan"))
            + _others(others)
        )
    return _BUTTON.get(by, _BUTTON["keep_usual"]).format(value=first["value"]) + _others(others)


def _others(conflicts: Sequence[ReadDocument]) -> str:
    return "".join(
        ", " + _TOO.get(c.get("field", ""), "and the rest of it").format(value=c["value"]) for c in conflicts
    )


def _fields(wishes: Wishes, conflicts: Sequence[ReadDocument]) -> Mapping[str, str] | None:
    """The planner's form with the changes in it; None when one of them has no amount."""
    shown = typed_of(wishes)
    for conflict in conflicts:
        if conflict.get("field") == "free_meal":
            shown["free_meal"] = conflict["meal"]
        elif conflict.get("field") == "keep_usual":
            shown["keep"] = USUAL
        elif conflict.get("field"):  # one more session is no wish: it is added when planning begins
            shown[conflict["field"]] = str(conflict["value"])
        elif conflict["rule"] == "pins" and wishes.scope != UNPINNED:
            shown["scope"] = UNPINNED
        else:
            return None
    return shown
