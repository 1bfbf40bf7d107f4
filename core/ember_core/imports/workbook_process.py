"""`python -m ember_core.imports.workbook_process`: reads a workbook from its standard input in a process that may take so much memory and
time and no more, and prints its sheets as JSON: `{"sheets": [...]}`, or `{"problem": "..."}`."""

from __future__ import annotations

import json
import resource
import sys

from ..design.problems import DocumentError
from ..figures import as_json
from .workbook import LARGEST_BYTES, read_sheets

MOST_MEMORY = 600 << 20
MOST_SECONDS = 8


def main() -> int:
    resource.setrlimit(resource.RLIMIT_AS, (2 * MOST_MEMORY, 2 * MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    raw = sys.stdin.buffer.read(LARGEST_BYTES + 1)
    try:
        sheets = read_sheets(raw)
    except DocumentError as error:
        print(json.dumps({"problem": error.problems[0].message}))
    except MemoryError:
        print(json.dumps({"problem": "takes more memory than a table of parts needs; it is not read"}))
    else:
        sys.stdout.write('{"sheets": ' + as_json(sheets).decode() + "}\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
