"""The report read back by another library: its figures are the evaluation's, its attachment is the design, its fonts lie in it."""

from __future__ import annotations

import io
import unittest
import xml.etree.ElementTree as ET
from functools import cache
from pathlib import Path
from typing import Any, cast, get_args

import numpy as np
from pypdf import PdfReader

from ember_core import VERSION, Design, evaluate, read_design
from ember_core.documents import CHAPTERS, Chapter, ReportContent, report_content, report_pdf
from ember_core.documents.content import figures_of
from ember_core.documents.sections import WIDEST_MM, section_pictures
from ember_core.imports.new_gadget import new_gadget
from ember_core.quantities import show

from .randoms import random_design, sweep
from .test_section import box, gadget

DEMO = Path(__file__).resolve().parents[2] / "demo"
NAMES = sorted(f.stem for f in DEMO.glob("*.json"))


@cache
def demo(name: str) -> Design:
    return read_design((DEMO / f"{name}.json").read_bytes())


@cache
def content(name: str) -> ReportContent:
    return report_content(demo(name), evaluate(demo(name)), VERSION)


@cache
def pdf(name: str) -> PdfReader:
    return PdfReader(io.BytesIO(report_pdf(demo(name), content(name))))


def plain(text: str) -> str:
    return " ".join(text.replace("\u00a0", " ").split())


def text_of(reader: PdfReader) -> str:
    return plain(" ".join(page.extract_text() for page in reader.pages))


def outlines(path: str) -> list[np.ndarray]:
    return [
        np.array([[float(v) for v in point.split()] for point in one.rstrip("Z").split("L")])
        for one in path.split("M")[1:]
    ]


def area(outline: np.ndarray) -> float:
    x, y = outline.T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


class Sections(unittest.TestCase):
    """A case of 60 x 40 x 20 mm with walls of 2 mm; two boxes on its floor and one above them."""

    BODIES = (box((4, 4, 2), (20, 10, 4)), box((32, 7, 2), (10, 12, 6)), box((4, 22, 14), (8, 8, 2)))

    def paths(self, svg: str) -> list[list[np.ndarray]]:
        return [outlines(e.attrib["d"]) for e in ET.fromstring(svg).iter() if e.tag.endswith("path")]

    def test_where_most_is_cut_at_its_true_size(self) -> None:
        level, upright = section_pictures(gadget(*self.BODIES))
        walls, *bodies = self.paths(level.svg)
        self.assertEqual((level.axis, upright.axis), ("z", "y"))
        self.assertEqual(len(level.names), 2)
        self.assertEqual(level.at_mm, 5)  # the middle of the higher one is nearer to that of the case
        self.assertAlmostEqual(area(walls[0]) - area(walls[1]), 60 * 40 - 56 * 36, delta=1)
        self.assertEqual(sorted(round(area(b[0])) for b in bodies), [120, 200])
        self.assertEqual((level.wide_mm, level.true_size), (61.0, True))
        self.assertIn('width="61.00mm" height="41.00mm"', level.svg)

    def test_up_is_up(self) -> None:
        _, upright = section_pictures(gadget(self.BODIES[0], box((4, 4, 14), (20, 10, 2))))
        _, floor, ceiling = self.paths(upright.svg)
        self.assertGreater(floor[0][:, 1].mean(), ceiling[0][:, 1].mean() + 8)  # downwards on a page

    def test_what_is_larger_than_a_sheet_is_drawn_smaller(self) -> None:
        for x, true in ((164.0, True), (164.1, False), (400.0, False)):
            level, upright = section_pictures(gadget(self.BODIES[0], outer_mm=[x, 40, 20]))
            self.assertEqual((level.true_size, upright.true_size), (true, true))
            self.assertAlmostEqual(level.wide_mm, min(x + 1, 165.0), places=6)
        tall, _ = section_pictures(gadget(self.BODIES[0], outer_mm=[60, 240, 20]))
        self.assertAlmostEqual(tall.wide_mm, 61 * 120 / 241, places=6)

    def test_posts_are_walls_and_have_no_number(self) -> None:
        for name in NAMES:
            for one in section_pictures(demo(name)):
                texts = [e.text for e in ET.fromstring(one.svg).iter() if e.tag.endswith("text")]
                self.assertEqual(texts, [str(k + 1) for k in range(len(one.names))] * 2)  # with what lies behind them
                own = {p.name for p in demo(name).parts} | {s.name for s in demo(name).supply.stages}
                chargers = {demo(name).charger.name} if demo(name).charger else set()
                self.assertLessEqual(set(one.names), own | chargers | {demo(name).battery.cell.name})
        self.assertEqual(section_pictures(gadget()), [])

    def test_of_any_gadget(self) -> None:
        drawn = 0
        for seed in sweep(60, 400):
            for one in section_pictures(random_design(seed)):
                self.assertIsNotNone(ET.fromstring(one.svg))
                self.assertLessEqual(one.wide_mm, WIDEST_MM + 1e-9)
                drawn += 1
        self.assertGreater(drawn, 50)
        for far in ((500, 15, 6), (20, 15, -90), (20, 900, 6)):  # beside the case, which is said; the report is made
            for one in section_pictures(gadget(box(far, (5, 5, 5)))):
                self.assertIsNotNone(ET.fromstring(one.svg))


