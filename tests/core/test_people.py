"""Who may do what, and what a password has to be."""

from __future__ import annotations

import pytest

from eager_ear.core.errors import InputError
from eager_ear.core.people import LONGEST_WAIT, may, read_name, read_password, read_role, wait_after


@pytest.mark.parametrize(
    ("method", "path", "allowed"),
    [
        ("GET", "/api/jobs", "owner technician trainee"),
        ("POST", "/api/jobs/1/decision", "owner technician trainee"),
        ("POST", "/api/judge", "owner technician trainee"),
        ("POST", "/api/hear/hand-turn", "owner technician trainee"),
        ("POST", "/api/bench/added-mass", "owner technician trainee"),
        ("PUT", "/api/shop/codes", "owner technician"),
        ("POST", "/api/sign-out", "owner technician trainee"),
        ("PUT", "/api/me/password", "owner technician trainee"),
        ("POST", "/api/jobs", "owner technician"),
        ("POST", "/api/jobs/1/entries", "owner technician"),
        ("PUT", "/api/jobs/1/recordings/2", "owner technician"),
        ("DELETE", "/api/jobs/1", "owner technician"),
        ("PUT", "/api/shop", "owner"),
        ("PUT", "/api/record/1/left-out", "owner"),
        ("GET", "/api/people", "owner"),
        ("POST", "/api/people/invitations", "owner"),
    ],
)
def test_a_role_may_do_its_own(method: str, path: str, allowed: str) -> None:
    assert [role for role in ("owner", "technician", "trainee") if may(role, method, path)] == allowed.split()


def test_what_cannot_be_is_refused_in_a_sentence() -> None:
    assert read_name("  Ann   Weir ") == "Ann Weir"
    assert read_role("trainee") == "trainee"
    assert read_password("herons at noon", name="ann") == "herons at noon"
    for wrong in ("short", "x" * 201, "1234567890", "Ann Weir Long", "aaaaaaaaaaaa"):
        with pytest.raises(InputError):
            read_password(wrong, name="ann weir long")
    for name in ("", "  ", "x" * 81, "a\x00b"):
        with pytest.raises(InputError):
            read_name(name)
    with pytest.raises(InputError):
        read_role("king")


def test_waits_double_and_end() -> None:
    waits = [wait_after(n).total_seconds() for n in range(30)]
    assert waits[:6] == [0, 0, 0, 0, 0, 30]
    assert waits == sorted(waits)
    assert waits[-1] == LONGEST_WAIT.total_seconds()
