"""Routes of the review: a week looked back on, how one of its days came about, and what it brought."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import BY_KEY
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import WORDS
from goodcrate.core.ground.writing import WRITING, week_length
from goodcrate.formats.csv_table import write_table
from goodcrate.services.at_table import eating
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.review import taking
from goodcrate.services.review.brought import foods_there
from goodcrate.services.review.learned import learned_of
from goodcrate.services.review.over_time import over_time
from goodcrate.services.review.week_story import EaterDayStory, WeekStory, newest_week, week_story
from goodcrate.services.week.history import close_week
from goodcrate.services.week.weeks import new_id, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.review import day_bars, lines, nutrients, out, view
from goodcrate.web.review.address import router
from goodcrate.web.review.learned_view import learned_view
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.tape import Tape

HEADLINES = ("energy_kcal", "protein_g")


@dataclass(frozen=True)
class Chosen:
    """What an address chooses: a day of an eater, by which nutrient its bars are, on which date the nutrients are, and
    a nutrient of an eater for the tape."""

    day: str = ""
    of: str = "energy_kcal"
    on: str = ""
    what: str = ""
    done: UUID | None = None


@router.get("")
def newest(request: Request, visitor: Signed) -> Response:
    """The week to look back on; without one the page says what will stand here."""
    today: date = request.app.state.clock()
    first_day = newest_week(visitor.caller, today)
    return _page(request, visitor, today, Chosen()) if first_day is None else go(f"/review/{first_day}")


@router.get("/over-time")
def over_the_weeks(request: Request, visitor: Signed, of: str = "energy_kcal") -> Response:
    """A figure of the closed weeks as a line, with the same as a table."""
    figure = of if of in BY_KEY or of in lines.FIGURES else "energy_kcal"
    there = over_time(visitor.caller)
    return page(
        request,
        visitor,
        "review/over_time.html",
        "review",
        weeks=len(there.weeks),
        to_come=there.to_come,
        figure=figure,
        is_mean=figure in BY_KEY,
        choices=lines.choices(),
        chart=lines.chart_of(there.weeks, figure),
    )


@router.get("/{first_day}")
def show(
    request: Request,
    visitor: Signed,
    first_day: Day,
    day: str = "",
    of: str = "energy_kcal",
    on: str = "",
    what: str = "",
    done: UUID | None = None,
) -> Response:
    """A week: each day on its beams, why one is as it is, and what the days brought. `done` is what was just said
    of all its meals at once."""
    of = of if of in BY_KEY else "energy_kcal"
    return _page(request, visitor, first_day, Chosen(day, of, on, what=what, done=done))


@router.post("/{first_day}/eaten")
def rest_eaten(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """All of the week up to today of which nothing was said was eaten as it was packed."""
    event = id_of(text(form, "event")) or new_id()
    eating.say_rest_eaten(visitor.caller, first_day, event, request.app.state.clock())
    return go(f"/review/{first_day}?done={event}")


@router.post("/{first_day}/eaten/undo")
def rest_not_eaten(visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Take back what was said of all of them at once."""
    eating.take_rest_back(visitor.caller, first_day, id_of(text(form, "event")) or new_id())
    return go(f"/review/{first_day}")


