"""Talks to one instrument in a process of its own: `python -m instruments.driver SPEC`, SPEC as JSON (`Spec`).

Writes a line of JSON, `{"identity": ...}` with `"value"`, with `"rest_v"`, `"loaded_v"` and `"drawn_a"`, or with `"samples"` and `"seconds"`; or `{"problem": ...}`. After samples comes
the recording as it is kept. Lines of `{"progress": share}` go to its standard error.

Whatever this process switched on it switches off: at its end, on every error, when it is told to end. It is watched by the process that began it: where it ends
without having said that the output is off, or where the one who asked is gone, the watcher switches it off over a connection of its own.
"""

from __future__ import annotations

import ctypes
import json
import math
import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import suppress
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, NoReturn

if TYPE_CHECKING:  # each takes long to import: where it is needed
    import numpy as np

    from ember_core.traces import Recording

ANSWERS_WITHIN_S = 5.0
OFF_WITHIN_S = 2.0
READ_AT_ONCE = 20_000
PAUSE_S = 0.05
STALLED_S = 6.0  # without a new sample
DEATH_SIGNAL = 1  # prctl's PR_SET_PDEATHSIG
SWITCHED_OFF = b"output off\n"
NO_ERROR = "0"
SOCKET_PORT, HISLIP_PORT = 5025, 4880
LOOKED_EVERY_S = 0.5  # at a cell under a load
LEAST_DRAWN = 0.5  # of what a load was set to
MEASURED = {"current": "MEASure:CURRent:DC?", "voltage": "MEASure:VOLTage:DC?", "temperature": "MEASure:TEMPerature?"}


class Trouble(Exception):
    """What went wrong, for who asked."""


@dataclass(frozen=True)
class Spec:
    """What to do. With `volts` and `limit_a` the instrument supplies the gadget meanwhile; with `load_a` it is an electronic load on one cell, which
    is let go of below `floor_v` and has no more than `most_v`."""

    host: str
    port: int
    link: str
    action: str
    what: str = "current"
    volts: float | None = None
    limit_a: float | None = None
    range_a: float = 1.0
    rate_hz: float = 1000.0
    seconds: float = 10.0
    level_a: float | None = None
    load_a: float | None = None
    floor_v: float = 0.0
    most_v: float = math.inf

    @property
    def switch(self) -> str:
        """What is on while it supplies or loads something."""
        return "OUTPut:STATe" if self.load_a is None else "INPut:STATe"

    @property
    def switches(self) -> bool:
        return self.load_a is not None or (self.volts is not None and self.limit_a is not None)

    @property
    def resource(self) -> str:
        if self.link == "hislip":
            port = (
                HISLIP_PORT if self.port == SOCKET_PORT else self.port
            )  # what was kept with the raw socket's port means the usual one
            return f"TCPIP::{self.host}::hislip0,{port}::INSTR"
        if self.link == "vxi-11":
            return f"TCPIP::{self.host}::INSTR"
        return f"TCPIP::{self.host}::{self.port}::SOCKET"


class Session:
    """An open instrument."""

    def __init__(self, spec: Spec, within_s: float = ANSWERS_WITHIN_S) -> None:
        try:
            if spec.link == "socket":
                socket.create_connection((spec.host, spec.port), within_s).close()
            import pyvisa

            self.own: Any = pyvisa.ResourceManager("@py").open_resource(
                spec.resource, open_timeout=int(within_s * 1000)
            )
        except Exception as error:
            raise Trouble(f"nothing answers at {spec.host}:{spec.port}") from error
        for name, value in (("timeout", int(within_s * 1000)), ("read_termination", "\n"), ("write_termination", "\n")):
            setattr(self.own, name, value)

    def tell(self, line: str) -> None:
        try:
            self.own.write(line)
        except Exception as error:
            raise Trouble("the connection broke off") from error

    def ask(self, line: str) -> str:
        try:
            said = str(self.own.query(line)).strip()
        except UnicodeDecodeError as error:
            raise Trouble(f"it answers {line!r} with something that is no text") from error
        except Exception as error:
            raise Trouble(f"it does not answer {line!r} in time") from error
        return said

    def figure(self, line: str) -> float:
        said = self.ask(line)
        try:
            value = float(said)
        except ValueError:
            value = float("nan")
        if not math.isfinite(value) or abs(value) > 1e6:
            raise Trouble(f"it answers {line!r} with {said[:40]!r}, which is no figure")
        return value

    def samples(self, count: int) -> np.ndarray:
        import numpy as np

        try:
            found = self.own.query_binary_values(
                f"DATA:REMove? {count}", datatype="f", is_big_endian=True, container=np.array
            )
        except Exception as error:
            raise Trouble("it stopped in the middle of the recording") from error
        return np.asarray(found, dtype=np.float64)

    def no_error(self) -> None:
        said = self.ask("SYSTem:ERRor?")
        if said.split(",")[0].strip().lstrip("+") != NO_ERROR:
            raise Trouble(f"it reports an error: {said[:120]}")