class Content(unittest.TestCase):
    def test_every_table_is_one(self) -> None:
        for name in NAMES:
            for chapter in content(name).chapters:
                for block in chapter.blocks:
                    self.assertTrue(block.text or block.rows, (name, chapter.key))
                    self.assertTrue(all(len(row) == len(block.head) for row in block.rows), (name, chapter.key))
                    self.assertIn(len(block.status), (0, len(block.rows)))
                    if block.svg:
                        ET.fromstring(block.svg)

    def test_verdicts_findings_and_bill_are_the_evaluations(self) -> None:
        for name in NAMES:
            result = evaluate(demo(name))
            chapters = {c.key: c for c in content(name).chapters}
            rows = chapters["verdicts"].blocks[0]
            self.assertEqual(
                [(r[0], r[1], r[3]) for r in rows.rows],
                [(v.label, show(v.figure.value, v.figure.unit), v.word) for v in result.verdicts],
            )
            self.assertEqual(rows.status, [v.status for v in result.verdicts])
            told = [(b.severity, b.title, b.text) for b in chapters["findings"].blocks if b.kind == "finding"]
            self.assertEqual(told, [(f.severity, f.title, f.sentence) for f in result.findings])
            self.assertEqual([r[0] for r in chapters["bill"].blocks[0].rows][:-1], [b.name for b in result.totals.bill])
            shown = {r[0] for r in chapters["workings"].blocks[0].rows}
            self.assertEqual(shown, {f.label for f in figures_of(result) if f.value is not None})

    def test_what_is_not_wanted_or_says_nothing_is_left_out(self) -> None:
        self.assertEqual(CHAPTERS, get_args(Chapter))
        ear = demo("dusk-ear")
        only = report_content(ear, evaluate(ear), VERSION, ("bill", "verdicts"))
        self.assertEqual([c.key for c in only.chapters], ["verdicts", "bill"])
        self.assertNotIn("guesses", [c.key for c in content("dusk-ear").chapters])
        empty = new_gadget("Lantern")
        keys = [c.key for c in report_content(empty, evaluate(empty), VERSION).chapters]
        self.assertNotIn("draw", keys)
        self.assertIn("battery", keys)

    def test_what_somebody_took_note_of_is_told(self) -> None:
        raw = demo("dusk-ear").model_dump(mode="json")
        caution = evaluate(demo("dusk-ear")).battery.cautions[0]
        raw["dismissed"] = [{"caution": caution.key, "reason": "It is charged on a tile."}]
        noted = Design.model_validate(raw)
        found = next(c for c in report_content(noted, evaluate(noted), VERSION).chapters if c.key == "cautions")
        self.assertIn("Taken note of: It is charged on a tile.", " ".join(b.text for b in found.blocks))


