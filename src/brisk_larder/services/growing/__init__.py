"""Growing: what was sown, and which line to regrow in which year."""
