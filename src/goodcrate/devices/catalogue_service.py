"""The stand-in barcode catalogue: a small HTTP service of its own, with made-up goods and a failure switch.

    python -m goodcrate.devices.catalogue_service [port [--with-starter]]

GET /items/{barcode} answers the item as JSON, or 404. GET / shows the goods, and the switch: POST /switch with
mode=answers | refuses | hangs | nonsense. It prints its address when it listens.
With --with-starter it ends when its input does. All goods are made up and carry
in-store numbers (GTIN-13, 20 to 29), which mean nothing outside one shop.
"""

import json
import os
import signal
import sys
import threading
from collections.abc import Mapping
from functools import cache
from html import escape
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from importlib import resources
from urllib.parse import parse_qs

MODES = ("answers", "refuses", "hangs", "nonsense")
HANG_S = 20.0


@cache
def goods() -> Mapping[str, Mapping[str, object]]:
    """The made-up goods by barcode."""
    text = (resources.files("goodcrate") / "devices" / "catalogue.json").read_text(encoding="utf-8")
    return {item["barcode"]: item for item in json.loads(text)}


class CatalogueService(ThreadingHTTPServer):
    """The service on one loopback port; `mode` is the failure switch."""

    daemon_threads = True

    def __init__(self, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Handler)
        self.mode = "answers"
        self.ending = threading.Event()

    @property
    def address(self) -> str:
        """Where it listens."""
        return f"http://127.0.0.1:{self.server_address[1]}"

    def handle_error(self, request: object, client_address: object) -> None:
        """Whoever gave up waiting has hung up; nothing else can go wrong with an answer."""

    def server_close(self) -> None:
        """Let go of whoever is kept hanging, then close."""
        self.ending.set()
        super().server_close()


class _Handler(BaseHTTPRequestHandler):
    server: CatalogueService

    def do_GET(self) -> None:
        if self.path == "/":
            self._say(200, _page(self.server.mode), "text/html; charset=utf-8")
            return
        mode = self.server.mode
        if mode == "hangs":
            self.server.ending.wait(HANG_S)
            self._say(503, "{}")
        elif mode == "refuses":
            self._say(503, '{"problem": "switched off"}')
        elif mode == "nonsense":
            self._say(200, '{"barcode": [[[[')
        else:
            item = goods().get(self.path.removeprefix("/items/"))
            self._say(200 if item else 404, json.dumps(item or {"problem": "unknown barcode"}))

    def do_POST(self) -> None:
        length = min(int(self.headers.get("content-length") or 0), 1000)
        mode = parse_qs(self.rfile.read(length).decode("utf-8", "replace")).get("mode", [""])[0]
        if self.path != "/switch" or mode not in MODES:
            self._say(400, '{"problem": "mode is one of ' + ", ".join(MODES) + '"}')
            return
        self.server.mode = mode
        self.send_response(303)
        self.send_header("location", "/")
        self.send_header("content-length", "0")
        self.end_headers()

    def _say(self, status: int, body: str, kind: str = "application/json") -> None:
        data = body.encode()
        self.send_response(status)
        self.send_header("content-type", kind)
        self.send_header("content-length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def log_message(self, format: str, *args: object) -> None:  # noqa: A002
        """Quiet: whoever asks says what went wrong."""


def _page(mode: str) -> str:
    rows = "".join(f"<tr><td>{escape(code)}</td><td>{escape(str(i['name']))}</td></tr>" for code, i in goods().items())
    switches = "".join(
        f'<button name="mode" value="{name}"{" disabled" if name == mode else ""}>{name}</button> ' for name in MODES
    )
    return (
        "<!doctype html><html lang=en><meta charset=utf-8><title>Stand-in catalogue</title>"
        "<h1>Stand-in barcode catalogue</h1>"
        "<p>Made-up goods under in-store numbers. Scan or type one in Good Crate.</p>"
        f'<form method="post" action="/switch"><p>It now <b>{mode}</b>. Switch: {switches}</p></form>'
        f"<table>{rows}</table></html>"
    )


def _end_with_input(service: ThreadingHTTPServer) -> None:
    while os.read(0, 1024):  # not sys.stdin: a thread waiting in it holds its lock when Python ends
        pass
    service.shutdown()


def serve_until_told(service: ThreadingHTTPServer) -> None:
    """Serve until told to stop: by a signal, or with --with-starter by the end of the input. Says the address first."""
    signal.signal(signal.SIGTERM, lambda *_: threading.Thread(target=service.shutdown).start())
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C goes to the app, which then ends this service
    if "--with-starter" in sys.argv:  # even one that is killed closes its end of our input
        threading.Thread(target=_end_with_input, args=(service,), daemon=True).start()
    print(f"http://127.0.0.1:{service.server_address[1]}", flush=True)
    service.serve_forever(poll_interval=0.2)
    service.server_close()


def main() -> None:
    """Serve until told to stop."""
    serve_until_told(CatalogueService(int(sys.argv[1]) if len(sys.argv) > 1 else 0))


if __name__ == "__main__":
    main()
