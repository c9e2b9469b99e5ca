"""Saving: what the book says of each kept line."""
