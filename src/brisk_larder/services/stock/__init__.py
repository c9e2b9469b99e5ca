"""Stock: the list, one lot, entry, filing, stocktake, triage, labels."""
