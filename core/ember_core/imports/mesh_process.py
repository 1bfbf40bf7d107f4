"""`python -m ember_core.imports.mesh_process body|case NAME [UNIT]`: reads a body, or a case, from its standard input in a process that may take so much memory
and time and no more, and prints it as JSON: `{"body": ...}`, or `{"problem": ...}`."""

from __future__ import annotations

import json
import resource
import sys

from ..design.problems import DocumentError
from ..figures import as_json
from .mesh import LARGEST_BYTES, read_mesh

MOST_MEMORY = 1 << 30
MOST_SECONDS = 30


def main(arguments: list[str]) -> int:
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    raw = sys.stdin.buffer.read(LARGEST_BYTES + 1)
    try:
        kind, name, *unit = arguments
        found = read_mesh(raw, name, unit[0] if unit else None, as_case=kind == "case")  # type: ignore[arg-type]
    except DocumentError as error:
        print(json.dumps({"problem": error.problems[0].message}))
    except MemoryError:
        print(json.dumps({"problem": f"it needs more than {MOST_MEMORY >> 20} MB of memory. Export it more coarsely"}))
    else:
        sys.stdout.write('{"body": ' + as_json(found).decode() + "}\n")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
