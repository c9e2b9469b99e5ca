"""Rows of a sparse system of conditions, for the mixed-integer solver."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from scipy.optimize import LinearConstraint
from scipy.sparse import coo_array

Term = tuple[int, float]


class Rows:
    """Conditions one under another: each a sum of columns times values, at most and at least so much."""

    def __init__(self) -> None:
        self.at: list[int] = []
        self.column: list[int] = []
        self.value: list[float] = []
        self.least: list[float] = []
        self.most: list[float] = []

    def add(self, terms: Iterable[Term], most: float, least: float = -np.inf) -> None:
        """One more condition."""
        for column, value in terms:
            self.at.append(len(self.most))
            self.column.append(column)
            self.value.append(value)
        self.most.append(most)
        self.least.append(least)

    def constraint(self, columns: int) -> LinearConstraint:
        """All of them, over so many columns."""
        shape = (len(self.most), columns)
        matrix = coo_array((self.value, (self.at, self.column)), shape=shape).tocsr()
        return LinearConstraint(matrix, lb=np.array(self.least), ub=np.array(self.most))
