"""Connections: none is held open by one who begins a request and does not end it."""

import asyncio
from typing import Any

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

PATIENCE_S = 60.0
"""So long the head of a request may take to come in, and its body may pause: a file of gigabytes takes its time."""


class Patient(H11Protocol):
    """HTTP by h11, which takes no more than 64 kB of headers; a request that does not end is cut off."""

    _limit: asyncio.TimerHandle | None = None
    _heard = 0.0

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._limit = self.loop.call_later(PATIENCE_S, self._cut_off)

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        self._heard = self.loop.time()
        if self._limit is not None and self.conn.their_state not in (h11.IDLE, h11.SEND_BODY):
            # This one came in whole. The next one's time begins when the connection is kept for it.
            self._limit.cancel()
            self._limit = None

    def on_response_complete(self) -> None:
        super().on_response_complete()
        if self._limit is None and not self.transport.is_closing():
            self._limit = self.loop.call_later(PATIENCE_S, self._cut_off)

    def connection_lost(self, exc: Exception | None) -> None:
        if self._limit is not None:
            self._limit.cancel()
        super().connection_lost(exc)

    def _cut_off(self) -> None:
        self._limit = None
        if self.transport.get_protocol() is not self:
            return
        pause = self.loop.time() - self._heard
        if self.conn.their_state is h11.SEND_BODY and pause < PATIENCE_S:
            self._limit = self.loop.call_later(PATIENCE_S - pause, self._cut_off)
        elif self.conn.their_state in (h11.IDLE, h11.SEND_BODY):
            self.transport.close()
