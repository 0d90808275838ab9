"""Nobody gets in who should not: the door, codes, roles, ends of sign-ins, and what is written down of it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta

import httpx
import pytest
from sqlalchemy import text
from websockets.exceptions import InvalidStatus
from websockets.sync.client import connect

from eager_ear.core.people import ABSOLUTE, IDLE
from eager_ear.store import Database
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.shop.people import first_owner_code, recover_by_name
from tests.conftest import fresh_database
from tests.diaries import check, entry, machine, new_id
from tests.support import RunningServer
from tests.web.visits import small_wav

OWNER = {"name": "Ida Lock", "password": "herons at noon"}


@pytest.fixture(scope="module")
def shop_server(mariadb_url: str) -> Iterator[RunningServer]:
    running = RunningServer(fresh_database(mariadb_url), people=True)
    yield running
    running.stop()


@pytest.fixture
def shop(shop_server: RunningServer) -> Iterator[Database]:
    """A shop of nobody yet."""
    shop_server.reset()
    database = Database(shop_server.database_url)
    yield database
    database.close()


def device(server: RunningServer) -> httpx.Client:
    return httpx.Client(base_url=server.url, timeout=30)


@pytest.fixture
def owner(shop_server: RunningServer, shop: Database) -> Iterator[httpx.Client]:
    with device(shop_server) as client:
        code = first_owner_code(shop)
        joined = client.post("/api/join", json={"code": code, **OWNER})
        assert joined.status_code == 200, joined.text
        assert joined.json() == {"mode": "people", "name": "Ida Lock", "role": "owner", "pace": None}
        yield client


@contextmanager
def somebody(server: RunningServer, owner: httpx.Client, role: str, name: str) -> Iterator[httpx.Client]:
    """Somebody new, on a device of their own."""
    code = owner.post("/api/people/invitations", json={"role": role}).json()["code"]
    with device(server) as client:
        joined = client.post("/api/join", json={"code": code, "name": name, "password": "reeds in wind"})
        assert joined.status_code == 200, joined.text
        yield client


def opened(client: httpx.Client) -> httpx.Response:
    return client.post("/api/jobs", json={"id": new_id(), "entries": [machine()]})


def test_a_stranger_gets_nothing_but_the_door(shop_server: RunningServer, shop: Database) -> None:
    with device(shop_server) as stranger:
        assert stranger.get("/api/health").status_code == 200
        for path in ("jobs", "catalogue", "me", "people", "shop", "record", "machines", "follow-ups.ics"):
            answer = stranger.get(f"/api/{path}")
            assert (answer.status_code, answer.json()["code"]) == (401, "not_signed_in"), path
        assert opened(stranger).status_code == 401
        assert stranger.put(f"/api/jobs/{new_id()}/recordings/{new_id()}?name=a.wav", content=b"x").status_code == 401
        stranger.cookies.set("ear_session", "made-up")
        assert stranger.get("/api/jobs").status_code == 401
    socket = shop_server.url.replace("http", "ws")
    with pytest.raises((InvalidStatus, OSError)), connect(f"{socket}/api/jobs/{new_id()}/live"):
        pass
    assert shop is not None


def test_the_first_code_makes_the_owner_once(shop_server: RunningServer, shop: Database, owner: httpx.Client) -> None:
    assert first_owner_code(shop) is None
    assert owner.get("/api/me").json()["role"] == "owner"
    cookie = next(c for c in owner.cookies.jar if c.name == "ear_session")
    assert cookie.has_nonstandard_attr("HttpOnly")
    with device(shop_server) as again:
        answer = again.post(
            "/api/join", json={"code": "AAAA-BBBB-CCCC-DDDD", "name": "x", "password": "long enough ok"}
        )
        assert (answer.status_code, answer.json()["code"]) == (403, "not_allowed")


def test_roles_end_where_they_end_and_entries_carry_who(shop_server: RunningServer, owner: httpx.Client) -> None:
    with (
        somebody(shop_server, owner, "technician", "Tom Weir") as technician,
        somebody(shop_server, owner, "trainee", "Ora Reed") as trainee,
    ):
        job = opened(technician).json()["job"]["id"]
        history = technician.get(f"/api/jobs/{job}/entries").json()["entries"]
        assert {e["by"] for e in history} == {"Tom Weir"}
        # What somebody claims to be is not believed.
        forged = {**entry("note", {"text": "x"}), "by": "Ida Lock"}
        technician.post(f"/api/jobs/{job}/entries", json={"entries": [forged]})
        history = technician.get(f"/api/jobs/{job}/entries").json()["entries"]
        assert "Ida Lock" not in {e["by"] for e in history}
        assert trainee.get(f"/api/jobs/{job}").status_code == 200
        # How often each person was right is for the owner to see.
        found = check("coupler_look", broken=True), entry("found", {"faults": ["motor_coupler"], "sure": True})
        said = [machine(layout="top_coupler"), *found, entry("closed", {"outcome": "no_fault"})]
        answer = technician.post(f"/api/jobs/{job}/entries", json={"entries": said})
        assert [e["problem"] for e in answer.json()["entries"]] == [None] * 4
        assert [p["name"] for p in owner.get("/api/record").json()["by_person"]] == ["Tom Weir"]
        assert technician.get("/api/record").json()["by_person"] == []
        refused = trainee.post(f"/api/jobs/{job}/entries", json={"entries": [entry("note", {"text": "x"})]})
        assert (refused.status_code, refused.json()["code"]) == (403, "not_allowed")
        for client in (technician, trainee):
            assert client.get("/api/people").status_code == 403
            assert client.put("/api/shop", json={"settings": {"hour": 1}}).status_code == 403
            assert client.post("/api/people/invitations", json={"role": "owner"}).status_code == 403
        # A role that changes holds at once.
        people = owner.get("/api/people").json()["people"]
        ora = next(p for p in people if p["name"] == "Ora Reed")
        assert owner.put(f"/api/people/{ora['id']}", json={"role": "technician"}).status_code == 200
        assert opened(trainee).json()["job"]["practice"] is False
        assert owner.put(f"/api/people/{ora['id']}", json={"role": "technician", "disabled": True}).status_code == 200
        assert trainee.get("/api/jobs").status_code == 401
        ida = next(p for p in people if p["name"] == "Ida Lock")
        last = owner.put(f"/api/people/{ida['id']}", json={"role": "trainee"})
        assert last.status_code == 403
        assert "owner" in last.json()["message"]
        told = {a["what"] for a in owner.get("/api/people").json()["audit"]}
        assert {"joined", "signed_in", "invited", "role", "shut_out"} <= told


def test_wrong_passwords_lock_for_a_while_and_tell_nothing(shop_server: RunningServer, owner: httpx.Client) -> None:
    with device(shop_server) as guesser:
        unknown = guesser.post("/api/sign-in", json={"name": "nobody", "password": "x"})
        wrong = guesser.post("/api/sign-in", json={"name": "ida lock", "password": "x"})
        assert unknown.json() == wrong.json()
        assert wrong.status_code == 401
        for _ in range(4):
            guesser.post("/api/sign-in", json={"name": "Ida Lock", "password": "x"})
        locked = guesser.post("/api/sign-in", json=OWNER)
        assert (locked.status_code, locked.json()["code"]) == (429, "locked_out")
    # Who is in stays in.
    assert owner.get("/api/jobs").status_code == 200


def test_a_sign_in_ends_by_idling_by_age_and_everywhere(
    shop_server: RunningServer, shop: Database, owner: httpx.Client
) -> None:
    def with_all_seen(seen_ago: timedelta, made_ago: timedelta) -> None:
        with shop.engine.begin() as connection:
            at = {
                "seen": (now_utc() - seen_ago).replace(tzinfo=None),
                "made": (now_utc() - made_ago).replace(tzinfo=None),
            }
            connection.execute(text("UPDATE sign_ins SET seen_at = :seen, created_at = :made"), at)

    for seen, made in ((IDLE + timedelta(hours=1), IDLE * 2), (timedelta(0), ABSOLUTE + timedelta(hours=1))):
        owner.post("/api/sign-in", json=OWNER)
        assert owner.get("/api/jobs").status_code == 200
        with_all_seen(seen, made)
        assert owner.get("/api/jobs").status_code == 401
    owner.post("/api/sign-in", json=OWNER)
    with device(shop_server) as other:
        other.post("/api/sign-in", json=OWNER)
        assert other.post("/api/sign-out", json={"everywhere": True}).status_code == 200
        assert owner.get("/api/jobs").status_code == 401
    with shop.engine.connect() as connection:
        stored = connection.execute(text("SELECT name, password FROM people")).all()
    assert all(row.password.startswith("$argon2id$") for row in stored)


def test_passwords_change_and_are_set_anew_from_the_console(
    shop_server: RunningServer, shop: Database, owner: httpx.Client
) -> None:
    with device(shop_server) as other:
        other.post("/api/sign-in", json=OWNER)
        wrong = owner.put("/api/me/password", json={"old": "no", "new": "kingfishers dive"})
        assert wrong.status_code == 401
        weak = owner.put("/api/me/password", json={"old": OWNER["password"], "new": "short"})
        assert weak.status_code == 422
        assert (
            owner.put("/api/me/password", json={"old": OWNER["password"], "new": "kingfishers dive"}).status_code == 200
        )
        assert owner.get("/api/me").status_code == 200
        assert other.get("/api/me").status_code == 401
        code = recover_by_name(shop, name="ida lock")
        joined = other.post("/api/join", json={"code": code.lower(), "password": "otters at the weir"})
        assert joined.json()["name"] == "Ida Lock"
        assert owner.get("/api/me").status_code == 401
        assert other.post("/api/join", json={"code": code, "password": "otters at the weir"}).status_code == 403


def test_a_trainee_does_everything_on_practice_jobs_and_nothing_on_others(
    shop_server: RunningServer, owner: httpx.Client
) -> None:
    real = opened(owner).json()["job"]
    assert real["practice"] is False
    with somebody(shop_server, owner, "trainee", "Ora Reed") as trainee:
        practice = opened(trainee).json()["job"]
        assert practice["practice"] is True
        own = f"/api/jobs/{practice['id']}"
        found = check("coupler_look", broken=True), entry("found", {"faults": ["motor_coupler"], "sure": True})
        said = [machine("Bench", layout="top_coupler"), *found, entry("closed", {"outcome": "no_fault"})]
        answer = trainee.post(f"{own}/entries", json={"entries": said})
        assert [e["problem"] for e in answer.json()["entries"]] == [None] * 4
        sound = trainee.put(f"{own}/recordings/{new_id()}", params={"name": "a.wav"}, content=small_wav())
        assert sound.status_code == 200
        assert trainee.put("/api/shop", json={"settings": {"hour": 1}}).status_code == 403
        # Not by the address of another job, not under the id of one that counts, not as a visit to a real machine.
        assert trainee.put(f"/api/jobs/{real['id']}/recordings/{new_id()}", params={"name": "a.wav"}).status_code == 403
        taken = trainee.post("/api/jobs", json={"id": real["id"], "entries": [entry("note", {"text": "x"})]})
        assert taken.status_code == 403
        known = trainee.post(f"{own}/entries", json={"entries": [entry("machine", {"known_as": real["machine_id"]})]})
        assert known.json()["entries"][0]["problem"]["field"] == "body.known_as"
        assert trainee.delete(f"/api/jobs/{real['id']}/measuring").status_code == 403
        # What a practice job says of prices and sheets is not the shop's.
        priced = entry("priced", {"part": "coupler_kit", "amount": 1, "currency": "EUR", "source": "made up"})
        trainee.post(f"{own}/entries", json={"entries": [priced]})
        sheet = {"layout": "top_coupler", "name": "Made up", "photo": new_id(), "enter": [{"act": "left"}]}
        assert trainee.put(f"{own}/service-mode/sheets/{new_id()}", json=sheet).status_code == 403
        kept = entry("kept_part", {"part": "motor", "condition": "tested"})
        trainee.post(f"{own}/entries", json={"entries": [entry("taken_in", {"how": "given"}), kept]})
        assert "made up" not in owner.get("/api/shop").text
        assert owner.get("/api/shop/stock").json() == {"machines": [], "parts": []}
    # It teaches nothing, stands in no register, and is told apart on the board.
    assert owner.get("/api/record").json()["ended"] == 0
    assert practice["machine_id"] not in {m["id"] for m in owner.get("/api/machines").json()["machines"]}
    board = {j["id"]: j["practice"] for j in owner.get("/api/jobs").json()["jobs"]}
    assert board == {real["id"]: False, practice["id"]: True}


def test_an_owner_opens_a_practice_job_and_a_trainee_works_in_it(
    shop_server: RunningServer, owner: httpx.Client
) -> None:
    job = new_id()
    opening = owner.post("/api/jobs", json={"id": job, "practice": True, "entries": [machine("Bench")]})
    assert opening.json()["job"]["practice"] is True
    with somebody(shop_server, owner, "trainee", "Ora Reed") as trainee:
        answer = trainee.post(f"/api/jobs/{job}/entries", json={"entries": [check("belt_look", state="frayed")]})
        assert answer.json()["entries"][0]["problem"] is None


def test_plans_count_with_ones_own_pace_and_offers_with_the_shops(
    shop_server: RunningServer, owner: httpx.Client
) -> None:
    job = opened(owner).json()["job"]["id"]

    def minutes(client: httpx.Client) -> float:
        return float(client.get(f"/api/jobs/{job}/strip", params={"path": "belt_rigid"}).json()["least_minutes"])

    def work(client: httpx.Client) -> list[float]:
        options = client.get(f"/api/jobs/{job}/offer").json()["offer"]["options"]
        return [o["minutes"]["low"] for o in options]

    with somebody(shop_server, owner, "technician", "Wim Reed") as slow:
        usual, offered = minutes(slow), work(slow)
        assert slow.put("/api/me/pace", json={"pace": 2.0}).status_code == 200
        assert slow.get("/api/me").json()["pace"] == 2.0
        assert minutes(slow) == pytest.approx(2 * usual, abs=0.2)
        assert (minutes(owner), work(slow)) == (usual, offered)
        refused = slow.put("/api/me/pace", json={"pace": 0})
        assert (refused.status_code, refused.json()["code"]) == (422, "bad_field")
        assert slow.put("/api/me/pace", json={"pace": None}).status_code == 200
        assert minutes(slow) == usual
