"""Sound as an answer."""

from __future__ import annotations

from io import BytesIO

import soundfile
from fastapi.responses import Response

from eager_ear.core.signals.sound import Heard

DAY = {"Cache-Control": "private, max-age=86400"}


def wav(heard: Heard, headers: dict[str, str]) -> Response:
    """What is heard, as WAV."""
    sink = BytesIO()
    soundfile.write(sink, heard.samples, int(heard.sample_rate_hz), subtype="PCM_16", format="WAV")
    return Response(sink.getvalue(), media_type="audio/wav", headers=headers)
