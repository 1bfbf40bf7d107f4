"""`manage.py backup FILE`: everything that people made, as one file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from ...backup import BackupError, back_up


class Command(BaseCommand):
    help = "Writes a backup."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, file: Path, **options: Any) -> None:
        try:
            counts = back_up(file)
        except BackupError as error:
            raise CommandError(str(error)) from None
        except OSError as error:
            raise CommandError(f"{file} can't be written: {error.strerror}") from None
        self.stdout.write(f"{file}: " + ", ".join(f"{n} of {label}" for label, n in counts.items()))
