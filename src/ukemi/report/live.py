"""Serve a report page on this machine only; the page renews itself whenever the level changes."""

from __future__ import annotations

import asyncio
import socket
from collections.abc import AsyncIterator, Iterator
from contextlib import contextmanager
from typing import Any

import uvicorn
from starlette.applications import Starlette
from starlette.middleware import Middleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.requests import Request
from starlette.responses import HTMLResponse, StreamingResponse
from starlette.routing import Route

#: A browser that waits is notified at this interval that the page is still served, in seconds.
STILL_HERE = 15.0


class LivePage:
    """A page served at a free port of the loopback address, to whoever asks for it by that name.

    Args:
        page: The page to begin with.
        port: The port; 0 for a free one.

    Attributes:
        address: Where it is served.
    """

    def __init__(self, page: str, port: int = 0) -> None:
        self._page = page
        self._version = 0
        self._changed = asyncio.Condition()
        self._socket = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
        self._socket.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        self._socket.bind(("127.0.0.1", port))
        self._socket.listen(64)  # who comes before it is served, waits
        self.address = f"http://127.0.0.1:{self._socket.getsockname()[1]}/"
        # A page elsewhere that gets its own name to lead here is refused: it would read the level.
        hosts = Middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost"])
        routes = [Route("/", self._send), Route("/changes", self._tell)]
        app = Starlette(routes=routes, middleware=[hosts])
        config = uvicorn.Config(app, log_level="critical", timeout_graceful_shutdown=1)
        self._server = _Server(config)

    async def serve(self) -> None:
        """Serve it until :meth:`stop`."""
        await self._server.serve(sockets=[self._socket])

    def stop(self) -> None:
        """Serve it no longer."""
        self._server.should_exit = True

    async def renew(self, page: str) -> None:
        """Serve another page, and notify the browsers that show this one."""
        self._page = page
        self._version += 1
        async with self._changed:
            self._changed.notify_all()

    async def _send(self, request: Request) -> HTMLResponse:
        return HTMLResponse(self._page, headers={"Cache-Control": "no-store"})

    async def _tell(self, request: Request) -> StreamingResponse:
        return StreamingResponse(
            self._events(),
            media_type="text/event-stream",
            headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
        )

    async def _events(self) -> AsyncIterator[str]:
        """Server-sent events: the version of the page, first as it is, then as it changes."""
        told = -1
        while not self._server.should_exit:
            if told != self._version:
                told = self._version
                yield f"data: {told}\n\n"
            try:
                async with self._changed:
                    await asyncio.wait_for(self._changed.wait(), STILL_HERE)
            except TimeoutError:
                yield ": still here\n\n"


class _Server(uvicorn.Server):
    """A server that leaves Ctrl-C to the command."""

    @contextmanager
    def capture_signals(self) -> Iterator[Any]:
        """Capture none."""
        yield
