"""One place where work that met another writer's is done again."""

import random
import time
from collections.abc import Callable
from functools import wraps
from inspect import iscoroutinefunction
from typing import Any

from fastapi.routing import APIRoute

from goodcrate.services.calling import is_worth_another_try

TRIES = 4
FIRST_PAUSE_S = 0.02
"""Doubled from try to try, and by chance longer, so that two who met do not meet again."""


class AgainRoute(APIRoute):
    """A route whose work is done again, a few times, when the database rolled it back for another writer's sake.

    What was rolled back left nothing, and what went through before carries ids made by the client, so doing it again
    changes nothing twice.
    """

    def __init__(self, path: str, endpoint: Callable[..., Any], **options: Any) -> None:
        super().__init__(path, endpoint if iscoroutinefunction(endpoint) else _again(endpoint), **options)


def _again(endpoint: Callable[..., Any]) -> Callable[..., Any]:
    @wraps(endpoint)
    def tried(*args: Any, **named: Any) -> Any:
        for n in range(TRIES - 1):
            try:
                return endpoint(*args, **named)
            except Exception as error:
                if not is_worth_another_try(error):
                    raise
            time.sleep(FIRST_PAUSE_S * 2**n * (1 + random.random()))  # noqa: S311 — chance, not a secret
        return endpoint(*args, **named)

    return tried
