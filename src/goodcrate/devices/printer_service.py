"""The stand-in label printer: a small HTTP service of its own that takes PDFs and shows what came out.

    python -m goodcrate.devices.printer_service [port [--with-starter]]

POST /jobs takes a PDF and answers 201 with where it can be seen; GET / lists the last sheets, GET /jobs/{n} shows one.
POST /switch with mode=prints | jams is its failure switch. It prints its address when it listens; with --with-starter
it ends when its input does.
"""

import sys
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from goodcrate.devices.catalogue_service import serve_until_told

LARGEST_SHEET_BYTES = 20_000_000
KEPT = 20


class PrinterService(ThreadingHTTPServer):
    """The service on one loopback port, with the sheets that came out last."""

    daemon_threads = True

    def __init__(self, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Handler)
        self.sheets: dict[int, bytes] = {}
        self.printed = 0
        self.mode = "prints"

    @property
    def address(self) -> str:
        """Where it listens."""
        return f"http://127.0.0.1:{self.server_address[1]}"

    def take(self, sheet: bytes) -> int:
        """Keep a sheet, and let go of the oldest; its number."""
        self.printed += 1
        self.sheets[self.printed] = sheet
        for old in sorted(self.sheets)[:-KEPT]:
            del self.sheets[old]
        return self.printed


class _Handler(BaseHTTPRequestHandler):
    server: PrinterService

    def do_GET(self) -> None:
        number = self.path.removeprefix("/jobs/")
        if self.path == "/":
            rows = "".join(
                f'<li><a href="/jobs/{n}">Sheet {n}</a></li>' for n in sorted(self.server.sheets, reverse=True)
            )
            head = "<!doctype html><meta charset=utf-8><title>Stand-in printer</title>"
            page = f"{head}<h1>What came out</h1><ul>{rows}</ul>"
            self._say(200, page.encode(), "text/html; charset=utf-8")
        elif number.isdigit() and int(number) in self.server.sheets:
            self._say(200, self.server.sheets[int(number)], "application/pdf")
        else:
            self._say(404, b"There is no such sheet.")

    def do_POST(self) -> None:
        length = int(self.headers.get("content-length") or 0)
        body = self.rfile.read(min(length, LARGEST_SHEET_BYTES))
        if self.path == "/switch" and body in (b"mode=prints", b"mode=jams"):
            self.server.mode = body.decode().partition("=")[2]
            self._say(200, b"ok")
        elif self.path != "/jobs" or length > LARGEST_SHEET_BYTES or not body.startswith(b"%PDF-"):
            self._say(400, b"A PDF, please.")
        elif self.server.mode == "jams":
            self._say(503, b"The labels are jammed.")
        else:
            self._say(201, b"", location=f"/jobs/{self.server.take(body)}")

    def _say(self, status: int, body: bytes, kind: str = "text/plain", location: str = "") -> None:
        self.send_response(status)
        self.send_header("content-type", kind)
        self.send_header("content-length", str(len(body)))
        if location:
            self.send_header("location", location)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:  # noqa: A002
        """Quiet."""


def main() -> None:
    """Serve until told to stop."""
    serve_until_told(PrinterService(int(sys.argv[1]) if len(sys.argv) > 1 else 0))


if __name__ == "__main__":
    main()
