"""Label printers: who takes a PDF and prints it.

A real printer goes in here: anything with `send`. What ships is a stand-in, a small service of its own
(`goodcrate.devices.printer_service`) that keeps the last sheets and shows what came out.
"""

from http.client import HTTPException
from typing import Protocol
from urllib.error import URLError
from urllib.request import Request, urlopen

from goodcrate.core.ground.wording import say

PATIENCE_S = 4.0


class PrinterUnavailable(Exception):
    """Nothing was printed; `why` says so for the cook."""

    def __init__(self, why: str) -> None:
        self.why = why
        super().__init__(why)


class Printer(Protocol):
    """Anything that prints a PDF."""

    def send(self, sheet: bytes) -> str:
        """Print it; where to see what came out, or nothing."""


class NoPrinter:
    """For a kitchen without one: the PDF is opened instead."""

    def send(self, sheet: bytes) -> str:  # noqa: ARG002
        """Nothing prints.

        Raises:
            PrinterUnavailable: always.
        """
        raise PrinterUnavailable(say("No label printer is connected. Open the PDF and print that."))


class HttpPrinter:
    """A printer behind an address: POST {address}/jobs takes a PDF and answers where it can be seen."""

    def __init__(self, address: str, patience_s: float = PATIENCE_S) -> None:
        if not address.startswith(("http://", "https://")):
            raise ValueError("a printer's address starts with http:// or https://")
        self._address, self._patience_s = address.rstrip("/"), patience_s

    def send(self, sheet: bytes) -> str:
        """Print it; where to see what came out.

        Raises:
            PrinterUnavailable: when the printer cannot be reached or does not take it.
        """
        asked = Request(f"{self._address}/jobs", sheet, {"content-type": "application/pdf"})  # noqa: S310
        try:
            with urlopen(asked, timeout=self._patience_s) as answer:  # noqa: S310
                said = str(answer.headers.get("location", ""))
        except (OSError, URLError, HTTPException):
            raise PrinterUnavailable(say("The label printer did not take it. Open the PDF, or try again.")) from None
        return f"{self._address}{said}" if said.startswith("/") else ""


def printer_at(address: str | None) -> Printer:
    """The printer behind a setting's address; none without one.

    Raises:
        ValueError: for an address that is none.
    """
    return NoPrinter() if address in (None, "", "none") else HttpPrinter(str(address))
