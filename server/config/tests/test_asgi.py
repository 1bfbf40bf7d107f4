"""Requests are handed on whole, and what does not come keeps nobody waiting."""

from __future__ import annotations

import asyncio
import json
import unittest
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from config.asgi import PIECE, Receive, Send, Whole
from config.problems import LARGEST_BODY, MEDIA_TYPE
from config.watch import GONE


def apart(work: Coroutine[Any, Any, None]) -> None:
    """In a thread of its own: a browser's test leaves a loop running in this one."""
    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, work).result()


class Requests(unittest.TestCase):
    def sent(self, *pieces: bytes, stays: bool = False, ends: bool = False, **scope: Any) -> tuple[list[bytes], int]:
        """(the bodies that reached the application, the status of the answer): of pieces that a client sends, who then `stays` silent, or `ends` the connection."""
        bodies: list[bytes] = []
        status = 0

        async def app(_: Any, receive: Receive, send: Send) -> None:
            body, more = b"", True
            while more:
                message = await receive()
                body, more = body + message["body"], message["more_body"]
            bodies.append(body)
            await send({"type": "http.response.start", "status": 200, "headers": []})
            await send({"type": "http.response.body", "body": b""})

        waiting = [
            {"type": "http.request", "body": p, "more_body": i < len(pieces) - 1 or stays or ends}
            for i, p in enumerate(pieces)
        ]

        async def receive() -> Any:
            if waiting:
                return waiting.pop(0)
            if ends:
                return {"type": "http.disconnect"}
            return await asyncio.Event().wait()

        async def send(message: Any) -> None:
            nonlocal status
            status = message.get("status", status)
            self.headers = message.get("headers", getattr(self, "headers", []))
            self.answer = message.get("body", b"")

        apart(Whole(app, seconds=0.1)({"type": "http", "query_string": b"", **scope}, receive, send))
        return bodies, status

    def test_a_body_arrives_whole_whatever_its_pieces(self) -> None:
        for pieces in ((b"",), (b"abc",), (b"a", b"", b"bc"), (b"x" * PIECE,), (b"x" * (PIECE + 1), b"y" * 2_000_000)):
            with self.subTest(len(pieces)):
                self.assertEqual(self.sent(*pieces), ([b"".join(pieces)], 200))

    def test_one_that_does_not_come_is_answered_in_time(self) -> None:
        self.assertEqual(self.sent(b"{", stays=True), ([], 408))

    def test_of_a_client_who_is_gone_nothing_is_asked(self) -> None:
        self.assertEqual(self.sent(b"{", ends=True), ([], 0))

    def test_one_that_is_too_large_is_refused_before_it_is_there(self) -> None:
        million = b"x" * 1_000_000
        self.assertEqual(self.sent(*[million] * 18)[1], 200)
        self.assertEqual(self.sent(*[million] * 18, b"x"), ([], 413))
        self.assertEqual(self.sent(*[million] * 40), ([], 413))

    def test_of_one_that_announces_too_much_nothing_is_read(self) -> None:
        for announced, read in ((LARGEST_BODY, b"abc"), (LARGEST_BODY + 1, b"")):
            headers = [(b"content-length", str(announced).encode())]
            self.assertEqual(self.sent(b"abc", headers=headers), ([read], 200))  # the application refuses it

    def test_refusals_have_the_one_shape(self) -> None:
        self.assertEqual(self.sent(b"{", stays=True)[1], 408)
        answer = json.loads(self.answer)
        self.assertEqual((answer["status"], answer["errors"]), (408, []))
        self.assertIn("Nothing was saved", answer["title"])
        headers = dict(self.headers)
        self.assertEqual(headers[b"content-type"], MEDIA_TYPE.encode())
        self.assertEqual(headers[b"x-content-type-options"], b"nosniff")
        self.assertIn(b"default-src 'self'", headers[b"content-security-policy"])

    def test_the_application_learns_that_the_client_is_gone(self) -> None:
        seen: list[bool] = []

        async def app(scope: Any, receive: Receive, send: Send) -> None:
            await receive()
            await asyncio.sleep(0.05)
            seen.append(scope[GONE].is_set())

        for stays in (True, False):
            messages = [{"type": "http.request", "body": b"", "more_body": False}] + ([] if stays else [{"type": "http.disconnect"}])  # fmt: skip

            async def receive(messages: list[Any] = messages) -> Any:
                return messages.pop(0) if messages else await asyncio.Event().wait()

            async def send(_: Any) -> None:
                pass

            apart(Whole(app)({"type": "http", "query_string": b""}, receive, send))
        self.assertEqual(seen, [False, True])

    def test_an_address_that_is_not_encoded_is_refused(self) -> None:
        self.assertEqual(self.sent(b"", query_string="text=µ".encode()), ([], 400))


if __name__ == "__main__":
    unittest.main()
