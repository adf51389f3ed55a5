"""For whoever runs the server: is it alive, can it answer, how is it doing. Nothing of any household is shown."""

import base64
import hmac

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, Response

from goodcrate.services.server_report import BOUNDS_MS, Counted, ServerReport, server_report, why_not_ready
from goodcrate.web.pages import render

router = APIRouter()
LOCKED = {"www-authenticate": 'Basic realm="Good Crate, for whoever runs it"'}


@router.get("/healthz")
def healthz() -> Response:
    """This process is alive."""
    return PlainTextResponse("alive\n")


@router.get("/readyz")
def readyz(request: Request) -> Response:
    """This process can answer: its database is there, with the tables it needs."""
    why = why_not_ready(request.app.state.database)
    return PlainTextResponse(f"{why or 'ready'}\n", status_code=503 if why else 200)


@router.get("/metrics")
def metrics(request: Request) -> Response:
    """Request times, job times, the database: a page for browsers, plain text in the OpenMetrics way for others."""
    key = request.app.state.settings.metrics_key
    if not key:
        return PlainTextResponse("Set GOODCRATE_METRICS_KEY to see them.\n", status_code=404)
    if not hmac.compare_digest(_key_of(request).encode(), key.encode()):
        return PlainTextResponse("The key is missing or wrong.\n", status_code=401, headers=LOCKED)
    report = server_report(request.app.state.database)
    if "text/html" in request.headers.get("accept", ""):
        return HTMLResponse(render("server.html", report=report, bounds=BOUNDS_MS))
    return PlainTextResponse("\n".join(_lines(report)) + "\n")


def _key_of(request: Request) -> str:
    """The key, sent as a bearer's or as the password of any name."""
    kind, _, sent = request.headers.get("authorization", "").partition(" ")
    if kind.lower() == "bearer":
        return sent
    if kind.lower() == "basic":
        try:
            return base64.b64decode(sent).decode().partition(":")[2]
        except ValueError:
            return ""
    return ""


def _lines(report: ServerReport) -> list[str]:
    lines = ["# TYPE goodcrate_processes gauge", f"goodcrate_processes {len(report.processes)}"]
    lines.append("# TYPE goodcrate_request_ms histogram")
    for name, counted in report.requests.items():
        route, _, answer = name.rpartition(" ")
        lines += _histogram(route, answer, counted)
    lines.append("# TYPE goodcrate_job_seconds gauge")
    for job in report.jobs:
        labels = f'kind="{job["kind"]}",status="{job["status"]}"'
        lines.append(f"goodcrate_jobs_of_a_day{{{labels}}} {job['count']}")
        lines.append(f"goodcrate_job_seconds_mean{{{labels}}} {float(job['mean_s']):.3f}")
    for name, value in report.database.items():
        if value.replace(".", "", 1).isdigit():
            lines.append(f"goodcrate_database_{name.lower()} {value}")
    return lines


def _histogram(route: str, answer: str, counted: Counted) -> list[str]:
    labels, seen, lines = f'route="{route}",answer="{answer}"', 0, []
    for bound, count in zip((*BOUNDS_MS, "+Inf"), counted.counts, strict=True):
        seen += count
        lines.append(f'goodcrate_request_ms_bucket{{{labels},le="{bound}"}} {seen}')
    lines.append(f"goodcrate_request_ms_sum{{{labels}}} {counted.total_ms:.1f}")
    lines.append(f"goodcrate_request_ms_count{{{labels}}} {seen}")
    return lines
