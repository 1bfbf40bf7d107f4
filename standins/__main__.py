"""`python -m standins --design FILE.json [--port N] [--fault NAME] [--more-at-rest AMPS] [--speed N]`: an instrument with a gadget at its terminals."""

from __future__ import annotations

import argparse
import sys
from contextlib import suppress
from pathlib import Path
from typing import get_args

from ember_core import DocumentError, read_design
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench

from .gadget import BenchGadget
from .hislip import HislipServer
from .instrument import Fault, InstrumentServer, Unit

PORT = 5025


def main() -> int:
    parser = argparse.ArgumentParser(prog="ember standin", description=__doc__)
    parser.add_argument("--design", type=Path, required=True, help="the gadget at its terminals (JSON)")
    parser.add_argument("--port", type=int, default=PORT)
    parser.add_argument("--fault", choices=get_args(Fault), default="none")
    parser.add_argument(
        "--more-at-rest", type=float, default=0.0, help="what the gadget draws at rest beyond its design [A]"
    )
    parser.add_argument("--speed", type=float, default=1.0, help="seconds of its life that pass in one")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--hislip", action="store_true", help="by HiSLIP, not over a raw socket")
    chosen = parser.parse_args()
    try:
        bench = TrialBench(read_design(chosen.design.read_bytes()), built_in())
    except OSError as error:
        print(f"{chosen.design}: {error.strerror}", file=sys.stderr)
        return 2
    except DocumentError as error:
        print(f"{chosen.design}: {error.problems[0].message}", file=sys.stderr)
        return 1
    gadget = BenchGadget.of(bench, chosen.seed, chosen.more_at_rest)
    by = HislipServer if chosen.hislip else InstrumentServer
    with by(Unit(gadget, chosen.fault, chosen.speed), chosen.port) as server:
        print(
            f"a stand-in for a source-measure unit at 127.0.0.1:{server.port}, with {bench.design.name} at its terminals; Ctrl-C ends it"
        )
        with suppress(KeyboardInterrupt):
            server.serve_forever()
    return 0


if __name__ == "__main__":
    sys.exit(main())
