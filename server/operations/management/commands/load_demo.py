"""`manage.py load_demo`: the built-in catalogue, the demo account, and the worker's housekeeping."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from catalogue.services import load_built_in
from projects.demo import load_demo

from ...tasks import tidy_up


class Command(BaseCommand):
    help = "Loads the built-in catalogue and, in demo mode, the demo account."

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(f"{load_built_in()} catalogue entries brought up to date")
        if settings.DEMO:
            self.stdout.write(f"{load_demo()} demo gadgets made")
        tidy_up.enqueue()
