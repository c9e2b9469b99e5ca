"""The household, its kinds and measures, and how things are said; no air, no forecast."""
