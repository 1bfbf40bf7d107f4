"""The stand-in over HiSLIP (IVI-6.1, protocol 1.0, synchronised): a channel for lines and answers, and one beside it for what must not wait."""

from __future__ import annotations

import itertools
import socketserver
import struct

from .instrument import Unit, answered

HEADER = struct.Struct("!2sBBIQ")  # prologue, type, control code, parameter, length of what follows
INITIALIZE, INITIALIZED, ERROR, LOCK, LOCKED, DATA, DATA_END, CLEARED, CLEAR_KNOWN = 0, 1, 3, 4, 5, 6, 7, 8, 9
MOST_SIZE, MOST_SIZE_KNOWN, BESIDE, BESIDE_KNOWN, CLEAR, STATUS, STATUS_KNOWN, CLEAR_BEGUN = (
    15,
    16,
    17,
    18,
    19,
    21,
    22,
    23,
)
VERSION = 0x0100
LARGEST = 1 << 20


class Handler(socketserver.StreamRequestHandler):
    """One of a client's two connections."""

    def handle(self) -> None:
        unit: Unit = self.server.unit  # type: ignore[attr-defined]
        heard = b""
        while raw := self.rfile.read(HEADER.size):
            if len(raw) < HEADER.size:
                return
            prologue, kind, _, parameter, length = HEADER.unpack(raw)
            if prologue != b"HS" or length > LARGEST:
                return
            payload = self.rfile.read(length)
            if kind == INITIALIZE:
                self.say(INITIALIZED, VERSION << 16 | next(self.server.sessions) & 0xFFFF)  # type: ignore[attr-defined]
            elif kind == BESIDE:
                self.say(BESIDE_KNOWN, int.from_bytes(b"FE", "big"))
            elif kind == MOST_SIZE:
                self.say(MOST_SIZE_KNOWN, 0, struct.pack("!Q", LARGEST))
            elif kind == LOCK:
                self.say(LOCKED, 0, control=1)
            elif kind in (CLEAR, CLEARED):
                heard = b""
                self.say(CLEAR_BEGUN if kind == CLEAR else CLEAR_KNOWN, 0)
            elif kind == STATUS:
                self.say(STATUS_KNOWN, 0)
            elif kind in (DATA, DATA_END):
                heard += payload
                if kind == DATA_END:
                    with unit.lock:
                        said = answered(unit, heard.decode("ascii", "replace"))
                    heard = b""
                    if said is not None and unit.fault != "silent":
                        self.say(DATA_END, parameter, said)
            else:
                self.say(ERROR, 0, b"unrecognized message type", control=1)

    def say(self, kind: int, parameter: int, payload: bytes = b"", control: int = 0) -> None:
        self.wfile.write(HEADER.pack(b"HS", kind, control, parameter, len(payload)) + payload)


class HislipServer(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, unit: Unit, port: int = 0, host: str = "127.0.0.1") -> None:
        super().__init__((host, port), Handler)
        self.unit = unit
        self.sessions = itertools.count(1)

    @property
    def port(self) -> int:
        return int(self.server_address[1])
