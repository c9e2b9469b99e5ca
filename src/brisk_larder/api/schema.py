"""The types that the front end takes from the contract: made from it whenever they are checked, never kept.

``python -m brisk_larder.api.schema web/src/api/schema.d.ts``
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from .app import make_app


def write_types(target: Path) -> None:
    """Types of the present contract, by openapi-typescript. Raises CalledProcessError."""
    web = target.resolve().parents[2]
    with tempfile.TemporaryDirectory() as folder:
        contract = Path(folder) / "openapi.json"
        contract.write_text(json.dumps(make_app(None).openapi()))
        tool = web / "node_modules" / ".bin" / "openapi-typescript"
        subprocess.run(
            [str(tool), str(contract), "-o", str(target.resolve())],
            check=True,
            capture_output=True,
            cwd=web,
        )


if __name__ == "__main__":
    write_types(Path(sys.argv[1]))
