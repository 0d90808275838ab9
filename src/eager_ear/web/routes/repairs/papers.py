"""Papers of a job as PDF, and the follow-ups of all jobs as a calendar."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Response

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.repairs.calendar import follow_ups_ics
from eager_ear.web.state import AppState, State

router = APIRouter(prefix="/api", tags=["papers"])
Size = Literal["a4", "letter"]
Name = Literal["quote", "job-sheet", "report", "label"]
PDF: dict[int | str, dict[str, Any]] = {200: {"content": {"application/pdf": {}}}}


@router.get("/jobs/{job_id}/quote.pdf", response_class=Response, responses=PDF)
def quote(job_id: str, state: State, size: Size = "a4") -> Response:
    """What can be done and what it costs, for the customer."""
    return _paper("quote", job_id, state, size)


@router.get("/jobs/{job_id}/job-sheet.pdf", response_class=Response, responses=PDF)
def job_sheet(job_id: str, state: State, size: Size = "a4") -> Response:
    """Every step with its box, for the bench."""
    return _paper("job-sheet", job_id, state, size)


@router.get("/jobs/{job_id}/report.pdf", response_class=Response, responses=PDF)
def report(job_id: str, state: State, size: Size = "a4") -> Response:
    """What was wrong, how we know, what was done and how it was proved, for the customer."""
    return _paper("report", job_id, state, size)


@router.get("/jobs/{job_id}/label.pdf", response_class=Response, responses=PDF)
def label(job_id: str, state: State, size: Size = "a4") -> Response:
    """What the next one should know who opens the machine, for the inside of the cabinet."""
    return _paper("label", job_id, state, size)


@router.get("/follow-ups.ics", response_class=Response, responses={200: {"content": {"text/calendar": {}}}})
def follow_ups(state: State) -> Response:
    """When somebody comes back to which job, for any calendar."""
    with UnitOfWork(state.database) as work:
        content = follow_ups_ics(work, knowledge=state.knowledge)
    headers = {"Content-Disposition": 'attachment; filename="follow-ups.ics"', "Cache-Control": "no-cache"}
    return Response(content, media_type="text/calendar", headers=headers)


def _paper(
    name: Literal["quote", "job-sheet", "report", "label"], job_id: str, state: AppState, size: Size
) -> Response:
    # What writes them takes half a second to load: with the first paper, not with the server.
    from eager_ear.use_cases.repairs import papers

    makers = {
        "quote": papers.quote_of,
        "job-sheet": papers.job_sheet_of,
        "report": papers.report_of,
        "label": papers.label_of,
    }
    with UnitOfWork(state.database) as work:
        content = makers[name](work, work.jobs.get(job_id), knowledge=state.knowledge, size=size)
    headers = {"Content-Disposition": f'inline; filename="{name}.pdf"', "Cache-Control": "no-cache"}
    return Response(content, media_type="application/pdf", headers=headers)
