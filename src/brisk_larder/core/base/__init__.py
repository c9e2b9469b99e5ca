"""What everything in core stands on: errors, units, the figures, the solver's rows, compiled loops."""
