#!/usr/bin/env python
"""Django's command line for the server."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent

if __name__ == "__main__":
    import os

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
    sys.path[:0] = [str(ROOT / "core"), str(ROOT / "server"), str(ROOT)]
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
