"""Transactions that are tried again."""

from __future__ import annotations

from django.db import OperationalError
from django.test import TestCase, TransactionTestCase

from common.transactions import DEADLOCK, TRIES, atomic_with_retry


class Deadlocks(TransactionTestCase):
    calls = 0

    def calls_until_success(self, failures: int, code: int = DEADLOCK) -> int:
        self.calls = 0

        @atomic_with_retry
        def work() -> int:
            self.calls += 1
            if self.calls <= failures:
                raise OperationalError(code, "no")
            return self.calls

        return work()

    def test_the_work_is_repeated_after_a_deadlock(self) -> None:
        self.assertEqual(self.calls_until_success(TRIES - 1), TRIES)

    def test_it_is_given_up_at_last_and_other_errors_pass_at_once(self) -> None:
        with self.assertRaises(OperationalError):
            self.calls_until_success(TRIES)
        with self.assertRaises(OperationalError):
            self.calls_until_success(1, code=1045)
        self.assertEqual(self.calls, 1)


class Nested(TestCase):
    def test_inside_another_transaction_nothing_is_repeated(self) -> None:
        calls = []

        @atomic_with_retry
        def work() -> None:
            calls.append(1)
            raise OperationalError(DEADLOCK, "no")

        with self.assertRaises(OperationalError):
            work()
        self.assertEqual(len(calls), 1)
