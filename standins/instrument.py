"""A source-measure unit, an electronic load or a thermometer over a raw socket: IEEE 488.2 and SCPI-99 commands, one line each, a gadget at its terminals.

`*IDN?`, `*RST`, `*CLS`, `*OPC?`, `SYSTem:ERRor?`; `SOURce:VOLTage`, `SOURce:CURRent:LIMit`, `OUTPut:STATe` and their queries; `SOURce:CURRent`,
`INPut:STATe` of a load on a cell; `MEASure:CURRent?`, `MEASure:VOLTage?`, `MEASure:TEMPerature?`; `SENSe:CURRent:RANGe`, `SAMPle:COUNt`,
`SAMPle:TIMer`, `TRIGger:SOURce IMMediate|INTernal`, `TRIGger:LEVel`, `INITiate`,
`DATA:POINts?`, `DATA:REMove? n` (a definite block of 32 bit floats, most significant byte first).
"""

from __future__ import annotations

import re
import socketserver
import struct
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Lock
from typing import Literal

import numpy as np

from .gadget import BenchGadget

Fault = Literal["none", "silent", "garbage", "stops", "slow", "errors", "drops", "saturates", "units"]
IDENTITY = "FRUGAL EMBER,STAND-IN SMU,0001,1.0"
MOST_LINE = 4096
MOST_SAMPLES = 10_000_000
MOST_READ = 100_000
SHUNT_OHM = 0.2
NOISE = 0.002
SLOW_S = 3.0
STOPS_AFTER = 500  # samples
SATURATES = 0.3  # of the largest current
NO_ERROR = '0,"No error"'


@dataclass
class Unit:
    """The instrument itself: what was set, what it sees. `speed`: so many seconds of the gadget's life pass in one."""

    gadget: BenchGadget
    fault: Fault = "none"
    speed: float = 1.0
    volts: float = 0.0
    limit_a: float = 0.1
    on: bool = False
    load_a: float = 0.0
    loads: bool = False  # the load is on
    draws: float = 1.0  # of what it was set to
    cell_v: float = 3.9  # of the cell that a load is at, at rest
    cell_ohm: float = 0.08
    air_c: float = 23.4
    range_a: float = 1.0
    count: int = 1
    step_s: float = 1e-3
    level_a: float | None = None
    began: float | None = None  # when the trace did, by the clock
    first_s: float = 0.0  # of the gadget's time then
    taken: int = 0
    errors: list[str] = field(default_factory=list)
    lock: Lock = field(default_factory=Lock)
    noise: np.random.Generator = field(default_factory=lambda: np.random.default_rng(7))

    def life_s(self) -> float:
        return time.monotonic() * self.speed

    def seen_a(self, begin_s: float, count: int) -> np.ndarray:
        """What it measures [A]: through its shunt, with noise, up to its range and its limit; of a load what it draws."""
        if self.loads:
            return self.draws * self.load_a * (1 + self.noise.normal(0, NOISE, count))
        if not self.on:
            return self.noise.normal(0, 1e-8, count)
        drawn = self.gadget.drawn_a(begin_s, count, self.step_s, self.volts)
        seen = np.minimum(drawn * (1 + self.noise.normal(0, NOISE, count)), min(self.range_a, self.limit_a))
        if self.fault == "saturates":
            seen = np.minimum(seen, SATURATES * float(self.gadget.loop_a.max()))
        return seen * 1000 if self.fault == "units" else seen

    def ready(self) -> int:
        """Samples that are there to be read."""
        if self.began is None:
            return 0
        passed = (time.monotonic() - self.began) * self.speed
        return min(int(passed / self.step_s), self.count) - self.taken

    def read(self, wanted: int) -> bytes:
        count = min(wanted, self.ready(), MOST_READ)
        amps = self.seen_a(self.first_s + self.taken * self.step_s, count)
        self.taken += count
        if self.fault == "drops":
            amps[self.noise.random(count) < 0.05] = np.nan
        raw = amps.astype(">f4").tobytes()
        size = str(len(raw))
        return f"#{len(size)}{size}".encode() + raw + b"\n"

    def reset(self) -> None:
        self.volts, self.limit_a, self.on, self.began, self.level_a = 0.0, 0.1, False, None, None
        self.load_a, self.loads = 0.0, False

    def trigger(self, source: str) -> None:
        self.level_a = None if source.upper().startswith("IMM") else self.level_a or 0.0

    def seen_v(self) -> float:
        """At its terminals [V]: what it gives less its shunt's drop, or the cell that it is at."""
        if self.on:
            return self.volts - float(self.seen_a(self.life_s(), 1)[0]) * SHUNT_OHM
        return self.cell_v - (self.load_a * self.cell_ohm if self.loads else 0.0)

    def begin(self) -> None:
        if self.fault == "errors":
            self.errors.append('-350,"Queue overflow"')
        self.began, self.taken, self.first_s = time.monotonic(), 0, self.life_s()
        if self.level_a is not None and self.on:  # from where the current rises over the level
            ahead = self.seen_a(self.first_s, int(60.0 / self.step_s))
            over = np.flatnonzero((ahead[1:] >= self.level_a) & (ahead[:-1] < self.level_a))
            self.first_s += (float(over[0]) if over.size else 0.0) * self.step_s


def _number(low: float, high: float, set_it: Callable[[Unit, float], object]) -> Callable[[Unit, str], bytes | None]:
    """A command with a number between two bounds."""

    def done(unit: Unit, text: str) -> bytes | None:
        try:
            value = float(text)
        except ValueError:
            value = float("nan")
        if not low <= value <= high:
            unit.errors.append('-222,"Data out of range"')
            return None
        found = set_it(unit, value)
        return found if isinstance(found, bytes) else None

    return done


