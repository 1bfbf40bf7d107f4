"""Searches the best of all supplies for a design."""

from __future__ import annotations

import json
import time
from typing import Any

from catalogue.services import catalogue_for
from ember_core import build_design
from ember_core.choosing import answer_choice
from ember_core.figures import as_json
from ember_core.measures.bench import TrialBench

from .models import Job
from .services import JobRefused, Report

MOST_SECONDS = 240.0  # of processor time; the largest gadgets of the tests need a tenth
TELLS_EVERY_S = 0.25


def search_choice(job: Job, report: Report) -> Any:
    """The answer to what was asked, as the core has it."""
    begun, told_at = time.process_time(), -TELLS_EVERY_S

    def going(share: float) -> None:
        nonlocal told_at
        if time.process_time() - begun > MOST_SECONDS:
            raise JobRefused(
                "the search took too long. Narrow it: limits of cost, mass or charge leave less to look at"
            )
        if time.monotonic() - told_at >= TELLS_EVERY_S:
            told_at = time.monotonic()
            report.progress(share)

    bench = TrialBench(build_design(job.asked["design"]), catalogue_for(job.owner))
    return json.loads(
        as_json(answer_choice(bench, job.asked["aims"], job.asked["most"], going, parts=job.asked.get("parts", False)))
    )
