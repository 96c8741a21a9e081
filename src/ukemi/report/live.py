"""Serve a report page on this machine only: it renews itself as the level changes, and answers what if."""

from __future__ import annotations

import asyncio
import socket
from collections.abc import AsyncIterator, Awaitable, Callable, Iterator
from contextlib import contextmanager
from secrets import token_urlsafe
from typing import Any

import uvicorn
from starlette.applications import Starlette
from starlette.middleware import Middleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.requests import Request
from starlette.responses import (
    HTMLResponse,
    PlainTextResponse,
    RedirectResponse,
    Response,
    StreamingResponse,
)
from starlette.routing import Route

#: How many things may be supposed at once.
MOST_SUPPOSED = 50
#: A browser that waits is notified at this interval that the page is still served, in seconds.
STILL_HERE = 15.0


#: The names by which the page is served; the first is that of its address.
_HOSTS = ["127.0.0.1", "localhost"]
#: What stands in a page for the version that it shows.
VERSION = 'data-live="VERSION"'

#: Gives the page for a level's number and what is supposed of that level.
Render = Callable[[int, tuple[str, ...]], Awaitable[str]]
#: Writes what is supposed of a level into its files; gives back what is wrong, or nothing.
Write = Callable[[int, tuple[str, ...]], Awaitable[str]]


class LivePage:
    """A page served at a free port of the loopback address, to whoever knows its whole address.

    The address holds a random word, so that no other page or program on this machine can ask for the page
    without having read the address.

    Args:
        render: Gives the page.
        write: Writes what is supposed.
        port: The port; 0 for a free one.

    Attributes:
        address: Where it is served.
    """

    def __init__(self, render: Render, write: Write, port: int = 0) -> None:
        self._render, self._write = render, write
        self._version = 0
        self._changed = asyncio.Condition()
        self._socket = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
        self._socket.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        self._socket.bind(("127.0.0.1", port))
        self._socket.listen(64)  # who comes before it is served, waits
        number = self._socket.getsockname()[1]
        self._origins = [f"http://{host}:{number}" for host in _HOSTS]
        secret = f"/{token_urlsafe(16)}/"
        self.address = f"{self._origins[0]}{secret}"
        # A page elsewhere that gets its own name to lead here is refused: it would read the level.
        hosts = Middleware(TrustedHostMiddleware, allowed_hosts=_HOSTS)
        routes = [
            Route(secret, self._send),
            Route(f"{secret}changes", self._stream),
            Route(f"{secret}write", self._make, methods=["POST"]),
        ]
        app = Starlette(routes=routes, middleware=[hosts])
        config = uvicorn.Config(app, log_level="critical", timeout_graceful_shutdown=1)
        self._server = _Server(config)

    async def serve(self) -> None:
        """Serve it until :meth:`stop`."""
        await self._server.serve(sockets=[self._socket])

    def stop(self) -> None:
        """Serve it no longer."""
        self._server.should_exit = True

    async def renew(self) -> None:
        """Notify the browsers that show the page that it is old."""
        self._version += 1
        async with self._changed:
            self._changed.notify_all()

    async def _send(self, request: Request) -> HTMLResponse:
        version = self._version  # what changes from here on makes the page old
        page = await self._render(*_asked(request))
        page = page.replace(VERSION, f'data-live="{version}"', 1)
        return HTMLResponse(
            page, headers={"Cache-Control": "no-store", "Referrer-Policy": "same-origin"}
        )

    async def _make(self, request: Request) -> Response:
        """Write what is supposed, if the page itself asks for it."""
        if request.headers.get("origin") not in self._origins:
            return PlainTextResponse("only the page itself may ask for this", 403)
        wrong = await self._write(*_asked(request))
        if wrong:
            return PlainTextResponse(wrong, 409)
        return RedirectResponse(self.address, 303)

    async def _stream(self, request: Request) -> StreamingResponse:
        return StreamingResponse(
            self._events(),
            media_type="text/event-stream",
            headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
        )

    async def _events(self) -> AsyncIterator[str]:
        """Server-sent events: the version of the page, first as it is, then as it changes."""
        sent = -1
        while not self._server.should_exit:
            if sent != self._version:
                sent = self._version
                yield f"data: {sent}\n\n"
            try:
                async with self._changed:
                    await asyncio.wait_for(self._changed.wait(), STILL_HERE)
            except TimeoutError:
                yield ": still here\n\n"


def _asked(request: Request) -> tuple[int, tuple[str, ...]]:
    """The number of a level and what is supposed of it; what is empty is not supposed."""
    query = request.query_params
    number = query.get("level", "0")
    said = tuple(one.strip() for one in query.getlist("suppose") if one.strip())
    return int(number) if number.isdecimal() and len(number) < 7 else 0, said[:MOST_SUPPOSED]


class _Server(uvicorn.Server):
    """A server that leaves Ctrl-C to the command."""

    @contextmanager
    def capture_signals(self) -> Iterator[Any]:
        """Capture none."""
        yield
