"""What may be done to seed and readings, whichever room asks for it."""