@router.post("/{first_day}/take")
def take_proposal(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Take a proposal into the next week."""
    key = text(form, "proposal")[:160]
    return _settled(request, visitor, first_day, lambda: taking.take(visitor.caller, first_day, key))


@router.post("/{first_day}/take/undo")
def take_proposal_back(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Put back what stood before it was taken."""
    key = text(form, "proposal")[:160]
    return _settled(request, visitor, first_day, lambda: taking.take_back(visitor.caller, first_day, key))


def _settled(request: Request, visitor: Visitor, first_day: date, act: Callable[[], None]) -> Response:
    """On to the week after something was done; what cannot be done is said where it was asked for."""
    try:
        act()
    except (InvalidInput, InvalidInputs) as error:
        return _page(request, visitor, first_day, Chosen(), Faults.of(error, {"proposal"}))
    return go(f"/review/{first_day}")


@router.post("/{first_day}/close")
def close(visitor: Signed, _: Posted, first_day: Day) -> Response:
    """The week keeps what it is judged by."""
    close_week(visitor.caller, first_day)
    return go(f"/review/{first_day}")


def _page(request: Request, visitor: Visitor, first_day: date, chosen: Chosen, faults: Faults = NO_FAULTS) -> Response:
    caller, picture = visitor.caller, week_picture(visitor.caller, first_day)
    around: Document = {
        "first_day": first_day,
        "previous": first_day - timedelta(days=7),
        "next": first_day + timedelta(days=week_length(first_day)),
    }
    if picture is None:
        return page(request, visitor, "review/page.html", "review", picture=None, **around)
    story = week_story(caller, picture)
    one = day_bars.chosen_day(story.days, chosen.day)
    on = next((d for d in picture.dates if d.isoformat() == chosen.on), None)
    today = request.app.state.clock()
    return page(
        request,
        visitor,
        "review/page.html",
        "review",
        picture=picture,
        chosen_key="" if one is None else view.key_of(one),
        bars=None if one is None else day_bars.bars_of(story, one, chosen.of),
        headlines=[(k, BY_KEY[k].label) for k in dict.fromkeys((*HEADLINES, chosen.of))],
        chosen=chosen,
        on=on,
        address=view.address,
        open_meals=sum(m.is_open for d in story.days if d.day <= today for m in d.meals),
        is_next_there=week_picture(caller, taking.next_first_day(story)) is not None,
        tape=_tape(story, one, _days(story, on), chosen),
        done=chosen.done,
        new_id=new_id,
        faults=faults,
        status=422 if faults else 200,
        **around,
        **_report(caller, story, on),
    )


def _days(story: WeekStory, on: date | None) -> dict[UUID, list[EaterDayStory]]:
    """By eater the days that count: all, or one date."""
    eaters = story.table.picture.eaters
    return {e.id: [d for d in story.days if d.eater.id == e.id and on in (None, d.day)] for e in eaters}


def _report(caller: Caller, story: WeekStory, on: date | None = None) -> Document:
    """What page and paper both tell; kept as long as the story is, in each language and way of writing."""
    key = ("report", on, WORDS.get().language, WRITING.get())
    made: Document = story.once(key, lambda: _reported(caller, story, on))
    return made


def _reported(caller: Caller, story: WeekStory, on: date | None) -> Document:
    taught, there, picture = learned_of(caller, story), foods_there(caller), story.table.picture
    days = _days(story, on)
    brought = [nutrients.brought_by(story, days[e.id], e, there) for e in picture.eaters]
    in_band, means = view.week_words(story, picture.eaters)
    return {
        "last_day": picture.dates[-1],
        "in_band": in_band,
        "means": means,
        "tables": view.tables_of(story),
        "brought": [b for b in brought if b is not None],
        "cards": taking.cards(caller, story, taught),
        "next_week": taking.next_first_day(story),
        "learned": learned_view(story, taught),
    }


@router.get("/{first_day}/print")
def on_paper(visitor: Signed, first_day: Day) -> Response:
    """The week's report, to be printed on a page."""
    story = _story(visitor, first_day)
    return fragment("review/print.html", first_day=first_day, **_report(visitor.caller, story))


@router.get("/{first_day}/review.csv")
def as_csv(visitor: Signed, first_day: Day) -> Response:
    """All that is behind the page, as CSV."""
    story = _story(visitor, first_day)
    taught = learned_of(visitor.caller, story)
    rows = out.rows_of(story, taught, taking.cards(visitor.caller, story, taught))
    headers = {"content-disposition": f'attachment; filename="review-{first_day.isoformat()}.csv"'}
    return Response(write_table(out.CSV_HEADER, rows), media_type="text/csv; charset=utf-8", headers=headers)


def _story(visitor: Visitor, first_day: date) -> WeekStory:
    picture = week_picture(visitor.caller, first_day)
    if picture is None:
        raise NotFound("week")
    return week_story(visitor.caller, picture)


def _tape(
    story: WeekStory, one: EaterDayStory | None, days: dict[UUID, list[EaterDayStory]], chosen: Chosen
) -> Tape | None:
    """The working of a chosen nutrient of an eater, else of the chosen day."""
    whose, _, nutrient = chosen.what.partition(".")
    eater = next((e for e in story.table.picture.eaters if str(e.id) == whose), None)
    if eater is not None and nutrient in BY_KEY:
        tape = nutrients.tape_of(story, days[eater.id], eater, nutrient, ())
        if tape is not None:
            return tape
    return None if one is None else day_bars.tape_of(story, one, chosen.of)
