"""The wire under the app: a request that does not come to its end is not waited for."""

import asyncio
from typing import Any

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEAD_SECONDS = 20.0
"""How long the head of a request may take to arrive; its body has a limit of its own in `security`."""


class ImpatientProtocol(HttpToolsProtocol):
    """Closes a connection on which a request was begun, or none came, and whose head is not whole in time."""

    _late: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        """A browser is there."""
        super().connection_made(transport)
        self._expect()

    def connection_lost(self, exc: Exception | None) -> None:
        """It left."""
        self._has_come()
        super().connection_lost(exc)

    def on_message_begin(self) -> None:
        """A request begins."""
        super().on_message_begin()
        if self._late is None:
            self._expect()

    def on_headers_complete(self) -> None:
        """Its head is whole."""
        self._has_come()
        super().on_headers_complete()

    def _expect(self) -> None:
        self._late = self.loop.call_later(HEAD_SECONDS, self._give_up)

    def _has_come(self) -> None:
        if self._late is not None:
            self._late.cancel()
            self._late = None

    def _give_up(self) -> None:
        self._late = None
        if not self.transport.is_closing():
            self.transport.close()
