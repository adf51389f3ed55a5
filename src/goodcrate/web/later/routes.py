"""Review: it says in one sentence what is coming, and pretends nothing."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.ground.wording import Saying
from goodcrate.web.again import AgainRoute
from goodcrate.web.pages import page
from goodcrate.web.security import Signed

router = APIRouter(route_class=AgainRoute)

COMING = {
    "review": Saying("Here planned, weighed and eaten will stand side by side, and become changes for next week.")
}


@router.get("/review")
def coming(request: Request, visitor: Signed) -> Response:
    """What this stage will do."""
    stage = request.url.path.strip("/")
    return page(request, visitor, "later/page.html", stage, sentence=COMING[stage])
