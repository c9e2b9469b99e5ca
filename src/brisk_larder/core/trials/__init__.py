"""Germination tests: are they worth it, when, how many seeds, on which evening and in which spot."""
