"""`manage.py restore FILE`: what a backup holds, in place of what is there; that is backed up before."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from ...backup import BackupError, back_up, restore


class Command(BaseCommand):
    help = "Puts a backup in place of what is there."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, file: Path, **options: Any) -> None:
        folder = settings.VAR / "backups"
        try:
            folder.mkdir(mode=0o700, exist_ok=True)
            before = folder / f"before-restore-{datetime.now():%Y%m%d-%H%M%S-%f}.zip"
            back_up(before)
            counts = restore(file)
        except BackupError as error:
            raise CommandError(f"{error}. Nothing was changed") from None
        except OSError as error:
            raise CommandError(
                f"{error.filename or file} can't be used: {error.strerror}. Nothing was changed"
            ) from None
        self.stdout.write(f"put back: {', '.join(f'{n} of {label}' for label, n in counts.items()) or 'nothing'}")
        self.stdout.write(f"what was there before is in {before}; everybody signs in again")
