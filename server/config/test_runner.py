"""Django's test runner with a closing line that counts."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        # the real hashers are slow on purpose
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)
