"""What is told of a week, and searches beside each other."""

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextvars import copy_context
from typing import TypeVar

FOUND, NONE, UNKNOWN = "found", "none", "unknown"
"""There is a week; it is proven that none can be; or neither was told in time."""
_T = TypeVar("_T")


def beside(tasks: Sequence[Callable[[], _T]]) -> Iterator[_T]:
    """What some tasks come to, in their order; they are done beside each other, and speak the caller's language."""
    with ThreadPoolExecutor(max(1, len(tasks))) as pool:
        yield from [one.result() for one in [pool.submit(copy_context().run, task) for task in tasks]]
