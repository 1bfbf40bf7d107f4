"""`manage.py scratch_database create|drop`: an empty database beside the real one, for measurements."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import connection

NAME = "test_ember"


class Command(BaseCommand):
    help = "Makes or drops the scratch database."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("what", choices=["create", "drop"])

    def handle(self, *args: Any, what: str = "", **options: Any) -> None:
        with connection.cursor() as cursor:
            cursor.execute(f"DROP DATABASE IF EXISTS {NAME}")
            if what == "create":
                cursor.execute(f"CREATE DATABASE {NAME} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci")
