"""Lines that are kept: last safe year, and which is grown anew in which year."""
