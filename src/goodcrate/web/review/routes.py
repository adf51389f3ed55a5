"""Routes of the review: a week looked back on, and one of its days with the steps from planned to eaten."""

from datetime import date, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.writing import week_length
from goodcrate.services.review.week_story import week_story
from goodcrate.services.week.weeks import week_of, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.again import AgainRoute
from goodcrate.web.pages import go, page
from goodcrate.web.review import view
from goodcrate.web.security import Signed, Visitor

router = APIRouter(prefix="/review", route_class=AgainRoute)


@router.get("")
def newest(request: Request, visitor: Signed) -> Response:
    """The week that holds today, else the one before it; without one the page says what will stand here."""
    today: date = request.app.state.clock()
    first_day = week_of(visitor.caller, today) or week_of(visitor.caller, today - timedelta(days=7))
    return _page(request, visitor, today, "") if first_day is None else go(f"/review/{first_day}")


@router.get("/{first_day}")
def show(request: Request, visitor: Signed, first_day: Day, day: str = "") -> Response:
    """A week: each day on its beams, why one is as it is, and what the days brought."""
    return _page(request, visitor, first_day, day)


def _page(request: Request, visitor: Visitor, first_day: date, day: str) -> Response:
    picture = week_picture(visitor.caller, first_day)
    around: Document = {
        "first_day": first_day,
        "previous": first_day - timedelta(days=7),
        "next": first_day + timedelta(days=week_length(first_day)),
    }
    if picture is None:
        return page(request, visitor, "review/page.html", "review", picture=None, **around)
    story = week_story(visitor.caller, picture)
    days = {f"{d.eater.id}.{d.day.isoformat()}": d for d in story.days}
    chosen = days.get(day) or next((d for d in reversed(story.days) if d.is_said), None)
    return page(
        request,
        visitor,
        "review/page.html",
        "review",
        picture=picture,
        last_day=picture.dates[-1],
        eaters=[
            (e, view.marks_of(story, e), view.mean_words([d for d in story.days if d.eater.id == e.id]))
            for e in picture.eaters
        ],
        chosen=None if chosen is None else view.bars_of(story, chosen),
        chosen_key="" if chosen is None else f"{chosen.eater.id}.{chosen.day.isoformat()}",
        nutrients=[(e, view.nutrients_of([d for d in story.days if d.eater.id == e.id], e)) for e in picture.eaters],
        **around,
    )