def do(spec: Spec, watcher: int) -> tuple[dict[str, Any], bytes]:
    """In the measuring process: what was asked. That the output is off is written to the `watcher`'s pipe. Raises Trouble."""
    session = Session(spec)
    identity = session.ask("*IDN?")
    if not identity.isprintable() or not 3 <= len(identity) <= 200 or "," not in identity:
        raise Trouble(f"what it says of itself is no identity: {identity[:40]!r}")
    if spec.action == "identify":
        return {"identity": identity}, b""
    session.tell("*CLS")
    try:
        if spec.action == "step":
            return {"identity": identity} | _stepped(session, spec), b""
        if spec.switches:
            session.tell(f"SOURce:VOLTage {spec.volts:.6g}")
            session.tell(f"SOURce:CURRent:LIMit {spec.limit_a:.6g}")
            session.no_error()
            session.tell("OUTPut:STATe ON")
        if spec.what == "current":
            session.tell(f"SENSe:CURRent:RANGe {spec.range_a:.6g}")
            session.no_error()
        if spec.action == "read":
            value = session.figure(MEASURED[spec.what])
            session.no_error()
            return {"identity": identity, "value": value}, b""
        from ember_core.traces import Kept

        kept = Kept.of(_recorded(session, spec))
        return {"identity": identity} | kept.told, kept.packed + kept.whole
    finally:
        if spec.switches and switch_off(spec, session):
            with suppress(OSError):
                os.write(watcher, SWITCHED_OFF)


def _stepped(session: Session, spec: Spec) -> dict[str, float]:
    """An electronic load connected for a while: the voltage before [V] and under it [V], and what it really draws [A]."""
    assert spec.load_a is not None
    rest_v = session.figure(MEASURED["voltage"])
    if rest_v < spec.floor_v:
        raise Trouble(f"at rest it has {rest_v:.3g} V, less than its cut-off of {spec.floor_v:g} V: charge it first")
    if rest_v > spec.most_v:
        raise Trouble(
            f"at rest it has {rest_v:.3g} V, more than one such cell: a cell is checked by itself, out of its pack"
        )
    session.tell(f"SOURce:CURRent {spec.load_a:.6g}")
    session.no_error()
    session.tell("INPut:STATe ON")
    until = time.monotonic() + spec.seconds
    while True:
        loaded_v = session.figure(MEASURED["voltage"])
        if loaded_v < spec.floor_v:
            raise Trouble(
                f"under the load it falls to {loaded_v:.3g} V, below its cut-off of {spec.floor_v:g} V; the load is off again"
            )
        left = until - time.monotonic()
        if left <= 0:
            break
        print(json.dumps({"progress": 1 - left / spec.seconds}), file=sys.stderr, flush=True)
        time.sleep(min(left, LOOKED_EVERY_S))
    drawn_a = session.figure(MEASURED["current"])
    session.no_error()
    if abs(drawn_a) < LEAST_DRAWN * spec.load_a:
        raise Trouble(f"it was to draw {spec.load_a:g} A and draws {abs(drawn_a):.3g} A: is the cell connected?")
    return {"rest_v": rest_v, "loaded_v": loaded_v, "drawn_a": float(f"{abs(drawn_a):.4g}")}


