"""The design in the body of a question, with its person's catalogue."""

from __future__ import annotations

from catalogue.services import catalogue_for
from common.requests import SignedIn
from ember_core import read_design
from ember_core.measures.bench import TrialBench


def asked(request: SignedIn) -> TrialBench:
    return TrialBench(read_design(request.body), catalogue_for(request.user))
