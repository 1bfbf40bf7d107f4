"""Finding entries of the catalogue by what people call them: synonyms, beginnings of words, and small slips.

Every word that is typed has to be found in an entry. What is in its name counts more than what is said about it, a whole
word more than a beginning, a beginning more than another word for it, and that more than a slip of the finger.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from functools import lru_cache

from ..design import Stage
from .entries import Entry

MOST_WORDS, LONGEST_TEXT = 6, 200
WHOLE, BEGINNING, SYNONYM, SLIP = 8.0, 5.0, 4.0, 1.0
IN_NAME = 2.0  # times as much as in what is said about it
PHRASE = 4.0  # all that was typed stands in the name like that
FED_V = (3.0, 3.7, 5.0, 6.0, 7.4, 9.0, 12.0, 24.0)  # what gadgets are fed with
SHORTEST_SLIP = 4  # letters; in shorter words a slip is another word

# What people type, and the words of the entries that they mean by it: any one of them will do, "a+b" wants both.
_SYNONYMS: dict[str, str] = {
    "wifi": "radio+controller radio+board", "wi": "radio+controller radio+board", "wireless": "radio", "bluetooth": "short-range",
    "ble": "short-range", "bt": "short-range",     "mcu": "controller", "microcontroller": "controller", "micro": "controller", "processor": "controller", "cpu": "controller",
    "uc": "controller", "brain": "controller", "devboard": "board", "board": "board computer", "pc": "computer", "linux": "computer",
    "sbc": "computer", "868": "868", "longrange": "long-range", "gsm": "cellular", "lte": "cellular", "4g": "cellular", "nbiot": "narrow", "sim": "cellular card",
    "gps": "positioning", "gnss": "positioning", "position": "positioning", "nfc": "near-field", "rfid": "near-field tag",
    "rtc": "clock", "time": "clock", "dcf": "time-signal",
    "screen": "display", "monitor": "display", "epaper": "e-paper", "paper": "e-paper", "tft": "lcd", "7segment": "digits segment",
    "led": "led light lamp indicator", "diode": "led", "bulb": "light", "flashlight": "torch", "rgb": "colours colour+led", "pixel": "addressable", "pixels": "addressable",
    "strip": "strip", "ir": "infrared", "uv": "ultraviolet", "nightlight": "light", "white": "white",
    "reed": "reed", "hall": "magnet", "magnetic": "magnet", "door": "reed magnet", "tact": "push+button", "tactile": "push+button", "button": "button keys",
    "pushbutton": "push+button", "key": "button keys", "switch": "switch button contact", "rocker": "toggle", "dip": "slide", "potentiometer": "potentiometer",
    "pot": "potentiometer", "poti": "potentiometer", "dial": "knob", "thumbstick": "joystick", "encoder": "stepping+knob", "rotary": "knob",
    "ntc": "thermistor", "ldr": "light-dependent", "photoresistor": "light-dependent", "photocell": "light-dependent", "pir": "presence+passive",
    "motion": "motion presence", "accelerometer": "motion", "gyro": "motion", "gyroscope": "motion", "imu": "motion", "compass": "nine", "tilt": "tilt",
    "temperature": "climate thermometer thermistor temperature", "temp": "climate thermometer thermistor temperature", "humidity": "climate", "thermometer": "thermometer climate",
    "barometer": "pressure", "altitude": "pressure", "co2": "carbon", "voc": "quality", "pm25": "dust", "distance": "distance", "tof": "light-time",
    "sonar": "ultrasonic", "scale": "load", "weight": "load", "soil": "soil", "heart": "pulse", "hrm": "pulse", "touch": "touch",
    "mic": "microphone", "mike": "microphone", "electret": "electret", "audio": "sound speaker amplifier", "loudspeaker": "speaker", "beeper": "buzzer",
    "piezo": "piezo", "headphone": "headphone", "jack": "sound+socket barrel", "sd": "memory+card", "sdcard": "memory+card", "microsd": "memory+card",
    "eeprom": "memory", "fram": "ferroelectric", "vibrator": "vibration", "haptic": "vibration", "stepper": "stepping+motor", "actuator": "solenoid motor servo valve",
    "lock": "solenoid", "plug": "plug socket", "connector": "plug socket header terminal", "usb": "usb type-c", "typec": "type-c",
    "usbc": "type-c", "pins": "header", "connectors": "plug socket header terminal",
    "lipo": "lithium-ion+pouch", "lipoly": "lithium-ion+pouch", "polymer": "lithium-ion+pouch", "liion": "lithium-ion", "li": "lithium-ion lithium",
    "lithium": "lithium", "lifepo4": "iron+phosphate", "lfp": "iron+phosphate", "nimh": "nickel-metal-hydride", "rechargeable": "lithium-ion nickel iron+phosphate",
    "coin": "button coin", "mignon": "aa", "micro-cell": "aaa", "powerbank": "bank", "battery": "",
    "ldo": "linear", "regulator": "linear buck boost", "dcdc": "buck boost", "stepup": "boost", "step-up": "boost", "stepdown": "buck", "mosfet": "switch",
    "fuse": "fuse", "polyfuse": "fuse", "diodes": "diode", "charger": "charger", "bms": "protection", "lora": "long-range", "lorawan": "long-range", "zigbee": "mesh+radio",
    "thread": "mesh+radio", "aerial": "antenna", "sma": "antenna+socket", "pcb": "bare+board", "perfboard": "bare+board",
    "stripboard": "bare+board", "protoboard": "bare+board", "breadboard": "bare+board", "photovoltaic": "solar", "pv": "solar", "bolt": "screw", "screws": "screw", "heatset": "insert",
    "pogo": "pads", "waterproof": "sealed gland", "watertight": "sealed gland", "ip67": "sealed gland", "watch": "silver coin button", "hearing": "zinc-air",
    "pp3": "block", "sla": "lead-acid", "agm": "lead-acid", "gel": "lead-acid", "vrla": "lead-acid", "lead": "lead-acid", "lto": "titanate", "lir": "rechargeable+coin",
    "clip": "clip holder", "case": "holder", "box": "holder", "2s": "two+series two+lithium", "3s": "three+series three+lithium",
    "oled": "oled", "lcd": "lcd", "keyboard": "keys", "matrix": "matrix keys", "laser": "light", "amp": "amplifier", "mp3": "player", "voltmeter": "divider",
    "lidar": "light-time", "radar": "radar", "camera": "camera", "cam": "camera", "buck": "buck", "boost": "boost", "buck-boost": "buck-boost", "dc-dc": "buck boost",
    "supercap": "super-capacitor", "ultracap": "super-capacitor", "capacitor": "super-capacitor", "lifepo": "iron+phosphate", 
    "baby": "c", "mono": "d", "aaa": "aaa", "aa": "aa", "hr6": "hr6", "lr6": "lr6", "e-ink": "e-paper", "eink": "e-paper", "ink": "e-paper",
    "photodiode": "phototransistor", "heater": "heater", "transistor": "switch phototransistor", "usb-c": "type-c", "holder": "holder", "cr123a": "cr123", "vape": "large+currents",
}  # fmt: skip
_IDLE = frozenset(
    ("a", "an", "the", "to", "for", "with", "and", "of", "from", "in", "on", "my", "x")
)  # where other words are typed
_TIMES = re.compile(r"(\d+)x([a-z]\w*)?")  # 2xAA
_NUMBER = re.compile(r"\d+(?:\.\d+)?")
_UNIT = re.compile(r"(\d+(?:\.\d+)?)(mah|ma|ah|v|w|mm|cm|ghz|mhz|khz|inch|in|ohm|mb|gb|f|a|pin|pins)")


# What is one word to people and more than one to the eye, or the other way round.
_PHRASES = {"usb c": "typec", "usb-c": "typec", "wi fi": "wifi", "wi-fi": "wifi", "step up": "stepup", "step down": "stepdown",
            "hall sensor": "hall", "heart rate": "heart", "hall switch": "hall", "real time": "time"}  # fmt: skip


def search(entries: Sequence[Entry], text: str) -> list[Entry]:
    """The entries that a typed text means, the likeliest first; all of them, in their order, for an empty text.

    >>> from ember_core.catalogue import built_in
    >>> search(built_in().entries, "18650")[0].key
    'cell-cyl-18650'
    """
    typed = " ".join(_words(text[:LONGEST_TEXT]))
    for phrase, word in _PHRASES.items():
        typed = re.sub(rf"\b{phrase}\b", word, typed)
    terms = [_terms(entry) for entry in entries]
    vocabulary = frozenset[str]().union(*(t for pair in terms for t in pair))
    words = [w for w in typed.split() if w not in _IDLE] or typed.split()
    wanted = [_Wanted(word, vocabulary) for word in words[:MOST_WORDS]]
    if not wanted:
        return list(entries)
    scored = []
    for place, (entry, (name, about)) in enumerate(zip(entries, terms, strict=True)):
        found = [word.score(name, about) for word in wanted]
        if all(found):
            as_typed = PHRASE if typed in " ".join(_words(entry.name)) else 0.0
            scored.append((-sum(found) - as_typed, len(entry.name), place, entry))
    return [entry for *_, entry in sorted(scored, key=lambda s: s[:3])]


class _Wanted:
    """A typed word, what else may be meant by it, and the words that it may be a slip of."""

    def __init__(self, word: str, vocabulary: frozenset[str]) -> None:
        self.word = word
        self.meant = _options(_SYNONYMS.get(word))
        known = word in _SYNONYMS or any(term.startswith(word) for term in vocabulary)
        slips = not known and len(word) >= SHORTEST_SLIP
        self.slipped = frozenset(term for term in vocabulary if slips and _slipped(word, term))
        alike = [other for other in _SYNONYMS if slips and len(other) >= SHORTEST_SLIP and _slipped(word, other)]
        self.meant_by_slip = [option for other in alike for option in _options(_SYNONYMS[other])]

    def score(self, name: frozenset[str], about: frozenset[str]) -> float:
        """How well the word fits an entry; 0 where it does not."""
        best = max(IN_NAME * _fit(self.word, name), _fit(self.word, about))
        if (
            self.meant and best < WHOLE * IN_NAME and self.word not in about
        ):  # what it means counts more than what it begins
            best = min(best, BEGINNING - SYNONYM)
        best = max([best, *(SYNONYM * _meant(option, name, about) for option in self.meant)])
        if best == 0 and (self.slipped or self.meant_by_slip):
            best = max(IN_NAME * SLIP * bool(self.slipped & name), SLIP * bool(self.slipped & about))
            best = max([best, *(SLIP * _meant(option, name, about) for option in self.meant_by_slip)])
        return best


def _options(synonyms: str | None) -> list[list[str]]:
    return [option.split("+") for option in (synonyms or "").split()]


def _fit(word: str, terms: frozenset[str]) -> float:
    if word in terms:
        return WHOLE
    if _NUMBER.fullmatch(word):  # 9 is no beginning of 900; 2032 is a CR2032
        return BEGINNING if len(word) >= SHORTEST_SLIP and any(term.endswith(word) for term in terms) else 0.0
    return BEGINNING if any(term.startswith(word) for term in terms) else 0.0


def _meant(words: list[str], name: frozenset[str], about: frozenset[str]) -> float:
    """0 to 1 for words that all are in what is said of the entry, up to twice that for those in its name."""
    fits = [max(IN_NAME * _fit(w, name), _fit(w, about)) / WHOLE for w in words]
    return sum(fits) / len(fits) if all(fits) else 0.0


def _slipped(word: str, term: str) -> bool:
    """One letter too many, too few, another one, or two exchanged; two such slips in a long word. Of the term as much is
    looked at as was typed."""
    allowed = 2 if len(word) >= 8 else 1
    return any(
        _distance(word, term[:n], allowed) <= allowed for n in {len(word), len(word) + 1, len(word) - 1} if term[:n]
    )


def _distance(a: str, b: str, enough: int) -> int:
    """Edits between two words (Damerau 1964, adjacent letters exchanged counted as one), at most `enough` + 1."""
    if abs(len(a) - len(b)) > enough:
        return enough + 1
    before = list(range(len(b) + 1))
    last = before
    for i, x in enumerate(a, 1):
        row = [i]
        for j, y in enumerate(b, 1):
            cost = min(before[j] + 1, row[j - 1] + 1, before[j - 1] + (x != y))
            if i > 1 and j > 1 and x == b[j - 2] and a[i - 2] == y:
                cost = min(cost, last[j - 2] + 1)
            row.append(cost)
        if min(row) > enough:
            return enough + 1
        last, before = before, row
    return before[-1]


def _words(text: str) -> list[str]:
    """Lower case, without accents; "e-paper" stays one word and is two as well, a number keeps its unit apart."""
    plain = "".join(c for c in unicodedata.normalize("NFKD", text.lower()) if not unicodedata.combining(c))
    found = re.findall(r"\d+[.,]\d+|[a-z0-9]+(?:-[a-z0-9]+)*|[ωΩµμ]", plain)
    return [piece for word in found for piece in _apart(word.replace(",", "."))]


def _apart(word: str) -> list[str]:
    """A number and its unit that were typed as one."""
    both = _UNIT.fullmatch(word) or _TIMES.fullmatch(word)
    return [piece for piece in both.groups() if piece] if both else [word]


def _terms(entry: Entry) -> tuple[frozenset[str], frozenset[str]]:
    """The words of an entry's name, and of what else is said of it."""
    said = [entry.kind, entry.note]
    if entry.part:
        said += [entry.part.kind, entry.part.note, *(s.name for s in entry.part.states)]
    if entry.cell:
        said += ["battery", entry.cell.chemistry, entry.cell.form, f"{entry.cell.capacity_ah * 1000:.0f} mah"]
    if entry.stage:
        said += [
            entry.stage.type,
            str(getattr(entry.stage, "topology", "")),
            str(getattr(entry.stage, "role", "")),
            _inputs(entry.stage),
        ]
    if entry.charger:
        said += ["charger"]
    return _spread(entry.name), _spread(" ".join(said))


def _inputs(stage: Stage) -> str:
    """The usual voltages that it may be fed with, of what has a limit."""
    least, most = least_of(stage), stage.input_max_v
    return "" if most is None else " ".join(f"{v:g} v" for v in FED_V if least <= v <= most)


def least_of(stage: Stage) -> float:
    """The input that a stage locks out below, else what it makes [V]: by which stages of a kind are told apart.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-buck-33"].stage
    >>> least_of(stage)
    2.5
    """
    return float(getattr(stage, "undervoltage_lockout_v", None) or getattr(stage, "output_v", None) or 0.0)


@lru_cache(maxsize=8192)
def _spread(text: str) -> frozenset[str]:
    words = _words(text)
    return frozenset([*words, *(w.replace("-", "") for w in words), *(piece for w in words for piece in w.split("-"))])
