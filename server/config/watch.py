"""A watch over running requests: one that runs over its time is ended.

Python can't end a thread from outside, but can raise an exception in it, which is delivered at its next bytecode: the
request then ends like any other that failed, its transaction is rolled back, and the answer has the usual shape. One that
does not come back to Python at all ends its whole process, which the web server replaces.
"""

from __future__ import annotations

import ctypes
import logging
import os
import sys
import threading
import time
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

EVERY_S = 0.25
GRACE_S = 10.0  # from the exception to the end of the process


class OverTime(BaseException):
    """Raised in the thread of a request that ran over its time. No Exception: nothing on the way may take it for a failure of its own and go on."""


class Watch:
    """The deadlines of the requests that run, by their threads."""

    def __init__(self, seconds: float, *, end_process: bool = False) -> None:
        self.seconds, self.end_process = seconds, end_process
        self._lock = threading.Lock()
        self._deadlines: dict[int, float] = {}
        self._told: dict[int, float] = {}
        self._thread: threading.Thread | None = None
        self._process = 0

    def __enter__(self) -> None:
        with self._lock:
            if self._thread is None or self._process != os.getpid():  # threads do not survive a fork
                self._process = os.getpid()
                self._thread = threading.Thread(target=self._run, name="watch", daemon=True)
                self._thread.start()
            self._deadlines[threading.get_ident()] = time.monotonic() + self.seconds

    def __exit__(self, *exception: object) -> None:
        me = threading.get_ident()
        with self._lock:
            self._deadlines.pop(me, None)
            if self._told.pop(me, None) is not None:
                _raise_in(me, None)  # what was not delivered in time is not delivered to the next request

    def _run(self) -> None:
        while True:
            time.sleep(min(EVERY_S, self.seconds / 4))
            now = time.monotonic()
            with self._lock:
                for thread, deadline in self._deadlines.items():
                    if now < deadline:
                        continue
                    if thread not in self._told:
                        self._told[thread] = now
                        _raise_in(thread, OverTime)
                    elif self.end_process and now > self._told[thread] + GRACE_S:
                        print("a request does not end; ending the process", file=sys.stderr, flush=True)
                        os._exit(70)


def _raise_in(thread: int, what: type[BaseException] | None) -> None:
    """Sets the exception that a thread meets next, or takes it back."""
    target = ctypes.py_object(what) if what else None
    ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(thread), target)


def watched(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    watch = Watch(settings.REQUEST_SECONDS, end_process=settings.END_HUNG_PROCESS)

    def middleware(request: HttpRequest) -> HttpResponse:
        try:
            with watch:
                return get_response(request)
        except OverTime as late:
            from .problems import for_exception  # which knows this one

            logging.getLogger("django.request").error("over its time: %s %s", request.method, request.path)
            return for_exception(late)

    return middleware
