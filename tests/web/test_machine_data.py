"""A machine's data handed out, taken away for good, and laid together where it was two."""

from __future__ import annotations

import io
import zipfile

import httpx
from sqlalchemy import text

from eager_ear.store import Database
from tests.diaries import check, entry, machine, new_id, told
from tests.support import RunningServer
from tests.web.test_guiding import SHEET, photographed
from tests.web.visits import add_recording, open_job, small_wav, write

COUNTED = (
    "jobs",
    "machines",
    "entries",
    "attachments",
    "files",
    "file_chunks",
    "calls",
    "outcomes",
    "used_parts",
    "service_sheets",
)


def rows(server: RunningServer) -> dict[str, int]:
    database = Database(server.database_url)
    with database.engine.connect() as connection:
        told = {t: int(connection.execute(text(f"SELECT COUNT(*) FROM {t}")).scalar_one()) for t in COUNTED}
    database.close()
    return told


def machine_of(api: httpx.Client, job: str) -> str:
    return str(api.get(f"/api/jobs/{job}").json()["machine_id"])


def visited(api: httpx.Client, place: str) -> str:
    """A job with all that can be kept of one."""
    job = open_job(api, machine(place, layout="top_pulsator"), check("rock", gap_mm=[0, 0, 5, 0]))
    write(api, job, entry("contact", {"name": "Arne Sluys", "phone": "0912 77"}))
    write(api, job, entry("kept_part", {"part": "motor", "condition": "tested"}))
    add_recording(api, job, small_wav(3))
    photo = photographed(api, job)
    write(api, job, entry("photo", {"photo": photo, "about": "service_sheet", "role": "sheet"}))
    sheet = {**SHEET, "photo": photo}
    assert api.put(f"/api/jobs/{job}/service-mode/sheets/{new_id()}", json=sheet).status_code == 200
    write(api, job, entry("found", {"faults": ["not_level"], "sure": True}), entry("closed", {"outcome": "no_fault"}))
    return job


def test_everything_of_a_machine_is_handed_out_with_its_people(api: httpx.Client) -> None:
    job = visited(api, "Osier bed 4")
    id_ = machine_of(api, job)
    answer = api.get(f"/api/machines/{id_}/all.zip")
    assert answer.status_code == 200
    assert "osier-bed-4.zip" in answer.headers["content-disposition"]
    with zipfile.ZipFile(io.BytesIO(answer.content)) as held:
        [visit] = [name for name in held.namelist() if name.endswith(".zip")]
        with zipfile.ZipFile(io.BytesIO(held.read(visit))) as case:
            names = case.namelist()
            assert "Arne Sluys" in case.read("diary.jsonl").decode()
            assert any(name.startswith("photos/") for name in names)
            assert any(name.endswith(".wav") for name in names)
    # A case that is handed on leaves the customer out.
    with zipfile.ZipFile(io.BytesIO(api.get(f"/api/jobs/{job}/case.zip").content)) as case:
        assert "Arne Sluys" not in case.read("diary.jsonl").decode()
    audit = api.get("/api/people").json()["audit"]
    assert [(a["what"], a["about"]) for a in audit[:2]] == [("export", "Osier bed 4"), ("export", "Osier bed 4")]


def test_a_machine_that_is_forgotten_leaves_nothing_and_others_keep_theirs(
    api: httpx.Client, server: RunningServer
) -> None:
    stays = open_job(api, machine("Weir cottage"))
    add_recording(api, stays, small_wav(3))
    before = rows(server)
    gone = visited(api, "Osier bed 4")
    id_ = machine_of(api, gone)
    assert rows(server)["service_sheets"] == 1
    wrong = api.post(f"/api/machines/{id_}/forget", json={"place": "Osier bed"})
    assert (wrong.status_code, wrong.json()["field"]) == (422, "place")
    assert api.post(f"/api/machines/{id_}/forget", json={"place": "Osier bed 4"}).status_code == 204
    assert rows(server) == before
    assert api.get(f"/api/jobs/{gone}").status_code == 404
    assert api.get(f"/api/machines/{id_}").status_code == 404
    # The same bytes in another job are still there.
    [kept] = api.get(f"/api/jobs/{stays}").json()["recordings"]
    assert api.get(f"/api/jobs/{stays}/recordings/{kept['id']}").content == small_wav(3)
    [noted] = [a for a in api.get("/api/people").json()["audit"] if a["what"] == "forget"]
    assert "Osier" not in noted["about"]


