"""What gunicorn serves: an event loop reads requests whole before one of few threads sees them, so that a client who sends slowly, or nothing at all, keeps
nobody waiting. The threads then run Django as ever (`wsgi.py`)."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Awaitable, Callable, MutableMapping
from tempfile import SpooledTemporaryFile
from typing import IO, Any, cast

from a2wsgi import WSGIMiddleware

from .problems import LARGEST_BODY
from .watch import GONE
from .wsgi import application as django

THREADS = 2  # that compute, in each process
BODY_S = 60.0  # for all of a body
IN_MEMORY = 1_000_000  # bytes; what is larger waits in a file
PIECE = 65_536
ANSWER_PIECES = 1000  # of an answer that wait for a client who reads slowly, so that no thread does

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Message, Receive, Send], Awaitable[None]]


class Whole:
    """Hands requests on once they are there whole; those that take too long, or end early, are let go."""

    def __init__(self, app: App, seconds: float = BODY_S) -> None:
        self.app, self.seconds = app, seconds

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        if not scope["query_string"].isascii():
            await _say(send, 400, b"The address has signs that are not encoded.")
            return
        with SpooledTemporaryFile(max_size=IN_MEMORY) as body:
            try:
                there = await asyncio.wait_for(_read(receive, body), self.seconds)
            except TimeoutError:
                await _say(send, 408, b"The request did not come whole in time.")
                return
            if not there:
                return
            body.seek(0)
            gone = threading.Event()
            watcher = asyncio.create_task(_tell_when_gone(receive, gone))
            try:
                await self.app({**scope, GONE: gone}, _replayed(body), send)
            finally:
                watcher.cancel()


async def _tell_when_gone(receive: Receive, gone: threading.Event) -> None:
    """After the body there is only one more message."""
    while (await receive())["type"] != "http.disconnect":
        pass
    gone.set()


async def _read(receive: Receive, body: IO[bytes]) -> bool:
    """Reads a body; more than any route takes is left for the route to refuse. False where the client is gone."""
    size = 0
    while True:
        message = await receive()
        if message["type"] != "http.request":
            return False
        piece = message.get("body", b"")
        size += len(piece)
        if size <= LARGEST_BODY + PIECE:
            body.write(piece)
        if not message.get("more_body", False):
            return True
        if size > 2 * LARGEST_BODY:
            return True


def _replayed(body: IO[bytes]) -> Receive:
    """The body again, piece by piece."""
    ended = False

    async def receive() -> Message:
        nonlocal ended
        if ended:
            await asyncio.Event().wait()  # until the answer is out
        piece = body.read(PIECE)
        ended = len(piece) < PIECE
        return {"type": "http.request", "body": piece, "more_body": not ended}

    return receive


async def _say(send: Send, status: int, text: bytes) -> None:
    headers = [(b"content-type", b"text/plain; charset=utf-8"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": text})


threads: Any = WSGIMiddleware(cast("Any", django), workers=THREADS, send_queue_size=ANSWER_PIECES)
application = Whole(threads)
