"""A household's file in a folder that takes nothing, because it is read only or its disk is full: it is whole
all the same, and can be looked at in a copy elsewhere."""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path

PROBE_BYTES = 256 * 1024  # what SQLite lays beside a file to read it, and some more


def why_nothing_is_taken(folder: Path) -> str | None:
    """Why a folder takes no new file, in the system's words; None when it does."""
    try:
        with tempfile.TemporaryFile(dir=folder) as probe:
            probe.write(b"\0" * PROBE_BYTES)
            probe.flush()
            os.fsync(probe.fileno())
    except OSError as error:
        return error.strerror or str(error)
    return None


def copied_plainly(source: Path, folder: Path) -> Path:
    """A copy of a file and its write-ahead log, byte by byte, in another folder: for a file that nobody can
    write to now. Raises OSError."""
    copy = folder / source.name
    shutil.copyfile(source, copy)
    log = source.with_name(source.name + "-wal")
    if log.exists():
        shutil.copyfile(log, copy.with_name(log.name))
    return copy