def test_a_machine_entered_twice_is_laid_together_and_each_visit_can_take_it_back(api: httpx.Client) -> None:
    first = open_job(api, machine("Toll house", layout="front_belt", max_spin_rpm=1400))
    second = open_job(api, machine("Toll house, cellar", layout="front_belt"))
    into, twice = machine_of(api, first), machine_of(api, second)
    told = api.post(f"/api/machines/{twice}/merge", json={"into": into})
    assert told.status_code == 200, told.text
    assert {v["id"] for v in told.json()["visits"]} == {first, second}
    assert machine_of(api, second) == into
    assert api.get(f"/api/machines/{twice}").status_code == 404
    assert api.post(f"/api/machines/{into}/merge", json={"into": into}).status_code == 422
    other = machine_of(api, open_job(api, machine("Mill", layout="top_splined")))
    assert api.post(f"/api/machines/{into}/merge", json={"into": other}).status_code == 422
    said = [e for e in api.get(f"/api/jobs/{second}/entries").json()["entries"] if e["device"] == "server"]
    write(api, second, entry("machine", None, replaces=said[0]["id"]))
    assert machine_of(api, second) != into


def test_a_case_of_another_shop_comes_in_without_what_it_names_there(api: httpx.Client) -> None:
    """Machines of its register, the other machine of its column, a used part from its shelf: they are not here."""
    kept = entry("kept_part", {"part": "motor", "condition": "tested"})
    donor = open_job(api, machine("Shed", layout="top_coupler"), kept)
    upper = open_job(api, machine("Hostel, upper", layout="front_belt"))
    ids = [api.get(f"/api/jobs/{job}").json()["machine_id"] for job in (donor, upper)]
    job = open_job(api, machine("Hostel", layout="top_coupler"), told("no_spin"))
    fitted = entry("fitted_used", {"kept": kept["id"], "part": "motor"})
    write(api, job, fitted, entry("machine", {"column_with": ids[1], "known_as": ids[0], "age_years": 6}))
    taken_back = entry("fitted_used", None, replaces=fitted["id"])
    write(api, job, taken_back)
    held = api.get(f"/api/jobs/{job}/case.zip").content
    # As if it came to a shop that has none of these.
    for id_, place in zip(ids, ("Hostel", "Hostel, upper"), strict=True):
        gone = api.post(f"/api/machines/{id_}/forget", json={"place": place})
        assert gone.status_code == 204, gone.text
    assert api.get(f"/api/jobs/{job}").status_code == 404
    answer = api.post("/api/cases", content=held)
    assert answer.status_code == 201, answer.text
    back = answer.json()
    assert (back["id"], back["symptoms"], back["machine"]["age_years"]) == (job, ["no_spin"], 6)
    assert (back["known_as"], back["machine"]["column_with"]) == (None, None)
    assert back["stock"]["fitted"] == []


def test_the_place_itself_is_suggested_before_those_that_share_a_word(api: httpx.Client) -> None:
    own = open_job(api, machine("Osier bed 4"))
    for number in range(8):
        open_job(api, machine(f"Osier bed 1{number}"))
    suggested = api.get("/api/machines", params={"place": "osier bed 4"}).json()["machines"]
    assert suggested[0]["place"] == "Osier bed 4"
    assert [v["id"] for v in suggested[0]["visits"]] == [own]
    assert len(suggested) == 6
