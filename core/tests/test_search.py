"""The catalogue is found by what people call things."""

from __future__ import annotations

import time
import unittest

from ember_core.catalogue import built_in
from ember_core.catalogue.search import _distance, search

EVERYDAY = {
    "part": """
        lcd 2.4 | 2.4 inch
        battery holder | Battery holder
        aa holder | AA
        2xAA | 2 × AA
        4xAA | 4 × AA
        18650 holder | 1 × 18650
        9v clip | 9 V block
        antenna | Antenna
        aerial | Antenna
        sma | Antenna socket
        gps antenna | patch
        lora | Long-range
        lorawan | Long-range
        solar panel | Solar panel
        solar 2w | 2 W
        cable gland | gland
        usb c | Type-C
        usb-c | Type-C
        waterproof usb | sealed
        micro usb | Micro USB
        screw m3 | M3
        insert | insert
        heatset | insert
        perfboard | Bare board
        pcb | Bare board
        pir | passive infrared
        oled 1.3 | 1.3 inch
        epaper 2.13 | 2.13 inch
        e-ink | E-paper
        push button | Push button
        servo | servo
        relay | elay
        temp sensor | Climate
        humidity | Climate
        barometer | pressure
        co2 | Carbon
        gps | Positioning
        buzzer | buzzer
        speaker | Speaker
        sd card | Memory card
        hall sensor | Magnet
        rtc | clock
        fan | fan
        pump | pump
        motor driver | driver
        camera | Camera
        rgb led | olour
        white led | White LED
        vibration | Vibration
        wifi board | radio board
        light strip | strip
        small display | Small OLED
        load cell | Load cell
        joystick | Joystick
        rotary encoder | Rotary
        potentiometer | potentiometer
        thermistor | Thermistor
        ldr | Light-dependent
        reed switch | Reed
        tilt sensor | Tilt
        accelerometer | Motion
        heart rate | pulse
        radar | radar
        soil moisture | Soil
        rfid | tag reader
        stepper | stepping
        uv led | ltraviolet
        ir led | Infrared
        amplifier | amplifier
        mic | icrophone
        rubber feet | feet
        pogo | pads
        header | header
    """,
    "cell": """
        18650 | 18650
        AG13 | LR44
        LR44 | LR44
        sr44 | SR44
        357 | SR44
        9V | 9 V block
        9v battery | 9 V block
        pp3 | 9 V block
        6lr61 | 6LR61
        AA | AA
        aaa | AAA
        mignon | AA
        CR2032 | CR2032
        2032 | 2032
        lir2032 | LIR2032
        rechargeable coin | LIR
        coin cell | Coin
        button cell | Button
        hearing aid | zinc-air
        lipo 100mah | 100 mAh
        lipo 500 | 500 mAh
        1000mah | 1000 mAh
        lead acid 12v | 12 V
        sla | Lead-acid
        6v | 6 V
        cr123 | CR123
        lto | titanate
        lifepo4 18650 | Iron phosphate 18650
        supercap | Super-capacitor
        rechargeable aa | AA rechargeable
        nimh aaa | AAA rechargeable
        4.35 | 4.35 V
        power bank | Power bank
        a23 | 23A
        thionyl | thionyl
        d cell | D alkaline
    """,
    "stage": """
        ldo 3.3 | Linear regulator 3.3 V
        3.3v | 3.3 V
        step down 24v | Buck
        buck 12v | Buck 12 V
        boost 5v | Boost 5 V
        step-up 5v | Boost 5 V
        2s protection | two lithium
        bms 3s | three lithium
        buck-boost | Buck-boost
        load switch | Load switch
        fuse | fuse
        diode | diode
        adjustable | adjustable
        nanoamps | nanoamps
        charge pump | Charge pump
    """,
    "charger": """
        usb c | type-C
        lifepo4 | Iron phosphate
        solar | Solar
        lead acid | Lead-acid
        wireless | Wireless
        nimh | Nickel
        2s | two in series
        4.35 | 4.35
        coin | coin
    """,
}


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

    def test_everyday_words(self) -> None:
        """What is typed, in which list, and how the first that is found begins."""
        rows = 0
        for kind, table in EVERYDAY.items():
            for line in table.strip().splitlines():
                text, name = (x.strip() for x in line.split("|"))
                with self.subTest(f"{kind}: {text}"):
                    found = search([e for e in built_in().entries if e.kind == kind], text)
                    self.assertTrue(found, "nothing")
                    self.assertIn(name, found[0].name)
                    rows += 1
        self.assertGreaterEqual(rows, 110)

    def test_a_number_is_that_number(self) -> None:
        parts = [e for e in built_in().entries if e.kind == "part"]
        self.assertEqual([e.key for e in search(parts, "2.4 inch")], ["part-display-lcd-24"])
        self.assertEqual([e.key for e in search(parts, "2,4 inch")], ["part-display-lcd-24"])
        self.assertEqual([e.key for e in search(parts, "4.2inch")], ["part-epaper-42"])
        self.assertNotIn("part-sensor-load", [e.key for e in search(parts, "lora")])
        cells = [e for e in built_in().entries if e.kind == "cell"]
        self.assertTrue(all("9 V" in e.name for e in search(cells, "9V")))

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
