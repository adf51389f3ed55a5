"""The service worker: it keeps a week's list and what it looks like for when there is no connection."""

from fastapi.responses import Response

from goodcrate.web.pages import service_worker
from goodcrate.web.security import Signed
from goodcrate.web.shop.address import router


@router.get("/worker.js")
def worker(visitor: Signed) -> Response:
    """The script of the list."""
    return service_worker("/shop")
