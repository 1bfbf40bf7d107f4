"""Messages: templates and how facts are told in them; each finding's message gets every fact that it names, and no other."""

from __future__ import annotations

import ast
import re
import unittest
from collections.abc import Iterator
from pathlib import Path

from ember_core import findings
from ember_core.words import Fact, Said, Teller, teller
from ember_core.words.template import TemplateError, template

CORE = Path(findings.__file__).parents[1]


def tell(text: str, **facts: Fact) -> str:
    return Teller({"x": template(text), "inner": template("{a} of it")}).tell("x", facts).replace("\u00a0", " ")


class Telling(unittest.TestCase):
    def test_facts_as_they_are(self) -> None:
        self.assertEqual(
            tell("{who} takes {own}, {count} times", who="LED", own=(0.0123, "A"), count=3),
            "LED takes 12.3 mA, 3 times",
        )
        self.assertEqual(tell("a {{brace}}"), "a {brace}")

    def test_ways(self) -> None:
        self.assertEqual(tell("{m:lower} {m:first}", m="dUSK ear"), "dusk ear DUSK ear")
        self.assertEqual(
            tell("{s:about}; {s}; {x:times}; {x:number}", s=(0.12, "share"), x=(2.345, "")),
            "about 12 %; 12 %; 2.3; 2.345",
        )
        names = ["a", "b", "c", "d"]
        said = tell("{n:and}|{n:comma}|{n:few}|{n:few-and}|{n:and-the}", n=names)
        self.assertEqual(said, "a and b and c and d|a, b, c, d|a, b, c|a and b and c|a and the b and the c and the d")

    def test_choices(self) -> None:
        two = "{b:yes=is bare|no=has one}"
        self.assertEqual((tell(two, b=True), tell(two, b=False)), ("is bare", "has one"))
        count = "{n} cell{n:one=|other=s}"
        self.assertEqual([tell(count, n=n) for n in (0, 1, 2)], ["0 cells", "1 cell", "2 cells"])
        self.assertEqual([tell("{n:one=one|other=many}", n=["a"] * k) for k in (1, 2)], ["one", "many"])
        often = "{n:one=once|other={n} times}"
        self.assertEqual((tell(often, n=(1.0, "")), tell(often, n=(1.5, ""))), ("once", "1.5 times"))
        kind = "{k:linear=ground|other=own}"
        self.assertEqual((tell(kind, k="linear"), tell(kind, k="shunt"), tell("{k:a=b}", k="c")), ("ground", "own", ""))
        for nothing in (None, "", [], (None, "A")):
            with self.subTest(nothing):
                self.assertEqual(tell("x{n:none=|other=, {n}}", n=nothing), "x")

    def test_choices_within_choices_and_names_with_bars(self) -> None:
        text = "{a:yes={b:yes=both|no={who}}|no=none of {who}}."
        self.assertEqual(tell(text, a=True, b=False, who="x|no=y}"), "x|no=y}.")
        self.assertEqual(tell(text, a=False, b=False, who="{b}"), "none of {b}.")

    def test_something_said_within(self) -> None:
        used: dict[str, Fact] = {}
        told = Teller({"x": template("{w:first}, {w}{w:inner=!|other=?}"), "inner": template("{a} of it")})
        self.assertEqual(told.tell("x", {"w": Said("inner", {"a": "half"})}, used), "Half of it, half of it!")
        self.assertEqual(used["a"], "half")

    def test_what_it_told_is_known(self) -> None:
        used: dict[str, Fact] = {}
        text = "{x:times} {b:yes={y}|no={z}} {n:none=|other=there}"
        Teller({"x": template(text)}).tell(
            "x", {"x": (2, ""), "b": True, "y": (1, "V"), "z": (2, "V"), "n": (3, "A")}, used
        )
        self.assertEqual(used, {"y": (1, "V")})

    def test_what_cannot_be_read(self) -> None:
        for wrong in ("{", "{a", "{a:twice}", "{a:x=1|x=2}", "{0}", "{a.b}", "{}"):
            with self.subTest(wrong), self.assertRaises(TemplateError):
                template(wrong)
        with self.assertRaises(KeyError):
            tell("{missing}")


