"""Routes whose work is done again when it met another writer's."""

from collections.abc import Callable
from inspect import iscoroutinefunction
from typing import Any

from fastapi.routing import APIRoute

from goodcrate.services.again import done_again


class AgainRoute(APIRoute):
    """A route whose work is `done_again`; only what answers in a thread touches the database."""

    def __init__(self, path: str, endpoint: Callable[..., Any], **options: Any) -> None:
        super().__init__(path, endpoint if iscoroutinefunction(endpoint) else done_again(endpoint), **options)
