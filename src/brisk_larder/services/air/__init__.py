"""What stood where behind which walls, and the air there: past, now and to come."""
