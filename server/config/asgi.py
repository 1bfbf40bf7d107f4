"""What gunicorn serves: an event loop reads requests whole before one of few threads sees them, so that a client who sends slowly, or nothing at all, keeps
nobody waiting. The threads then run Django as ever (`wsgi.py`)."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Awaitable, Callable, MutableMapping
from tempfile import SpooledTemporaryFile
from typing import IO, Any, cast

from a2wsgi import WSGIMiddleware

from .headers import POLICY
from .problems import LARGEST_BODY, problem_response
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
            await _refuse(send, 400, "The address has signs that are not encoded")
            return
        with SpooledTemporaryFile(max_size=IN_MEMORY) as body:
            if _announced(scope) <= LARGEST_BODY:  # what announces more is refused by that, and nothing of it is read
                try:
                    size = await asyncio.wait_for(_read(receive, body), self.seconds)
                except TimeoutError:
                    await _refuse(send, 408, "The request did not come whole in time. Nothing was saved")
                    return
                if size is None:
                    return
                if size > LARGEST_BODY:
                    await _refuse(send, 413, "The upload is too large")
                    return
                body.seek(0)
            gone = threading.Event()
            watcher = asyncio.create_task(_tell_when_gone(receive, gone))
            try:
                await self.app({**scope, GONE: gone}, _replayed(body), send)
            finally:
                watcher.cancel()


def _announced(scope: Message) -> int:
    """The announced length of the body [bytes]; 0 where none is."""
    lengths = [value for name, value in scope.get("headers", ()) if name == b"content-length"]
    return int(lengths[0]) if lengths and lengths[0].isdigit() else 0


async def _tell_when_gone(receive: Receive, gone: threading.Event) -> None:
    """After the body there is only one more message."""
    while (await receive())["type"] != "http.disconnect":
        pass
    gone.set()


async def _read(receive: Receive, body: IO[bytes]) -> int | None:
    """Reads a body and returns its size, as far as it is read: no further than the largest that is taken. None where the client is gone."""
    size = 0
    while size <= LARGEST_BODY:
        message = await receive()
        if message["type"] != "http.request":
            return None
        piece = message.get("body", b"")
        body.write(piece)
        size += len(piece)
        if not message.get("more_body", False):
            break
    return size


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


async def _refuse(send: Send, status: int, title: str) -> None:
    """In the one shape, with the headers of every other answer."""
    response = problem_response(status, title)
    own = {"Content-Security-Policy": POLICY, "X-Content-Type-Options": "nosniff", "Connection": "close"}
    for name, value in own.items():
        response.headers[name] = value
    headers = [(name.lower().encode(), value.encode()) for name, value in response.items()]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": response.content})


threads: Any = WSGIMiddleware(cast("Any", django), workers=THREADS, send_queue_size=ANSWER_PIECES)
application = Whole(threads)
