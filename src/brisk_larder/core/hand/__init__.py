"""What people write and do by hand: numbers, days, amounts, codes, filing, seed as it is counted."""
