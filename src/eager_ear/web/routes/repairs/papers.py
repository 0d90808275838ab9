"""Papers of a job as PDF, and the follow-ups of all jobs as a calendar."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response

from eager_ear.paper import Size
from eager_ear.store import UnitOfWork
from eager_ear.use_cases.repairs.calendar import follow_ups_ics
from eager_ear.use_cases.repairs.papers import job_sheet_of, label_of, quote_of, report_of
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["papers"])
PDF: dict[int | str, dict[str, Any]] = {200: {"content": {"application/pdf": {}}}}


@router.get("/jobs/{job_id}/quote.pdf", response_class=Response, responses=PDF)
def quote(job_id: str, state: State, size: Size = "a4") -> Response:
    """What can be done and what it costs, for the customer."""
    with UnitOfWork(state.database) as work:
        content = quote_of(work, work.jobs.get(job_id), knowledge=state.knowledge, size=size)
    return _pdf(content, "quote.pdf")


@router.get("/jobs/{job_id}/job-sheet.pdf", response_class=Response, responses=PDF)
def job_sheet(job_id: str, state: State, size: Size = "a4") -> Response:
    """Every step with its box, for the bench."""
    with UnitOfWork(state.database) as work:
        content = job_sheet_of(work, work.jobs.get(job_id), knowledge=state.knowledge, size=size)
    return _pdf(content, "job-sheet.pdf")


@router.get("/jobs/{job_id}/report.pdf", response_class=Response, responses=PDF)
def report(job_id: str, state: State, size: Size = "a4") -> Response:
    """What was wrong, how we know, what was done and how it was proved, for the customer."""
    with UnitOfWork(state.database) as work:
        content = report_of(work, work.jobs.get(job_id), knowledge=state.knowledge, size=size)
    return _pdf(content, "report.pdf")


@router.get("/jobs/{job_id}/label.pdf", response_class=Response, responses=PDF)
def label(job_id: str, state: State, size: Size = "a4") -> Response:
    """What the next one should know who opens the machine, for the inside of the cabinet."""
    with UnitOfWork(state.database) as work:
        content = label_of(work, work.jobs.get(job_id), knowledge=state.knowledge, size=size)
    return _pdf(content, "label.pdf")


@router.get("/follow-ups.ics", response_class=Response, responses={200: {"content": {"text/calendar": {}}}})
def follow_ups(state: State) -> Response:
    """When somebody comes back to which job, for any calendar."""
    with UnitOfWork(state.database) as work:
        content = follow_ups_ics(work, knowledge=state.knowledge)
    headers = {"Content-Disposition": 'attachment; filename="follow-ups.ics"', "Cache-Control": "no-cache"}
    return Response(content, media_type="text/calendar", headers=headers)


def _pdf(content: bytes, name: str) -> Response:
    headers = {"Content-Disposition": f'inline; filename="{name}"', "Cache-Control": "no-cache"}
    return Response(content, media_type="application/pdf", headers=headers)
