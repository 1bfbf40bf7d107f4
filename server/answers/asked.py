"""The design in the body of a question, with its person's catalogue and what this process has solved of designs like it."""

from __future__ import annotations

from catalogue.services import catalogue_for
from common.requests import SignedIn
from ember_core import Design, read_design
from ember_core.measures.bench import TrialBench
from ember_core.solved.electric import Known

KNOWN = Known()


def asked(request: SignedIn) -> TrialBench:
    return benched(request, read_design(request.body))


def benched(request: SignedIn, design: Design) -> TrialBench:
    return TrialBench(design, catalogue_for(request.user), known=KNOWN)
