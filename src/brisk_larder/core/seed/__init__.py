"""How seed ages and what is believed of it: viability, tests, relatives, joint worlds, plants from seeds."""
