"""`manage.py generate`: writes what is made from the models, and tells with --check whether it is stale."""

from __future__ import annotations

import json
import shutil
import subprocess
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from config.api import api
from ember_core import Design
from ember_core.quantities import units_table

WEB = settings.ROOT / "web"


def generated() -> dict[Path, str]:
    """File -> the contents it should have."""
    schema = json.dumps(Design.model_json_schema(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"
    openapi = json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=1, ensure_ascii=False) + "\n"
    return {
        settings.ROOT / "docs" / "design.schema.json": schema,
        settings.ROOT / "docs" / "openapi.json": openapi,
        WEB / "src" / "api" / "generated.d.ts": _types(openapi),
        WEB / "src" / "ui" / "units.generated.json": json.dumps(units_table(), indent=1, ensure_ascii=False) + "\n",
    }


def _types(openapi: str) -> str:
    node = shutil.which("node")
    if node is None:
        raise CommandError("Node.js is needed to make the TypeScript types")
    with tempfile.TemporaryDirectory() as folder:
        source, target = Path(folder) / "openapi.json", Path(folder) / "types.d.ts"
        source.write_text(openapi)
        program = WEB / "node_modules" / "openapi-typescript" / "bin" / "cli.js"
        subprocess.run(
            [node, str(program), str(source), "-o", str(target), "--root-types", "--root-types-no-schema-prefix"],
            check=True,
            capture_output=True,
            cwd=WEB,
        )
        return target.read_text()


class Command(BaseCommand):
    help = "Makes the schema, the API description and the TypeScript types."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--check", action="store_true", help="only tell whether they are stale")

    def handle(self, *args: Any, check: bool = False, **options: Any) -> None:
        stale = [path for path, text in generated().items() if not path.exists() or path.read_text() != text]
        if check and stale:
            raise CommandError("stale: " + ", ".join(str(p.relative_to(settings.ROOT)) for p in stale))
        for path, text in generated().items():
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text)