class Paper(unittest.TestCase):
    def test_its_text_is_what_it_says(self) -> None:
        for name in NAMES:
            text = text_of(pdf(name)).replace(" ", "")
            self.assertIn(plain(content(name).title).replace(" ", ""), text)
            for chapter in content(name).chapters:
                self.assertIn(plain(chapter.title).replace(" ", ""), text, name)
            for row in content(name).chapters[0].blocks[0].rows:
                self.assertIn(plain(row[1]).replace(" ", "").replace("–", ""), text.replace("–", ""), (name, row))

    def test_the_design_is_attached_and_says_the_same(self) -> None:
        for name in NAMES:
            attached = pdf(name).attachments["design.json"][0]
            again = read_design(attached)
            self.assertEqual(again, demo(name))

    def test_it_is_tagged_titled_and_brings_its_fonts(self) -> None:
        reader = pdf("dusk-ear")
        root: Any = reader.trailer["/Root"]
        self.assertTrue(root["/MarkInfo"]["/Marked"])
        self.assertIn("/StructTreeRoot", root)
        self.assertEqual(root["/Lang"], "en")
        assert reader.metadata is not None
        self.assertEqual(reader.metadata.title, "Dusk Ear")
        xmp = root["/Metadata"].get_data().decode()
        self.assertIn("<pdfaid:part>3</pdfaid:part>", xmp)
        fonts = 0
        for page in reader.pages:
            for font in cast(dict[str, Any], page["/Resources"]).get("/Font", {}).values():
                kind = font.get_object()
                inner = kind["/DescendantFonts"][0].get_object() if "/DescendantFonts" in kind else kind
                descriptor = inner["/FontDescriptor"].get_object()
                self.assertTrue(
                    any(k in descriptor for k in ("/FontFile2", "/FontFile3", "/FontFile")), kind["/BaseFont"]
                )
                fonts += 1
        self.assertGreater(fonts, 3)

    def test_it_says_of_itself_that_it_is_for_keeping_and_for_everybody(self) -> None:
        for name in NAMES:
            told = pdf(name).trailer["/Root"]["/Metadata"].get_data().decode()
            for part in ("<pdfaid:part>3<", "<pdfaid:conformance>A<", "<pdfuaid:part>1<"):
                self.assertIn(part, told)

    def test_nothing_leaves_its_page(self) -> None:
        for name, paper, size in (("dusk-ear", "a4", (595.3, 841.9)), ("snow-stake", "us-letter", (612, 792))):
            reader = PdfReader(io.BytesIO(report_pdf(demo(name), content(name), paper)))  # type: ignore[arg-type]
            self.assertGreater(len(reader.pages), 3)
            for page in reader.pages:
                self.assertAlmostEqual(float(page.mediabox.width), size[0], delta=0.5)
                self.assertAlmostEqual(float(page.mediabox.height), size[1], delta=0.5)
                places: list[float] = []

                def seen(text: str, cm: list[float], tm: list[float], *_: Any, places: list[float] = places) -> None:
                    if text.strip():
                        places.append(tm[4] * cm[0] + tm[5] * cm[2] + cm[4])

                page.extract_text(visitor_text=seen)
                self.assertTrue(places)
                self.assertTrue(all(50 < x < size[0] - 50 for x in places), (name, min(places), max(places)))

    def test_odd_titles_are_set_as_they_are(self) -> None:
        for title in ("x" * 120, "#set page(width: 1pt)", "]*_$#<a>", "מד רוח", "Ω µ é ß Ł ő"):
            design = demo("tarn-light").model_copy(update={"name": title, "summary": title})
            made = report_pdf(design, report_content(design, evaluate(design), VERSION, ("verdicts",)))
            reader = PdfReader(io.BytesIO(made))
            assert reader.metadata is not None
            self.assertEqual(reader.metadata.title, title)
            self.assertAlmostEqual(float(reader.pages[0].mediabox.width), 595.3, delta=0.5)


if __name__ == "__main__":
    unittest.main()
