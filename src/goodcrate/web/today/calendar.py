"""The household's calendar behind its secret link: read by a calendar that signs in nowhere."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.formats.calendar_file import calendar_text
from goodcrate.services import calendar_links
from goodcrate.services.at_table.feed import feed
from goodcrate.services.calling import Caller, NotFound, utc_now
from goodcrate.services.household import speak_for
from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/calendar", route_class=AgainRoute)
LONGEST_TOKEN = 100


@router.get("/{token}/week.ics")
def read(request: Request, token: str) -> Response:
    """Sessions, what thaws and soaks, and what is to be eaten by when."""
    database = request.app.state.database
    household_id = calendar_links.household_of_calendar(database, token[:LONGEST_TOKEN])
    if household_id is None:
        raise NotFound("calendar")
    caller = Caller(database, household_id)
    speak_for(caller)
    name, entries = feed(caller, request.app.state.clock())
    headers = {"cache-control": "private, no-store", "x-robots-tag": "noindex"}
    return Response(calendar_text(name, entries, utc_now()), media_type="text/calendar", headers=headers)
