"""The one place where work that met another writer's is done again: a deadlock, or two servers of a cluster that
certified the other one's rows first. Routes and workers both come here."""

import random
import time
from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

from goodcrate.services.calling import is_database_away, is_worth_another_try

P = ParamSpec("P")
R = TypeVar("R")
PAUSE_S = 0.02
"""Before work is done again; by chance up to twice as long, so that two who met do not meet again."""
LOOKS_AGAIN_AFTER_S = 0.5
"""Between tries while the database is away."""


def done_again(work: Callable[P, R]) -> Callable[P, R]:
    """Work that is done again, once, when the database rolled it back for another writer's sake.

    What was rolled back left nothing, and what went through before carries ids made by the client, so doing it again
    changes nothing twice. Once was enough for eight hands at once on every form that tests race.
    """

    @wraps(work)
    def tried(*args: P.args, **named: P.kwargs) -> R:
        try:
            return work(*args, **named)
        except Exception as error:
            if not is_worth_another_try(error):
                raise
        time.sleep(PAUSE_S * (1 + random.random()))  # noqa: S311 — chance, not a secret
        return work(*args, **named)

    return tried


def patient(longest_s: float) -> Callable[[Callable[P, R]], Callable[P, R]]:
    """Work that nobody sits and waits for: done again when the database was away, until so many seconds are over."""

    def decorated(work: Callable[P, R]) -> Callable[P, R]:
        @wraps(work)
        def tried(*args: P.args, **named: P.kwargs) -> R:
            until = time.monotonic() + longest_s
            while True:
                try:
                    return work(*args, **named)
                except Exception as error:
                    if not is_database_away(error) or time.monotonic() > until:
                        raise
                time.sleep(LOOKS_AGAIN_AFTER_S)

        return tried

    return decorated
