"""Barcode catalogues: who can be asked what stands behind a barcode.

A real catalogue goes in here: anything with `look_up`. What ships is a stand-in, a small service of its own
(`goodcrate.devices.catalogue_service`) that knows made-up goods only and can be told to fail.
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from http.client import HTTPException
from typing import Protocol
from urllib.error import HTTPError, URLError
from urllib.request import urlopen

from goodcrate.core.ground.wording import say

LARGEST_ANSWER_BYTES = 64_000
PATIENCE_S = 2.0


class CatalogueUnavailable(Exception):
    """The catalogue cannot be reached, is too slow, or answers nonsense; `why` says which, for the cook."""

    def __init__(self, why: str) -> None:
        self.why = why
        super().__init__(why)


@dataclass(frozen=True)
class CatalogueItem:
    """What a catalogue knows of a barcode: texts as printed on the pack, nothing checked yet."""

    barcode: str
    name: str
    group: str = ""
    state: str = "ready"
    allergens: tuple[str, ...] = ()
    pack_g: str = ""
    label: Mapping[str, str] = field(default_factory=dict)


class Catalogue(Protocol):
    """Anything that can be asked for a barcode."""

    def look_up(self, barcode: str) -> CatalogueItem | None:
        """The item with this barcode, or None when the catalogue does not know it."""


class NoCatalogue:
    """For a kitchen without one: knows nothing."""

    def look_up(self, barcode: str) -> CatalogueItem | None:  # noqa: ARG002
        """Nothing is known."""
        return None


class HttpCatalogue:
    """A catalogue behind an address: GET {address}/items/{barcode} answers JSON, or 404."""

    def __init__(self, address: str, patience_s: float = PATIENCE_S) -> None:
        if not address.startswith(("http://", "https://")):
            raise ValueError("a catalogue's address starts with http:// or https://")
        self._address, self._patience_s = address.rstrip("/"), patience_s

    def look_up(self, barcode: str) -> CatalogueItem | None:
        """Ask for a barcode.

        Raises:
            CatalogueUnavailable: when there is no usable answer in time.
        """
        try:
            with urlopen(f"{self._address}/items/{barcode}", timeout=self._patience_s) as answer:  # noqa: S310
                body = answer.read(LARGEST_ANSWER_BYTES + 1)
        except HTTPError as error:
            with error:
                if error.code == 404:
                    return None
                raise CatalogueUnavailable(say("The catalogue refuses to answer ({code}).", code=error.code)) from None
        except TimeoutError:
            late = say("The catalogue did not answer within {s:g} s.", s=self._patience_s)
            raise CatalogueUnavailable(late) from None
        except (URLError, HTTPException, OSError):
            raise CatalogueUnavailable(say("The catalogue cannot be reached.")) from None
        if len(body) > LARGEST_ANSWER_BYTES:
            raise CatalogueUnavailable(say("The catalogue’s answer is far too long."))
        try:
            return _item(barcode, json.loads(body))
        except (ValueError, TypeError, AttributeError, KeyError, RecursionError):
            raise CatalogueUnavailable(say("The catalogue’s answer makes no sense.")) from None


def _item(barcode: str, said: Mapping[str, object]) -> CatalogueItem:
    """An item from JSON; everything is text, cut to sensible lengths, and for the right barcode.

    Raises:
        ValueError: when it is for another barcode or nameless.
    """
    name = str(said["name"]).strip()[:160]
    if said["barcode"] != barcode or not name:
        raise ValueError("not the item that was asked for")
    label, allergens = said.get("label") or {}, said.get("allergens") or []
    if not isinstance(label, dict) or not isinstance(allergens, list):
        raise TypeError("label and allergens have other shapes")
    return CatalogueItem(
        barcode,
        name,
        str(said.get("group") or "")[:20],
        str(said.get("state") or "ready")[:20],
        tuple(str(a)[:20] for a in allergens[:14]),
        str(said.get("pack_g") or "")[:20],
        label={str(k)[:30]: str(v)[:30] for k, v in list(label.items())[:60]},
    )
