"""Least squares polynomials through many short rows of points at once."""

from __future__ import annotations

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray

DAMPING = 1e-9
"""Added to the normal equations, for rows whose points say too little; places are within -1 to 1 or a few pixels."""


def fitted_polynomials(
    t: FloatArray, values: FloatArray, degree: int, weight: FloatArray | None = None
) -> tuple[FloatArray, FloatArray]:
    """For rows of ``values`` (n, k, d) at places ``t`` (n, k): coefficients (n, degree + 1, d), constant first, and
    what is left of the values (n, k, d).

    Sums of powers are built one after the other along whole columns, which is many times faster than tensor products
    of short rows.
    """
    places = np.ascontiguousarray(t.T)
    across = [np.ascontiguousarray(values[:, :, d].T) for d in range(values.shape[2])]
    powers = [np.ones_like(places)]
    for _ in range(2 * degree):
        powers.append(powers[-1] * places)
    held = powers if weight is None else [np.ascontiguousarray(weight.T) * power for power in powers]
    sums = [power.sum(axis=0) for power in held]
    normal = np.empty((len(t), degree + 1, degree + 1))
    for i in range(degree + 1):
        for j in range(degree + 1):
            normal[:, i, j] = sums[i + j] + (DAMPING if i == j else 0.0)
    right = np.stack(
        [np.stack([(held[i] * one).sum(axis=0) for one in across], axis=1) for i in range(degree + 1)], axis=1
    )
    found = np.linalg.solve(normal, right)
    left = []
    for d, one in enumerate(across):
        for i in range(degree + 1):
            one = one - powers[i] * found[:, i, d]
        left.append(one.T)
    return found, np.stack(left, axis=2)