def _sets(name: str, kind: type = float) -> Callable[[Unit, float], object]:
    return lambda unit, value: setattr(unit, name, kind(value))


def _says(what: Callable[[Unit], str]) -> Callable[[Unit, str], bytes | None]:
    return lambda unit, _: f"{what(unit)}\n".encode()


def _does(what: Callable[[Unit, str], object]) -> Callable[[Unit, str], bytes | None]:
    def done(unit: Unit, text: str) -> bytes | None:
        what(unit, text)
        return None

    return done


COMMANDS: tuple[tuple[str, Callable[[Unit, str], bytes | None]], ...] = (
    (r"\*IDN\?", _says(lambda u: IDENTITY)),
    (r"\*RST", _does(lambda u, _: u.reset())),
    (r"\*CLS", _does(lambda u, _: u.errors.clear())),
    (r"\*OPC\?", _says(lambda u: "1")),
    (r"SYST(EM)?:ERR(OR)?(:NEXT)?\?", _says(lambda u: u.errors.pop(0) if u.errors else NO_ERROR)),
    (r"SOUR(CE)?:VOLT(AGE)? (?P<x>\S+)", _number(0.0, 30.0, _sets("volts"))),
    (r"SOUR(CE)?:VOLT(AGE)?\?", _says(lambda u: f"{u.volts:.6E}")),
    (r"SOUR(CE)?:CURR(ENT)?:LIM(IT)? (?P<x>\S+)", _number(0.0, 10.0, _sets("limit_a"))),
    (r"SOUR(CE)?:CURR(ENT)? (?P<x>\S+)", _number(0.0, 30.0, _sets("load_a"))),
    (r"INP(UT)?(:STAT(E)?)? (?P<x>\S+)", _does(lambda u, text: setattr(u, "loads", text.upper() in ("1", "ON")))),
    (r"INP(UT)?(:STAT(E)?)?\?", _says(lambda u: "1" if u.loads else "0")),
    (r"MEAS(URE)?:TEMP(ERATURE)?\?", _says(lambda u: f"{u.air_c + float(u.noise.normal(0, 0.05)):.6E}")),
    (r"OUTP(UT)?(:STAT(E)?)? (?P<x>\S+)", _does(lambda u, text: setattr(u, "on", text.upper() in ("1", "ON")))),
    (r"OUTP(UT)?(:STAT(E)?)?\?", _says(lambda u: "1" if u.on else "0")),
    (r"MEAS(URE)?:CURR(ENT)?(:DC)?\?", _says(lambda u: f"{float(u.seen_a(u.life_s(), 20).mean()):.6E}")),
    (r"MEAS(URE)?:VOLT(AGE)?(:DC)?\?", _says(lambda u: f"{u.seen_v():.6E}")),
    (r"SENS(E)?:CURR(ENT)?:RANG(E)? (?P<x>\S+)", _number(1e-6, 10.0, _sets("range_a"))),
    (r"SAMP(LE)?:COUN(T)? (?P<x>\S+)", _number(1, MOST_SAMPLES, _sets("count", int))),
    (r"SAMP(LE)?:TIM(ER)? (?P<x>\S+)", _number(1e-5, 1e3, _sets("step_s"))),
    (r"TRIG(GER)?:SOUR(CE)? (?P<x>\S+)", _does(lambda u, text: u.trigger(text))),
    (r"TRIG(GER)?:LEV(EL)? (?P<x>\S+)", _number(0.0, 10.0, _sets("level_a"))),
    (r"INIT(IATE)?(:IMM(EDIATE)?)?", _does(lambda u, _: u.begin())),
    (r"DATA:POIN(TS)?\?", _says(lambda u: str(u.ready()))),
    (r"DATA:REM(OVE)?\? (?P<x>\S+)", _number(1, MOST_READ, lambda u, n: u.read(int(n)))),
)


def answered(unit: Unit, line: str) -> bytes | None:
    """What the instrument says to a line; None: nothing. What it does not know goes to its error queue."""
    for pattern, done in COMMANDS:
        found = re.fullmatch(pattern, line.strip(), re.IGNORECASE)
        if found:
            return done(unit, found.groupdict().get("x", ""))
    unit.errors.append('-113,"Undefined header"')
    return None


class Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        unit: Unit = self.server.unit  # type: ignore[attr-defined]
        while line := self.rfile.readline(MOST_LINE):
            with unit.lock:
                said = answered(unit, line.decode("ascii", "replace"))
            if unit.fault == "slow":
                time.sleep(SLOW_S)
            if unit.fault == "silent" or said is None:
                continue
            if unit.fault == "garbage":
                said = b"\x00\xfe?!\n"
            if unit.fault == "stops" and unit.taken >= STOPS_AFTER:
                return  # in the middle
            try:
                self.wfile.write(said)
            except OSError:
                return


class InstrumentServer(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, unit: Unit, port: int = 0, host: str = "127.0.0.1") -> None:
        super().__init__((host, port), Handler)
        self.unit = unit

    @property
    def port(self) -> int:
        return int(self.server_address[1])


def block(raw: bytes) -> np.ndarray:
    """The figures of a definite block: the other side of `Unit.read`, for tests."""
    size = int(raw[2 : 2 + int(raw[1:2])])
    body = raw[2 + int(raw[1:2]) :][:size]
    return np.array(struct.unpack(f">{size // 4}f", body))
