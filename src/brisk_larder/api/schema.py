"""The OpenAPI schema as a file, and the types the front end generates from it.

``python -m brisk_larder.api.schema --write web/src/api/schema.d.ts`` makes them anew;
``--check`` fails when they are stale.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from .app import make_app


def generate(web: Path) -> str:
    """Types of the current schema, by openapi-typescript. Raises CalledProcessError."""
    with tempfile.TemporaryDirectory() as folder:
        schema, types = Path(folder) / "openapi.json", Path(folder) / "schema.d.ts"
        schema.write_text(json.dumps(make_app(None).openapi()))
        tool = web / "node_modules" / ".bin" / "openapi-typescript"
        subprocess.run(
            [str(tool), str(schema), "-o", str(types)], check=True, capture_output=True, cwd=web
        )
        return types.read_text()


def main(arguments: list[str]) -> int:
    """Write or check the types; returns the exit code."""
    mode, target = arguments[0], Path(arguments[1])
    made = generate(target.resolve().parents[2])
    if mode == "--write":
        target.write_text(made)
        return 0
    if target.read_text() == made:
        return 0
    sys.stderr.write(f"{target} is stale: run python -m brisk_larder.api.schema --write {target}\n")
    return 1


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
