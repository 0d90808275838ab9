"""Where to serve is looked at before anything is started, and told in a sentence where it cannot be."""

from __future__ import annotations

import socket
import subprocess
from pathlib import Path

import pytest

from eager_ear.host.running.mariadb import free_port
from eager_ear.host.running.run import Address


def certified(folder: Path, name: str, *, passphrase: str | None = None) -> tuple[Path, Path]:
    """A certificate and its key, locked or not."""
    certificate, key = folder / f"{name}.pem", folder / f"{name}.key"
    lock = ["-passout", f"pass:{passphrase}"] if passphrase else ["-nodes"]
    made = ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-days", "2"]
    where = ["-subj", "/CN=lock house", "-out", str(certificate), "-keyout", str(key)]
    subprocess.run([*made, *lock, *where], check=True, capture_output=True)
    return certificate, key


def problem(**more: object) -> str:
    return Address(**{"host": "127.0.0.1", "port": free_port(), **more}).problem or ""  # type: ignore[arg-type]


def test_certificates_and_keys_that_cannot_be_used_are_told_apart(tmp_path: Path) -> None:
    certificate, key = certified(tmp_path, "own")
    other, _ = certified(tmp_path, "other")
    locked, locked_key = certified(tmp_path, "locked", passphrase="weir and lock")
    words = tmp_path / "words.pem"
    words.write_text("made up")
    assert "go together" in problem(certificate=certificate)
    assert "no file" in problem(certificate=certificate, key=tmp_path / "missing.key")
    assert "in PEM" in problem(certificate=words, key=words)
    assert "in PEM" in problem(certificate=other, key=key)
    assert "passphrase" in problem(certificate=locked, key=locked_key)
    good = Address(host="127.0.0.1", port=free_port(), certificate=certificate, key=key)
    assert good.problem is None
    assert good.words[-2:] == ["--ssl-keyfile", str(key)]


def test_ports_and_addresses_that_cannot_be_used_are_told() -> None:
    with socket.socket() as busy:
        busy.bind(("127.0.0.1", 0))
        busy.listen()
        assert "cannot be used" in problem(port=busy.getsockname()[1])
    assert "no port 70000" in problem(port=70_000)
    assert "no port -1" in problem(port=-1)
    assert "cannot be used" in problem(host="no such name.invalid")


@pytest.mark.parametrize(
    ("host", "url", "loopback"),
    [
        ("127.0.0.1", "http://127.0.0.1:8321", True),
        ("::1", "http://[::1]:8321", True),
        ("localhost", "http://localhost:8321", True),
        ("192.168.7.7", "http://192.168.7.7:8321", False),
        ("::", "http://[::]:8321", False),
    ],
)
def test_addresses_of_both_kinds_are_written_as_browsers_want_them(host: str, url: str, loopback: bool) -> None:
    address = Address(host=host, port=8321)
    assert (address.url, address.is_loopback) == (url, loopback)