def _recorded(session: Session, spec: Spec) -> Recording:
    import numpy as np

    from ember_core.traces import Recording

    count = max(round(spec.seconds * spec.rate_hz), 20)
    session.tell(f"SAMPle:COUNt {count}")
    session.tell(f"SAMPle:TIMer {1 / spec.rate_hz:.9g}")
    session.tell(f"TRIGger:SOURce {'IMMediate' if spec.level_a is None else 'INTernal'}")
    if spec.level_a is not None:
        session.tell(f"TRIGger:LEVel {spec.level_a:.6g}")
    session.no_error()
    session.tell("INITiate")
    session.no_error()
    pieces: list[np.ndarray] = []
    have, last = 0, time.monotonic()
    while have < count:
        ready = session.figure("DATA:POINts?")
        if ready >= 1:
            piece = session.samples(int(min(ready, READ_AT_ONCE)))
            if not piece.size:
                raise Trouble("it says that samples are there and gives none")
            pieces.append(piece)
            have, last = have + piece.size, time.monotonic()
            print(json.dumps({"progress": have / count}), file=sys.stderr, flush=True)
        elif time.monotonic() - last > STALLED_S + 2 / spec.rate_hz:
            raise Trouble(f"no sample came for {STALLED_S:g} s; {have} of {count} are there")
        else:
            time.sleep(PAUSE_S)
    session.no_error()
    amps = np.concatenate(pieces)[:count]
    good = np.isfinite(amps)
    if good.sum() < 20:
        raise Trouble("hardly a sample is a number")
    time_s = np.arange(amps.size) / spec.rate_hz
    return Recording(time_s[good] - time_s[good][0], amps[good], dropped=int((~good).sum()))


def switch_off(spec: Spec, session: Session | None = None) -> bool:
    """Switches the output, or the load, off and looks whether it is, over the open connection or else a new one."""
    for attempt in range(3):
        with suppress(Exception):
            own = session if session is not None and attempt == 0 else Session(spec, OFF_WITHIN_S)
            own.tell(f"{spec.switch} OFF")
            if own.ask(f"{spec.switch}?").strip() in ("0", "OFF"):
                return True
    return False


def _measuring(spec: Spec, watcher: int) -> int:
    """The measuring process: ends when its watcher does, and never without switching off."""
    ctypes.CDLL(None).prctl(DEATH_SIGNAL, signal.SIGTERM)

    def end(*_: object) -> NoReturn:
        raise Trouble("it was given up")

    signal.signal(signal.SIGTERM, end)
    packed = b""
    try:
        told, packed = do(spec, watcher)
    except Trouble as trouble:
        told = {"problem": str(trouble)}
    sys.stdout.buffer.write(json.dumps(told).encode() + b"\n" + packed)
    return 0


def _watching(text: str, spec: Spec) -> int:
    """The watcher: begins the measuring, and sees to it that the output is off afterwards, however that ends."""
    parent, over = os.getppid(), False
    ctypes.CDLL(None).prctl(DEATH_SIGNAL, signal.SIGTERM)

    def end(*_: object) -> None:
        nonlocal over
        over = True

    signal.signal(signal.SIGTERM, end)
    reading, writing = os.pipe()
    command = [sys.executable, "-m", "instruments.driver", "--measure", str(writing), text]
    child = subprocess.Popen(command, pass_fds=(writing,))
    os.close(writing)
    while child.poll() is None:
        if over or os.getppid() != parent:
            child.terminate()
            with suppress(subprocess.TimeoutExpired):
                child.wait(ANSWERS_WITHIN_S + OFF_WITHIN_S)
            child.kill()
        time.sleep(PAUSE_S)
    said = os.read(reading, 100)
    if spec.switches and SWITCHED_OFF not in said:
        switch_off(spec)
    return child.returncode


def main(arguments: list[str]) -> int:
    text = arguments[-1]
    spec = Spec(**json.loads(text))
    return _measuring(spec, int(arguments[1])) if arguments[0] == "--measure" else _watching(text, spec)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
