"""Needs: from what the household eats to seeds."""
