"""Ways out of what cannot be: values that one macro (`parts.html: way_out`) shows wherever they are due."""

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Blocked:
    """What stands in the way, and the change that would free it."""

    words: str
    change: str


@dataclass(frozen=True)
class WayOut:
    """One way out: what it frees, and a button with these words that sends these fields to an address.

    Without fields the words are a link there; without words nothing is offered. `note` is said above it.
    """

    blocked: tuple[Blocked, ...]
    words: str = ""
    address: str = ""
    fields: Mapping[str, str] = field(default_factory=dict)
    note: str = ""
    links: tuple[tuple[str, str], ...] = ()
    """Other places to go to from here: words and address."""
