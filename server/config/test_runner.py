"""Django's test runner with closing lines that count and tell what took longest, and copies of the database for parallel runs without another program."""

from __future__ import annotations

import sys
import time
import unittest
from pathlib import Path
from types import MethodType
from typing import Any

from django.conf import settings
from django.db import connection
from django.test.runner import DiscoverRunner

SLOWEST = 12


class CountingRunner(DiscoverRunner):
    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        self.times = Path(__file__).parents[2] / "var" / "test-times.tsv"
        _timed(self.times)
        # the real hashers are slow on purpose
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def setup_databases(self, **kwargs: Any) -> Any:
        setattr(connection.creation, "_clone_test_db", MethodType(_copy_database, connection.creation))  # noqa: B010
        return super().setup_databases(**kwargs)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        rows = [line.split("\t") for line in self.times.read_text().splitlines()]
        for seconds, name in sorted(((float(s), n) for s, n in rows), reverse=True)[:SLOWEST]:
            print(f"{seconds:6.1f} s  {name}")
        print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)


def _timed(file: Path) -> None:
    """Each test, in whichever process, adds a line with its seconds to a file."""
    file.parent.mkdir(exist_ok=True)
    file.write_text("")
    plain = unittest.TestCase.run

    def run(self: unittest.TestCase, result: unittest.TestResult | None = None) -> unittest.TestResult | None:
        begun = time.monotonic()
        try:
            return plain(self, result)
        finally:
            with file.open("a") as lines:
                lines.write(f"{time.monotonic() - begun:.2f}\t{self.id()}\n")

    unittest.TestCase.run = run  # type: ignore[method-assign]


def _copy_database(creation: Any, suffix: str, verbosity: int, keepdb: bool = False) -> None:
    """A database of its own for one of the parallel processes: the same tables with the same keys and rows. Django would
    ask for `mysqldump`, which the application does not need."""
    source = creation.connection.settings_dict["NAME"]
    target = creation.get_test_db_clone_settings(suffix)["NAME"]
    if verbosity > 1:
        sys.stderr.write(f"Copying the test database to {target}\n")
    with creation._nodb_cursor() as cursor:
        cursor.execute(f"DROP DATABASE IF EXISTS `{target}`")
        cursor.execute(f"CREATE DATABASE `{target}` {creation.sql_table_creation_suffix()}")
        cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
        cursor.execute(f"SHOW TABLES FROM `{source}`")
        for (table,) in cursor.fetchall():
            cursor.execute(f"SHOW CREATE TABLE `{source}`.`{table}`")
            made = cursor.fetchone()[1]
            cursor.execute(f"USE `{target}`")
            cursor.execute(made)
            cursor.execute(f"INSERT INTO `{target}`.`{table}` SELECT * FROM `{source}`.`{table}`")
        cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
