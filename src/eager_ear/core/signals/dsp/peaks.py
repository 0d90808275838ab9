"""Where between the values a peak stands."""

from __future__ import annotations

import numpy as np

from eager_ear.core.units import FloatArray, IntArray


def peak_centre(
    values: FloatArray, places: FloatArray | IntArray, *, above: FloatArray | float = 0.0, power: int = 1
) -> FloatArray:
    """Mean of the places around a peak, each weighted by how far its value stands above a floor.

    The centroid uses what several noisy values say of the same peak, where a parabola would use three of them.

    Parameters
    ----------
    values : array [shape=(..., n)], the neighbourhood of each peak
    places : where those values stand [broadcast against `values`]
    above : the floor under the peak [broadcast against `values`]
    power : the larger, the more the top alone counts

    Returns
    -------
    array [shape=(...)], in the unit of `places`; NaN where nothing stands above the floor

    >>> float(peak_centre(np.array([0.0, 2.0, 2.0, 0.0]), np.arange(4.0)))
    1.5
    """
    weight = np.maximum(values - above, 0.0) ** power
    total = weight.sum(axis=-1)
    moment = (weight * places).sum(axis=-1)
    return np.where(total > 0, moment / np.where(total > 0, total, 1.0), np.nan)
