"""Papers of a job: whole files in both sizes, whatever is written on them."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import date

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eager_ear.core.cost import Offer, Question, Shop, make_offer
from eager_ear.core.machine import Machine
from eager_ear.knowledge import load_knowledge
from eager_ear.paper import QuoteFacts, quote_pdf
from eager_ear.paper.money import amount, amounts
from tests.diaries import check, entry, machine
from tests.web.visits import open_job, write

A4, LETTER = (595.28, 841.89), (612.0, 792.0)
FACTS = QuoteFacts(
    place="Lock cottage",
    machine="Top loader",
    headline="Coupler broken.",
    because="Seen.",
    suspects=[("Coupler", 0.93), ("Gearcase", 0.04)],
    made_on=date(2026, 3, 4),
    valid_until=date(2026, 4, 3),
)


def pages(content: bytes) -> list[tuple[float, float]]:
    """Width and height of every page, in points."""
    assert content.startswith(b"%PDF-")
    assert content.rstrip().endswith(b"%%EOF")
    boxes = re.findall(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", content)
    count = len(re.findall(rb"/Type /Page\b", content))
    assert count >= 1
    return [(float(w), float(h)) for w, h in boxes]


def an_offer() -> Offer:
    question = Question(
        machine=Machine(layout="top_coupler"),
        faults=("motor_coupler",),
        chances={"motor_coupler": 0.93},
        stage=None,
        day=date(2026, 3, 4),
    )
    return make_offer(question, shop=Shop(), prices={}, repair=load_knowledge().repair)


@pytest.fixture
def job(api: httpx.Client) -> str:
    return open_job(api, machine("Hostel, “Weir” №3", layout="top_coupler"), check("coupler_look", broken=True))


@pytest.mark.parametrize("paper", ["quote", "job-sheet", "report", "label"])
def test_a_paper_comes_in_both_sizes(api: httpx.Client, job: str, paper: str) -> None:
    for size, box in (("a4", A4), ("letter", LETTER)):
        answer = api.get(f"/api/jobs/{job}/{paper}.pdf", params={"size": size})
        assert (answer.status_code, answer.headers["content-type"]) == (200, "application/pdf")
        assert all(found == pytest.approx(box, abs=0.1) for found in pages(answer.content))
    assert api.get(f"/api/jobs/{job}/{paper}.pdf", params={"size": "napkin"}).status_code == 422


def test_a_report_tells_what_became_of_it(api: httpx.Client, job: str) -> None:
    before = len(api.get(f"/api/jobs/{job}/report.pdf").content)
    write(
        api,
        job,
        entry("offered", {"options": [{"path": ["coupler_kit"], "total": 9000, "currency": "EUR"}]}),
        entry("decided", {"option": 0, "answer": "yes"}),
        entry("found", {"faults": ["motor_coupler"], "not_there": [], "sure": True}),
        entry("follow_up", {"due": "2026-12-24", "what": "Look at the witness mark"}),
        entry("closed", {"outcome": "mended"}),
    )
    told = len(api.get(f"/api/jobs/{job}/report.pdf").content)
    assert told > before
    # An old part is told of when somebody said what became of it.
    write(api, job, entry("note", {"about": "old_part:coupler_kit", "text": "handed over"}))
    assert len(api.get(f"/api/jobs/{job}/report.pdf").content) > told
    assert len(pages(api.get(f"/api/jobs/{job}/label.pdf").content)) == 1


def test_a_signed_quote_is_longer_than_one_that_waits(api: httpx.Client, job: str) -> None:
    before = api.get(f"/api/jobs/{job}/quote.pdf").content
    option = {"path": ["coupler_kit"], "total": 9000, "currency": "EUR"}
    signature = "M10 10" + "L50 90L90 20" * 30
    write(
        api,
        job,
        entry("offered", {"options": [option]}),
        entry("decided", {"option": 0, "answer": "yes", "who": "Ida Weir", "signature": signature}),
    )
    assert len(api.get(f"/api/jobs/{job}/quote.pdf").content) > len(before)


def test_there_is_no_paper_of_a_machine_that_nobody_named(api: httpx.Client) -> None:
    blank = open_job(api, entry("machine", {"place": "Sluice"}))
    for paper in ("quote", "job-sheet"):
        answer = api.get(f"/api/jobs/{blank}/{paper}.pdf")
        assert (answer.status_code, answer.json()["code"]) == (422, "nothing_to_offer")


@given(st.text(max_size=200), st.text(max_size=60))
def test_whatever_was_typed_can_be_written(headline: str, place: str) -> None:
    odd = replace(FACTS, headline=headline, place=place, because=headline[::-1])
    signature = f"M{place}L1 2L"
    content = quote_pdf(odd, an_offer(), decided={"answer": "yes", "who": place, "signature": signature}, size="a4")
    assert pages(content)


def test_amounts_are_written_with_their_currency() -> None:
    total = an_offer().options[0].total
    assert amount(total.low).endswith("\u00a0EUR") or amount(total.low).endswith(" EUR")
    assert " to " in amounts(total)