def found_calls() -> Iterator[tuple[str, str, set[str] | None]]:
    """(where, message, the names of its facts) of every finding in the code; no names where they are not written there."""
    for file in sorted((CORE / "findings").rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if not isinstance(node, ast.Call) or getattr(node.func, "id", "") != "Found":
                continue
            given = {k.arg: k.value for k in node.keywords}
            key = given.get("words", given["code"])
            if not isinstance(key, ast.Constant):  # labels: told there
                continue
            facts = given.get("facts", ast.Dict([], []))
            names = (
                {n.value for n in facts.keys if isinstance(n, ast.Constant)} if isinstance(facts, ast.Dict) else None
            )
            yield f"{file.name}:{node.lineno}", str(key.value), names


def said_calls() -> Iterator[tuple[str, str, set[str]]]:
    """(where, message, the names of its facts) of everything else that is said, where both are written there."""
    for file in sorted(CORE.rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if (
                isinstance(node, ast.Call)
                and getattr(node.func, "id", "") == "Said"
                and isinstance(node.args[0], ast.Constant)
            ):
                facts = node.args[1] if len(node.args) > 1 else ast.Dict([], [])
                if isinstance(facts, ast.Dict):
                    names = {str(n.value) for n in facts.keys if isinstance(n, ast.Constant)}
                    yield f"{file.name}:{node.lineno}", str(node.args[0].value), names


def figure_calls() -> Iterator[tuple[str, str, set[str], bool]]:
    """(where, key, the names of its facts, whether its formula is told otherwise) of every figure."""
    for file in sorted(CORE.rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if (
                isinstance(node, ast.Call)
                and getattr(node.func, "id", "") == "figure"
                and isinstance(node.args[0], ast.Constant)
            ):
                given = {k.arg: k.value for k in node.keywords}
                facts = given.get("facts", ast.Dict([], []))
                assert isinstance(facts, ast.Dict)
                names = {str(n.value) for n in facts.keys if isinstance(n, ast.Constant)}
                yield f"{file.name}:{node.lineno}", str(node.args[0].value), names, "formula" in given


def written() -> set[str]:
    """Every text that stands in the code, apart from what describes it."""
    return {
        node.value
        for file in CORE.rglob("*.py")
        for node in ast.walk(ast.parse(file.read_text()))
        if isinstance(node, ast.Constant) and isinstance(node.value, str)
    }


def input_calls() -> Iterator[tuple[str, str, set[str]]]:
    """(where, key, the names of its facts) of every input of a working that has a name of ours."""
    for file in sorted(CORE.rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "called":
                assert isinstance(node.args[0], ast.Constant), f"{file.name}:{node.lineno}"
                yield f"{file.name}:{node.lineno}", str(node.args[0].value), {str(k.arg) for k in node.keywords}


def say_calls() -> Iterator[tuple[str, str, set[str]]]:
    """(where, message, the names of its facts) of what is told at once, where both are written there."""
    for file in sorted(CORE.rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if (
                isinstance(node, ast.Call)
                and getattr(node.func, "id", "") == "say"
                and isinstance(node.args[0], ast.Constant)
            ) and all(k.arg for k in node.keywords):
                yield f"{file.name}:{node.lineno}", str(node.args[0].value), {str(k.arg) for k in node.keywords}


# rooms whose sentences stand where they are: what refuses an input says so in its error, what is printed for a terminal, drawings
OWN_SENTENCES = (
    "imports/",
    "design/",
    "catalogue/",
    "__main__.py",
    "summary.py",
    "documents/sections.py",
    "documents/fall.py",
    "enclosure/picture.py",
    "enclosure/step_file.py",
    "enclosure/case_files.py",
    "quantities/reading.py",
    "studies/soc_table.py",
)


def sentences_in_the_code() -> Iterator[tuple[str, str]]:
    """(where, text) of what has three words and more and is put together in the code, apart from errors."""
    for file in sorted(CORE.rglob("*.py")):
        if file.relative_to(CORE).as_posix().startswith(OWN_SENTENCES):
            continue
        tree = ast.parse(file.read_text())
        errors = {
            id(x)
            for node in ast.walk(tree)
            if isinstance(node, ast.Raise | ast.Assert)
            or (isinstance(node, ast.Call) and getattr(node.func, "id", "") in ("Problem", "DocumentError"))
            for x in ast.walk(node)
        }
        for node in ast.walk(tree):
            if isinstance(node, ast.JoinedStr) and id(node) not in errors:
                text = "".join(str(v.value) if isinstance(v, ast.Constant) else "{}" for v in node.values)
                if len(re.findall(r"[a-z]{2,}", text)) >= 3 and " " in text.strip():
                    yield f"{file.relative_to(CORE)}:{node.lineno}", text


class Catalogue(unittest.TestCase):
    def test_what_is_told_at_once_gets_the_facts_that_it_names_and_no_others(self) -> None:
        known, calls = teller().messages, list(say_calls())
        self.assertGreater(len(calls), 500)
        for where, key, names in calls:
            with self.subTest(where, key=key):
                self.assertEqual(names, known[key].names)

    def test_no_sentence_is_put_together_in_the_code(self) -> None:
        self.assertEqual(list(sentences_in_the_code()), [])

    def test_each_input_of_a_working_has_its_name_and_gives_it_what_it_tells(self) -> None:
        known, calls = teller().messages, list(input_calls())
        self.assertGreater(len(calls), 200)
        for where, key, names in calls:
            with self.subTest(where, key=key):
                self.assertEqual(names, known[f"input.{key}"].names)
        self.assertEqual({k for k in known if k.startswith("input.")}, {f"input.{key}" for _, key, _ in calls})

    def test_each_finding_has_its_message_and_gives_it_what_it_tells(self) -> None:
        known, calls = teller().messages, list(found_calls())
        self.assertGreater(len(calls), 140)
        for where, key, names in calls:
            with self.subTest(where, key=key):
                wanted = known[f"{key}.title"].names | known[f"{key}.sentence"].names
                self.assertEqual(names, wanted)

    def test_what_is_said_within_gets_its_facts(self) -> None:
        known, calls = teller().messages, list(said_calls())
        self.assertGreater(len(calls), 8)
        for where, key, names in calls:
            with self.subTest(where, key=key):
                self.assertEqual(names, known[key].names)

    def test_each_figure_has_its_messages_and_gives_them_what_they_tell(self) -> None:
        known, calls = teller().messages, list(figure_calls())
        self.assertGreater(len(calls), 120)
        for where, key, names, made in calls:
            with self.subTest(where, key=key):
                wanted = known[f"figure-{key}.label"].names
                self.assertEqual(names, wanted if made else wanted | known[f"figure-{key}.formula"].names)

    def test_no_message_is_without_use(self) -> None:
        said = written()
        for key in teller().messages:
            group = key.split(".", 1)[0]
            own = group.removeprefix("figure-")
            with self.subTest(key):
                self.assertTrue(
                    key in said
                    or f"{group}." in said
                    or f"{group}.formula" in said
                    or own in said
                    or f"{own.split('-')[0]}-" in said
                )
