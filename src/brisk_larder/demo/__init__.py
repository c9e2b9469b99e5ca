"""The made-up household at Pellwick Mill, replayed through the same services as a real one."""

from .pellwick import build

__all__ = ["build"]
