"""How long work says how far it is."""

from collections.abc import Callable

Told = Callable[[float, str], object]
"""How far work is (a share, 0 to 1), and what it is at."""


def in_silence(share: float, words: str) -> None:
    """Say it to nobody."""
