"""The rules and the computation of the job: pure functions, no clock, no I/O, no interface."""
