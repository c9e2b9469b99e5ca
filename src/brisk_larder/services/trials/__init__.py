"""Tests: the bench, and what is done there."""
