"""What a week taught as its page tells it: lines of words and figures under a few headings."""

from collections.abc import Iterator
from dataclasses import dataclass

from goodcrate.core.cook.batch_record import BY_EYE, COUNTED, ON_SCALE, RESTS
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import many, price, session_time, shown, signed
from goodcrate.services.review.learned import CostTold, Learned
from goodcrate.services.review.week_story import WeekStory
from goodcrate.web.figures import grams, number, percent

HOW_WORDS = {
    ON_SCALE: Saying("by scale"),
    "": Saying("by hand, grams typed"),
    COUNTED: Saying("counted"),
    BY_EYE: Saying("by eye"),
}


@dataclass(frozen=True)
class Told:
    """A line: what, its figure, and what is to say besides."""

    what: str
    figure: str
    note: str = ""


@dataclass(frozen=True)
class Taught:
    """A heading with its lines; where there are none, what would bring some."""

    title: str
    lines: tuple[Told, ...]
    teaches: str


def learned_view(story: WeekStory, learned: Learned) -> tuple[Taught, ...]:
    """All that a week taught."""
    return (
        Taught(
            say("Yields of the pots"),
            tuple(_yields(learned)),
            say("Weigh a pot when it is done: its yield is learned."),
        ),
        Taught(
            say("How exactly boxes were filled"),
            tuple(_accuracy(learned)),
            say("Weigh boxes as you fill them, two of a pot or more."),
        ),
        Taught(
            say("Sessions by the clock"),
            tuple(_sessions(learned)),
            say("Cook by the run sheet and tick its steps: how long they take is learned."),
        ),
        Taught(
            say("Finished, left, thrown away"),
            tuple(_fates(story, learned)),
            say("Say on Today what became of each box."),
        ),
        Taught(say("What it cost"), tuple(_cost(learned.cost)), say("Note what your packs cost, at Shop.")),
    )


def _yields(learned: Learned) -> Iterator[Told]:
    for one in learned.yields:
        told = {
            "factor": number(one.learned.factor, 2),
            "low": number(one.learned.low, 2),
            "high": number(one.learned.high, 2),
            "pots": many(one.learned.pots, "pot"),
            "expects": number(one.expects, 2),
        }
        note = say("its recipe expects {expects}", **told)
        if one.learned.pots > 1:
            note = say("the middle of {pots} is {factor}, {low} to {high}; its recipe expects {expects}", **told)
        yield Told(one.name, f"× {number(one.this_pot, 2)}", note)


def _accuracy(learned: Learned) -> Iterator[Told]:
    for one in learned.accuracy:
        told = {
            "boxes": many(one.boxes, "box", "boxes"),
            "largest": signed(one.largest_g),
            "share": percent(one.miss_share),
        }
        note = say("{boxes}, {share} of a box on the mean; {largest} g at most", **told)
        yield Told(say(str(HOW_WORDS.get(one.how, one.how))), f"± {grams(one.miss_g)} g", note)


def _sessions(learned: Learned) -> Iterator[Told]:
    for one in learned.sessions:
        told = {"planned": one.time.planned_min, "room": one.room_min, "over": signed(one.time.over_min)}
        note = say("its sheet said {planned} min ({over}); {room} min were planned for it", **told)
        yield Told(session_time(one.starts_at), say("{took} min", took=one.time.took_min), note)


def _fates(story: WeekStory, learned: Learned) -> Iterator[Told]:
    names = {r.key: r.name for r in story.table.picture.recipes.values()}
    eaters = {str(e.id): e.first_name for e in story.table.picture.eaters}
    for box in learned.thrown:
        told = {"who": eaters.get(box.eater_key, ""), "why": box.why or say("nobody said why")}
        yield Told(names[box.dish_key], f"{grams(box.thrown_g)} g", say("thrown away, {who}’s: {why}", **told))
    for name, kind, rest_g in learned.rests:
        yield Told(name, f"{grams(rest_g)} g", say("of the pot: {fate}", fate=say(str(RESTS[kind]))))
    for name, boxes in learned.left:
        yield Told(name, many(boxes, "box", "boxes"), say("left for another day"))
    for fate in learned.fates:
        who = eaters.get(fate.eater_key, "")
        if fate.is_never_finished:
            note = say("{who} never finished it", who=who)
            yield Told(names[fate.dish_key], say("0 of {boxes}", boxes=many(fate.boxes, "box", "boxes")), note)
    favourites = [f for f in learned.fates if f.is_favourite]
    for fate in sorted(favourites, key=lambda f: -f.boxes)[:3]:
        note = say("{who} finished it each time", who=eaters.get(fate.eater_key, ""))
        yield Told(names[fate.dish_key], many(fate.boxes, "box", "boxes"), note)


def _cost(cost: CostTold | None) -> Iterator[Told]:
    if cost is None:
        return
    least = say("at least; prices are missing") if cost.is_at_least else ""
    if cost.a_box is not None:
        yield Told(say("a box"), price(cost.a_box), least)
    a_day = least
    if cost.budget is not None and cost.days:
        a_day = say("your budget makes {budget} a day", budget=price(cost.budget / cost.days))
        a_day = f"{a_day}; {least}" if least else a_day
    yield Told(say("a day, all eaters"), price(cost.a_day), a_day)
    yield Told(say("the week as eaten"), price(cost.eaten), least)
    if cost.budget is not None:
        over = cost.till - cost.budget
        told = {"budget": price(cost.budget), "by": price(abs(over))}
        note = say("{by} over your {budget}", **told) if over > 0 else say("{by} under your {budget}", **told)
        yield Told(say("at the till"), price(cost.till), note)
    else:
        yield Told(say("at the till"), price(cost.till), say("whole packs; no budget is set at Shop"))
    if cost.thrown > 0:
        yield Told(say("thrown away"), price(cost.thrown), say("{share} of it", share=_share(cost)))


def _share(cost: CostTold) -> str:
    return f"{shown(100 * cost.thrown / cost.eaten, 1)} %" if cost.eaten > 0 else ""
