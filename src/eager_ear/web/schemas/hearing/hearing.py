"""What a phone heard or felt during a hand check."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from eager_ear.web.schemas.base import Strict

Finite = Annotated[float, Field(ge=-2e4, le=2e4, allow_inf_nan=False)]
Moment = Annotated[float, Field(ge=0, le=60, allow_inf_nan=False)]


class HeardIn(Strict):
    """samples : 16-bit little-endian, one channel, as base64; at most some five seconds."""

    rate_hz: Annotated[float, Field(ge=8_000, le=192_000, allow_inf_nan=False)]
    samples: Annotated[str, Field(max_length=1_900_000)]


class FeltIn(Strict):
    """rows : moment [s] and acceleration along x, y, z [m/s²], gravity included or not."""

    rows: Annotated[list[tuple[Moment, Finite, Finite, Finite]], Field(min_length=50, max_length=10_000)]


class FlickIn(Strict):
    """taps_s : moments at which a mark went by after a flick [s]."""

    taps_s: Annotated[list[Annotated[float, Field(ge=0, le=600, allow_inf_nan=False)]], Field(max_length=200)]
