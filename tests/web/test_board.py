"""The board over HTTP: what waits for what, words, filters, pages."""

from __future__ import annotations

from typing import Any

import httpx
import pytest

from tests.diaries import check, entry, machine, told
from tests.web.visits import open_job, write


def board(api: httpx.Client, **asked: Any) -> dict[str, Any]:
    answer = api.get("/api/jobs", params=asked)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def found(api: httpx.Client, **asked: Any) -> list[str]:
    return [job["place"] for job in board(api, **asked)["jobs"]]


def waits(api: httpx.Client, job: str) -> str:
    return str(next(j["waits_for"] for j in board(api)["jobs"] if j["id"] == job))


OFFER = {"path": ["coupler_new"], "total": 9000, "currency": "EUR"}


def test_a_job_waits_for_one_thing_after_the_other(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_coupler"))
    assert waits(api, job) == "evidence"
    write(api, job, check("coupler_look", broken=True))
    assert waits(api, job) == "decision"
    write(api, job, entry("offered", {"options": [OFFER]}))
    assert waits(api, job) == "customer"
    write(api, job, entry("decided", {"option": 0, "answer": "yes"}))
    write(
        api, job, entry("priced", {"part": "coupler", "amount": 1500, "currency": "EUR", "available_on": "2026-12-03"})
    )
    assert waits(api, job) == "bench"
    shown = next(j for j in board(api)["jobs"] if j["id"] == job)
    assert shown["part_on"] == "2026-12-03"
    bridged = entry("bridged", {"where": "lid lock"})
    write(api, job, bridged)
    assert waits(api, job) == "restoring"
    assert board(api)["waiting"]["restoring"] == 1
    write(api, job, entry("restored", {"restored": bridged["id"]}))
    step = {"step": "top_coupler/pump_off", "state": "done"}
    write(api, job, entry("step", {**step, "way": "off"}), entry("step", {**step, "way": "on"}))
    assert waits(api, job) == "proof"
    write(api, job, entry("follow_up", {"due": "2027-01-02", "what": "Call"}), entry("closed", {"outcome": "declined"}))
    assert waits(api, job) == "follow_up"
    write(api, job, entry("follow_up", {"due": "2027-01-02", "what": "Call", "done": True}))
    assert waits(api, job) == "nothing"


def test_jobs_are_found_by_the_beginnings_of_all_their_words(api: httpx.Client) -> None:
    open_job(api, machine("Osier bed 4", layout="top_coupler"), told("shakes"))
    by_note = open_job(
        api, machine("Weir cottage"), entry("note", {"text": "Asked for Mrs. Withy-Bend", "about": "story"})
    )
    write(api, by_note, entry("contact", {"name": "Arne Sluys", "phone": "0912 77"}))
    open_job(api, machine("Osier bed 7", layout="front_direct"))
    assert found(api, q="osier") == ["Osier bed 7", "Osier bed 4"]
    assert found(api, q="OSI coupl") == ["Osier bed 4"]
    assert found(api, q="withy") == ["Weir cottage"]
    assert found(api, q="sluys weir") == ["Weir cottage"]
    assert found(api, q="bed 7") == ["Osier bed 7"]
    # Numbers as well, however short, and by their beginning.
    assert found(api, q="7") == ["Osier bed 7", "Weir cottage"]
    assert found(api, q="7 bed") == ["Osier bed 7"]
    assert found(api, q="09") == found(api, q="77 sluys") == ["Weir cottage"]
    assert found(api, q="12") == []
    assert found(api, q="shakes osier") == ["Osier bed 4"]
    assert found(api, q="sier") == []
    assert found(api, q='"); DROP TABLE jobs; -- osier%') == []
    assert found(api, q="osier", layout="front_direct") == ["Osier bed 7"]
    assert found(api, layout="front_belt", waits_for="decision") == []


def test_pages_follow_one_another_and_each_job_stands_once(api: httpx.Client) -> None:
    ids = [open_job(api, machine(f"Lock {n}")) for n in range(7)]
    seen, after = [], ""
    for _ in range(4):
        page = board(api, limit=2, after=after)
        seen += [job["id"] for job in page["jobs"]]
        if page["after"] is None:
            break
        after = page["after"]
    assert seen == ids[::-1]
    assert page["after"] is None
    assert page["waiting"] is None
    with_words = board(api, limit=2, q="lock")
    assert [j["place"] for j in board(api, limit=2, q="lock", after=with_words["after"])["jobs"]] == [
        "Lock 4",
        "Lock 3",
    ]


@pytest.mark.parametrize("after", ["yesterday", "2026-01-01/x", "/", "9999-99-99T00:00:00/1"])
def test_a_page_that_nobody_named_is_refused(api: httpx.Client, after: str) -> None:
    assert api.get("/api/jobs", params={"after": after}).status_code == 422


def test_rare_words_are_found_behind_the_newest(api: httpx.Client) -> None:
    rare = open_job(api, machine("Heronry"), entry("note", {"text": "The one with the reeds", "about": "story"}))
    for n in range(45):
        open_job(api, machine(f"Ferry {n}"))
    # Twenty pages of two are read for words; the heronry lies behind them.
    assert [j["id"] for j in board(api, limit=2, q="heron")["jobs"]] == [rare]
    # Words that no index keeps are held by the jobs all the same.
    assert [j["id"] for j in board(api, limit=2, q="heronry with the reeds")["jobs"]] == [rare]
    assert board(api, limit=2, q="heronry for the reeds")["jobs"] == []
