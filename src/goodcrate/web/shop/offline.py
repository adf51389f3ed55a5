"""The service worker: it keeps the list of a week and what it looks like, so that both are there without a connection.

It has to be served from above the pages it works for, which is why it is no static file.
"""

from functools import cache
from pathlib import Path

from fastapi.responses import Response

from goodcrate.web.pages import STATIC
from goodcrate.web.security import Signed
from goodcrate.web.shop.address import router


@cache
def _script() -> str:
    return (Path(STATIC) / "js" / "shelf-worker.min.js").read_text("utf-8")


@router.get("/worker.js")
def worker(visitor: Signed) -> Response:
    """The script; browsers ask for it anew by themselves."""
    headers = {"cache-control": "no-cache", "service-worker-allowed": "/shop"}
    return Response(_script(), media_type="text/javascript; charset=utf-8", headers=headers)
