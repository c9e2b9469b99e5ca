"""Brisk Larder: a household's seed stock, its storage and what to test, regrow, order."""

__version__ = "0.1.0"
