"""A stretch of a job's spin, for the ear."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response

from eager_ear.playback import Wish, listen
from eager_ear.web.sounds_out import wav
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["jobs"])


@router.get(
    "/jobs/{job_id}/listen",
    response_class=Response,
    responses={200: {"content": {"audio/wav": {"schema": {"type": "string", "format": "binary"}}}}},
)
def hear(
    job_id: str,
    state: State,
    way: str,
    begin_s: float = 0.0,
    end_s: float = 1.0,
    low_hz: float = 2000.0,
    high_hz: float = 9000.0,
    order: Annotated[list[float] | None, Query(max_length=64)] = None,
    times: float = 4.0,
    beside: str | None = None,
) -> Response:
    """The stretch as asked, as WAV; headers tell how far it was raised, and at which speed two spins meet."""
    wish = Wish(
        way=way,
        begin_s=begin_s,
        end_s=end_s,
        low_hz=low_hz,
        high_hz=high_hz,
        orders=tuple(order or ()),
        times=times,
        beside=beside,
    )
    heard = listen(state.database, job_uuid=job_id, wish=wish)
    headers = {"X-Raised-dB": f"{heard.raised_db:.3f}", "Cache-Control": "private, max-age=600"}
    if heard.speed_rpm is not None:
        headers["X-Speed-rpm"] = f"{heard.speed_rpm:.0f}"
    return wav(heard, headers)
