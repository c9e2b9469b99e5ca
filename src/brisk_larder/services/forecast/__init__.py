"""What is believed of every lot, kept in the file and brought up to date."""
