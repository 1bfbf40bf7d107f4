"""How long and how often, as it is typed and as it is said again."""

from __future__ import annotations

import random
import unittest

from ember_core.design import Session, Wake
from ember_core.load.occasion_text import read_occasion, say_occasion
from ember_core.quantities import QuantityError

READ = {
    "2 s every 15 min": (2, 900, None),
    "2s every 15min": (2, 900, None),
    "2 s, every 15 min": (2, 900, None),
    "every 15 min for 2 s": (2, 900, None),
    "30 s every hour": (30, 3600, None),
    "30 s an hour": (30, 3600, None),
    "1 h 30 min every 6 h": (5400, 21600, None),
    "0,5 s every 2 h": (0.5, 7200, None),
    "10 ms every second": (0.01, 1, None),
    "10 min twice a day": (600, None, 2),
    "10 min 2 x a day": (600, None, 2),
    "5 min 96 × a day": (300, None, 96),
    "5 min, 12 times a day": (300, None, 12),
    "three times a day for 20 min": (1200, None, 3),
    "20 min three times a day": (1200, None, 3),
    "8 h a day": (28800, None, 1),
    "8 h every night": (28800, None, 1),
    "10 min daily": (600, None, 1),
    "2 h once a week": (7200, None, 1 / 7),
    "twice a week for 2 h": (7200, None, 2 / 7),
    "3 h a month": (10800, None, 12 / 365.25),
    "1 min every 2 days": (60, None, 0.5),
    "1 min every other day": (60, None, 0.5),
    "1 s every two hours": (1, 7200, None),
    "20 s 4 times an hour": (20, None, 96),
    "20 min at 7:30 and 18:00": (1200, None, 2),
    "20 min at 7:30, 12:00 and 18:00": (1200, None, 3),
}
REFUSED = (
    "", "2 s", "every 15 min", "often", "20 min every 15 min", "13 h twice a day", "-2 s every 15 min", "0 s every hour", "2 s every 0 s", "2 s every soon",
    "2 A every 15 min", "2 s 0 times a day", "2 s every 15", "5 min at 25:00", "5 min at 7:00 and 7:00", "nan s every hour", "1e400 s every hour",
    "2 s " * 40, "2 s every", "for every for", "x" * 70,
)  # fmt: skip


class Occasions(unittest.TestCase):
    def test_what_is_typed(self) -> None:
        for text, (seconds, every, per_day) in READ.items():
            with self.subTest(text):
                found = read_occasion(text)
                self.assertAlmostEqual(found.seconds, seconds)
                self.assertEqual(found.every_s, every)
                if per_day is None:
                    self.assertIsNone(found.per_day)
                else:
                    self.assertAlmostEqual(found.per_day or 0, per_day, places=9)

    def test_hours_by_the_clock_are_in_their_order(self) -> None:
        self.assertEqual(read_occasion("20 min at 18:00 and 7:30").at_h, [7.5, 18.0])

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        for text in REFUSED:
            with self.subTest(text), self.assertRaises(QuantityError) as refused:
                read_occasion(text)
            self.assertGreater(len(str(refused.exception)), 10)

    def test_what_is_said_can_be_typed(self) -> None:
        draw = random.Random(5)
        for _ in range(300):
            seconds, times = draw.choice([0.4, 2, 90, 600, 5400]), draw.choice([1, 2, 3, 12])
            per_day = times / draw.choice([1, 7, 365.25 / 12, 365.25])
            at = draw.sample(range(24), 2) if draw.random() < 0.3 else []
            session = Session(name="S", mode="m", seconds=seconds, per_day=2 if at else per_day, at_h=sorted(at))
            wake = Wake(name="W", mode="m", every_s=seconds * draw.choice([2, 5, 15]), awake_s=seconds)
            with self.subTest(say_occasion(session)):
                found = read_occasion(say_occasion(session))
                self.assertAlmostEqual(found.seconds, seconds)
                self.assertAlmostEqual((found.per_day or 0) / session.per_day, 1, places=6)
                self.assertEqual(found.at_h, session.at_h)
            with self.subTest(say_occasion(wake)):
                self.assertAlmostEqual((read_occasion(say_occasion(wake)).every_s or 0) / wake.every_s, 1, delta=0.01)

    def test_how_it_is_said(self) -> None:
        def session(seconds: float, per_day: float, *at: float) -> str:
            found = Session(name="S", mode="m", seconds=seconds, per_day=per_day, at_h=list(at))
            return say_occasion(found).replace("\u00a0", " ")

        self.assertEqual(session(600, 1), "10 min once a day")
        self.assertEqual(session(600, 96), "10 min, 96 × a day")
        self.assertEqual(session(600, 2 / 7), "10 min twice a week")
        self.assertEqual(session(1200, 3, 7.5, 12, 18), "20 min at 07:30, 12:00 and 18:00")
        self.assertEqual(session(60, 0.3), "1 min once every 3.33 days")
        wake = Wake(name="W", mode="m", every_s=900, awake_s=2)
        self.assertEqual(say_occasion(wake).replace("\u00a0", " "), "2 s every 15 min")


if __name__ == "__main__":
    unittest.main()
