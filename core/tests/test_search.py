"""The catalogue is found by what people call things."""

from __future__ import annotations

import time
import unittest

from ember_core.catalogue import built_in
from ember_core.catalogue.search import _distance, search


class Searching(unittest.TestCase):
    def first(self, kind: str, text: str) -> str:
        entries = [e for e in built_in().entries if e.kind == kind]
        found = search(entries, text)
        return found[0].key if found else "nothing"

    def test_what_newcomers_type_finds_what_they_mean(self) -> None:
        wanted = {
            "wifi": ("part-ctl-dual", "part-board-radio-bridge", "part-board-radio-frugal"),
            "microcontroller": ("part-ctl-",), "MCU": ("part-ctl-",), "bluetooth": ("part-ctl-short", "part-radio-short-module"),
            "reed": ("part-contact-reed",), "tact switch": ("part-button",), "push button": ("part-button",), "button": ("part-button",),
            "white LED": ("part-led-white",), "red led": ("part-led-red",), "NTC": ("part-thermistor",), "LDR": ("part-light-resistor",),
            "PIR": ("part-sensor-presence",), "OLED": ("part-display-oled", "part-oled-small"), "epaper": ("part-epaper", "part-display-paper"),
            "e-paper": ("part-epaper", "part-display-paper"), "gps": ("part-receiver",), "long range radio": ("part-radio-long",), "sd card": ("part-card",),
            "servo": ("part-servo",), "pixels": ("part-light-addressed", "part-light-strip-colours"), "buzzer": ("part-buzzer",),
            "potentiometer": ("part-knob",), "usb c": ("part-socket-usb-c",), "temperature": ("part-",), "mic": ("part-mic", "part-microphone"),
            "accelerometer": ("part-sensor-motion", "part-sensor-nine"), "hall sensor": ("part-sensor-hall",), "rtc": ("part-clock",),
            "battery connector": ("part-plug-battery",), "speaker": ("part-speaker",), "switch": ("part-switch",), "joystick": ("part-joystick",),
            "encoder": ("part-encoder",), "stepper": ("part-motor-stepper",),
        }  # fmt: skip
        for text, keys in wanted.items():
            with self.subTest(text):
                self.assertTrue(self.first("part", text).startswith(keys), f"{text}: {self.first('part', text)}")

    def test_cells_and_stages(self) -> None:
        for kind, text, part in (("cell", "lipo", "pouch"), ("cell", "lipo 500", "pouch"), ("cell", "cr2032", "2032"), ("cell", "nimh aaa", "aaa"),
                                 ("cell", "AA", "aa"), ("cell", "lifepo4", "iron"), ("stage", "ldo", "linear"), ("stage", "step-up", "boost"),
                                 ("stage", "boost 5", "boost")):  # fmt: skip
            with self.subTest(text):
                entries = [e for e in built_in().entries if e.kind == kind]
                found = search(entries, text)
                self.assertTrue(found, text)
                said = f"{found[0].key} {found[0].name} {found[0].model_dump_json()}".lower()
                self.assertIn(part, said)

    def test_slips_and_beginnings(self) -> None:
        for text, key in (("buton", "part-button"), ("buzer", "part-buzzer"), ("thermstor", "part-thermistor"), ("joystik", "part-joystick"),
                          ("microcontoller", "part-ctl-"), ("bluetoth", "part-"), ("speker", "part-speaker"), ("therm", "part-"), ("acelerometer", "part-sensor-")):  # fmt: skip
            with self.subTest(text):
                self.assertTrue(self.first("part", text).startswith(key), f"{text}: {self.first('part', text)}")
        self.assertEqual(self.first("part", "xyzzy"), "nothing")
        self.assertEqual(self.first("part", "buzzer xyzzy"), "nothing")

    def test_an_empty_or_absurd_text(self) -> None:
        entries = built_in().entries
        for text in ("", "   ", "---", "😀"):
            self.assertEqual(search(entries, text), entries)
        began = time.process_time()
        self.assertEqual(search(entries, "q" * 100_000), [])
        self.assertLess(time.process_time() - began, 2)

    def test_edits_between_words(self) -> None:
        for a, b, n in (
            ("abcd", "abcd", 0),
            ("abcd", "abc", 1),
            ("abcd", "abxd", 1),
            ("abcd", "bacd", 1),
            ("abcd", "badc", 2),
            ("abcd", "wxyz", 3),
        ):
            self.assertEqual(_distance(a, b, 2), n)
