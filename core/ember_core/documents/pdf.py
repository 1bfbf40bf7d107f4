"""The report as a PDF: set by Typst with fonts of our own, tagged, as PDF/A-3 with the design document attached."""

from __future__ import annotations

from importlib.resources import as_file, files
from typing import Literal

from ..design import Design
from ..figures import as_json
from .content import ReportContent

Paper = Literal["a4", "us-letter"]


def report_pdf(design: Design, content: ReportContent, paper: Paper = "a4") -> bytes:
    """The report of a design as a file. The design document lies in it as `design.json`."""
    import typst

    folder = files(__package__)
    with as_file(folder.joinpath("report.typ")) as template, as_file(folder.joinpath("fonts")) as fonts:
        made: bytes = typst.compile(
            str(template),
            font_paths=[str(fonts)],
            ignore_system_fonts=True,
            format="pdf",
            sys_inputs={
                "content": as_json(content).decode(),
                "design": design.model_dump_json(indent=1),
                "paper": paper,
            },
            pdf_standards=["a-3a", "ua-1"],
        )
    return made
