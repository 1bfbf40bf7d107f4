"""A watch over running requests: one that takes more processor time than it may, or far longer by the clock, is ended.

Python can't end a thread from outside, but can raise an exception in it, which is delivered at its next bytecode: the
request then ends like any other that failed, its transaction is rolled back, and the answer has the usual shape. One that
does not come back to Python at all ends its whole process, which the web server replaces, once its neighbours are done.
"""

from __future__ import annotations

import ctypes
import logging
import os
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from django.conf import settings
from django.http import HttpRequest, HttpResponse

EVERY_S = 0.25
GONE = "ember.gone"  # in the scope of a request: an event that is set when its client has gone
NOT_WAITED_FOR = ("/api/evaluate", "/api/answers/")  # what stores nothing is not finished for nobody; a save is
GRACE_S = 10.0  # from the exception to the end of the process


class OverTime(BaseException):
    """Raised in the thread of a request that ran over its time. No Exception: nothing on the way may take it for a failure of its own and go on."""


@dataclass
class _Request:
    """What a request may: processor time of its thread [s], and the clock's; when it was told that it is over."""

    clock: int
    most_cpu_s: float
    deadline: float
    gone: threading.Event | None = None
    told: float | None = None

    def over(self, now: float) -> bool:
        return (
            (self.gone is not None and self.gone.is_set())
            or now >= self.deadline
            or time.clock_gettime(self.clock) >= self.most_cpu_s
        )


class Watch:
    """The requests that run, by their threads: each may take `seconds` of processor time, and `by_clock` in all, as a busy machine is no fault of theirs."""

    def __init__(self, seconds: float, by_clock: float, *, end_process: bool = False) -> None:
        self.seconds, self.by_clock, self.end_process = seconds, by_clock, end_process
        self._lock = threading.Lock()
        self._running: dict[int, _Request] = {}
        self._thread: threading.Thread | None = None
        self._process = 0

    @contextmanager
    def during(self, gone: threading.Event | None = None) -> Iterator[None]:
        """A request in this thread; it is ended too when `gone` is set. The exception may come in the very last moment: the request is forgotten all the same."""
        try:
            self._begin(gone)
            try:
                yield
            finally:
                self._end()
        except OverTime:
            self._end()
            raise

    def _begin(self, gone: threading.Event | None) -> None:
        me = threading.get_ident()
        clock = time.pthread_getcpuclockid(me)
        with self._lock:
            if self._thread is None or self._process != os.getpid():  # threads do not survive a fork
                self._process = os.getpid()
                self._thread = threading.Thread(target=self._run, name="watch", daemon=True)
                self._thread.start()
            cpu_s = time.clock_gettime(clock) + self.seconds
            self._running[me] = _Request(clock, cpu_s, time.monotonic() + self.by_clock, gone)

    def _end(self) -> None:
        me = threading.get_ident()
        with self._lock:
            request = self._running.pop(me, None)
            if request is not None and request.told is not None:
                _raise_in(me, None)  # what was not delivered in time is not delivered to the next request

    def _run(self) -> None:
        while True:
            time.sleep(min(EVERY_S, self.seconds / 4, self.by_clock / 4))
            now = time.monotonic()
            with self._lock:
                for thread, request in self._running.items():
                    if request.told is None and request.over(now):
                        request.told = now
                        _raise_in(thread, OverTime)
                if self.end_process and self._hung(now):
                    print("a request does not end; ending the process", file=sys.stderr, flush=True)
                    os._exit(70)

    def _hung(self, now: float) -> bool:
        """Whether a request that was told does not end, and no neighbour is at work that may still come to its end."""
        stuck = [r.told is not None and now > r.told + GRACE_S for r in self._running.values()]
        patience = any(r.told is not None and now > r.told + GRACE_S + self.by_clock for r in self._running.values())
        return any(stuck) and (all(stuck) or patience)


def _raise_in(thread: int, what: type[BaseException] | None) -> None:
    """Sets the exception that a thread meets next, or takes it back."""
    target = ctypes.py_object(what) if what else None
    ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(thread), target)


def watched(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    watch = Watch(settings.REQUEST_SECONDS, settings.REQUEST_SECONDS_BY_CLOCK, end_process=settings.END_HUNG_PROCESS)

    def middleware(request: HttpRequest) -> HttpResponse:
        gone = None
        if request.path.startswith(NOT_WAITED_FOR):
            gone = request.META.get("asgi.scope", {}).get(GONE)
        try:
            with watch.during(gone):
                return get_response(request)
        except OverTime as late:
            from .problems import for_exception  # which knows this one

            if gone is None or not gone.is_set():
                logging.getLogger("django.request").error("over its time: %s %s", request.method, request.path)
            return for_exception(late)

    return middleware
