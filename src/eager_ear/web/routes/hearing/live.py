"""Listening along while a spin is recorded: sound and motion in, readings out, over one socket.

The recording itself stays with who records it and is added afterwards, as any file: a socket that breaks loses
readings, never a recording. A block is a little-endian 32-bit number that says what it holds (1 sound, 2 motion), four
bytes of zero, and then 32-bit floats of sound, or rows of four 64-bit floats: time on the sound's clock [s], x, y, z
[m/s²].
"""

from __future__ import annotations

import asyncio
import contextlib

import numpy as np
from anyio import to_thread
from fastapi import APIRouter, WebSocket, WebSocketDisconnect, status
from fastapi.concurrency import run_in_threadpool

from eager_ear.core.errors import BadSignal, CoreError
from eager_ear.core.live import LiveEar, LiveReading
from eager_ear.core.machine import Machine
from eager_ear.store import NotFound, UnitOfWork
from eager_ear.store.errors import StoreError
from eager_ear.use_cases.diagnosis.weighing import visit_of
from eager_ear.web.schemas.hearing.live import LiveAnswer, LiveHello, LiveReadingOut, LiveTroubleOut
from eager_ear.web.state import AppState, State

router = APIRouter(prefix="/api", tags=["recordings"])
SOUND, MOTION = 1, 2
HEADER_BYTES = 8
# A block of a minute is no block; what comes late is sent in several.
MOST_BYTES = 1 << 22
MOST_SOCKETS = 16
SILENT_S = 120.0


@router.get("/jobs/{job_id}/live", status_code=426, responses={426: {"model": LiveAnswer}})
def only_by_socket(job_id: str) -> LiveAnswer:
    """Listening along needs a WebSocket at this address; its answers are described here."""
    say = f"Job {job_id} is listened to through a WebSocket at this address."
    return LiveAnswer(trouble=LiveTroubleOut(code="upgrade_required", message=say))


@router.websocket("/jobs/{job_id}/live")
async def live(socket: WebSocket, job_id: str, state: State) -> None:
    """Listen along with one recording of a job's machine."""
    await socket.accept()
    with contextlib.suppress(WebSocketDisconnect):
        if state.live.sockets >= MOST_SOCKETS:
            await _refuse(socket, "busy", "Too many listen along at this moment. The recording itself goes on.")
            return
        state.live.sockets += 1
        try:
            await _listen(socket, job_id, state)
        except (NotFound, BadSignal, StoreError) as problem:
            await _refuse(socket, problem.code, problem.sentence())
        except TimeoutError:
            await _refuse(socket, "silent", "Nothing came for two minutes.")
        finally:
            state.live.sockets -= 1


async def _listen(socket: WebSocket, job_id: str, state: AppState) -> None:
    """Raises WebSocketDisconnect when the other side is gone, NotFound, BadSignal, StoreError, TimeoutError."""
    machine = await run_in_threadpool(_machine, state, job_id)
    first = await _next(socket)
    try:
        hello = LiveHello.model_validate_json(first if isinstance(first, str) else "")
    except ValueError as exc:
        raise BadSignal(reason="The first message says which sound will come, as JSON.") from exc
    ear = LiveEar(machine=machine, audio_rate_hz=hello.audio_rate_hz, audio_start_s=hello.audio_start_s)
    shaking = state.knowledge.findings["strong_shake"]
    while True:
        block = await _next(socket)
        try:
            # By threads of its own: who listens along leaves the others' requests alone.
            readings = await to_thread.run_sync(_heard, ear, block, limiter=state.live.limiter)
        except CoreError as problem:
            answer = LiveAnswer(trouble=LiveTroubleOut(code=problem.code, message=problem.sentence()))
        else:
            answer = LiveAnswer(readings=[LiveReadingOut.of(r, shaking=shaking) for r in readings])
        if answer.readings or answer.trouble:
            await asyncio.wait_for(socket.send_text(answer.model_dump_json()), SILENT_S)


async def _next(socket: WebSocket) -> str | bytes:
    """The next message, as it came. Raises WebSocketDisconnect, TimeoutError."""
    message = await asyncio.wait_for(socket.receive(), SILENT_S)
    if message["type"] != "websocket.receive":
        raise WebSocketDisconnect(message.get("code", 1005))
    content: str | bytes | None = message.get("bytes")
    return content if content is not None else str(message.get("text", ""))


async def _refuse(socket: WebSocket, code: str, message: str) -> None:
    await socket.send_text(LiveAnswer(trouble=LiveTroubleOut(code=code, message=message)).model_dump_json())
    await socket.close(status.WS_1008_POLICY_VIOLATION)


def _machine(state: AppState, job_uuid: str) -> Machine:
    """Raises NotFound, and BadSignal as long as nobody said which layout it is."""
    with UnitOfWork(state.database) as work:
        machine = visit_of(work, work.jobs.get(job_uuid), knowledge=state.knowledge).story.machine
    if machine is None:
        raise BadSignal(reason="Which layout the machine has is not known yet: nothing is measured along.")
    return machine


def _heard(ear: LiveEar, block: str | bytes) -> list[LiveReading]:
    """What a block adds. Raises BadSignal."""
    if isinstance(block, str):
        raise BadSignal(reason="A block is bytes, not text.")
    kind = int.from_bytes(block[:4], "little")
    content = block[HEADER_BYTES:]
    if len(block) > MOST_BYTES or kind not in (SOUND, MOTION) or len(content) % (4 if kind == SOUND else 32):
        raise BadSignal(reason="A block is neither sound nor rows of motion.")
    if kind == SOUND:
        return ear.push_sound(np.frombuffer(content, dtype="<f4"))
    rows = np.frombuffer(content, dtype="<f8").reshape(-1, 4)
    return ear.push_motion(rows[:, 0], rows[:, 1:].T)
