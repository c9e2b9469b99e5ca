"""Simulated outside devices and services; each speaks the interface a real one would."""
