"""From plates to seeds: what is needed, which lots cover it, what to buy, does the year fit, the pantry."""
