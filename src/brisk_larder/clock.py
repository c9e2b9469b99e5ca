"""Clocks: the real one, a shifted one for --today, and one that the demo moves."""

from __future__ import annotations

import time
from dataclasses import dataclass, field


@dataclass
class SystemClock:
    """The machine's own time."""

    def now_s(self) -> int:
        """Epoch seconds now."""
        return int(time.time())


@dataclass
class ShiftedClock:
    """Starts at a given instant and runs on from there."""

    start_s: int
    begun: float = field(default_factory=time.monotonic)

    def now_s(self) -> int:
        """Epoch seconds on this clock."""
        return self.start_s + int(time.monotonic() - self.begun)


@dataclass
class MovedClock:
    """Stands still until it is moved: for replaying years."""

    at_s: int

    def now_s(self) -> int:
        """Epoch seconds on this clock."""
        return self.at_s
