"""Open formats in and out: parse and print, nothing else."""
