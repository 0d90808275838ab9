"""The shop's own authority: what it vouches for, for how long, who can read its key; and a phone's first visit."""

from __future__ import annotations

import ssl
import stat
import urllib.request
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import pytest
from cryptography import x509
from cryptography.x509.verification import PolicyBuilder, Store, VerificationError

from eager_ear.host.running.authority import PRIVATE_NETWORKS, SERVER_FOR, ensure_certificates, lan_addresses
from eager_ear.host.running.mariadb import free_port
from eager_ear.host.running.welcome import Welcome, fingerprint

NOW = datetime(2026, 11, 30, tzinfo=UTC)


def held(path: Path) -> x509.Certificate:
    return x509.load_pem_x509_certificate(path.read_bytes())


def test_a_server_is_vouched_for_at_its_addresses_and_nowhere_else(tmp_path: Path) -> None:
    made = ensure_certificates(tmp_path / "tls", addresses=["192.168.7.20"], hostname="Ear-Box.x", now=NOW)
    assert made.names == ("ear-box.local", "ear-box.lan", "localhost")
    authority, server = held(made.authority), held(made.certificate)
    verified = PolicyBuilder().store(Store([authority])).time(NOW)
    import ipaddress

    ok = verified.build_server_verifier(x509.IPAddress(ipaddress.ip_address("192.168.7.20")))
    assert len(ok.verify(server, [])) == 2
    with pytest.raises(VerificationError):
        verified.build_server_verifier(x509.DNSName("bank.example")).verify(server, [])
    told = authority.extensions.get_extension_for_class(x509.NameConstraints)
    assert told.critical
    networks = {str(n.value) for n in told.value.permitted_subtrees or [] if isinstance(n, x509.IPAddress)}
    assert networks == set(PRIVATE_NETWORKS)
    for name in ("authority.key", "server.key"):
        assert stat.S_IMODE((tmp_path / "tls" / name).stat().st_mode) == 0o600


def test_it_is_made_once_and_renewed_when_it_has_to_be(tmp_path: Path) -> None:
    first = ensure_certificates(tmp_path, addresses=["10.0.0.5"], hostname="ear", now=NOW)
    authority, server = first.authority.read_bytes(), first.certificate.read_bytes()
    ensure_certificates(tmp_path, addresses=["10.0.0.5"], hostname="ear", now=NOW + timedelta(days=100))
    assert first.certificate.read_bytes() == server
    # Another address, or soon at its end: another certificate by the same authority, so that phones notice nothing.
    ensure_certificates(tmp_path, addresses=["10.0.0.6"], hostname="ear", now=NOW)
    moved = first.certificate.read_bytes()
    assert moved != server
    ensure_certificates(tmp_path, addresses=["10.0.0.6"], hostname="ear", now=NOW + SERVER_FOR - timedelta(days=20))
    assert first.certificate.read_bytes() != moved
    assert first.authority.read_bytes() == authority


def test_a_phone_that_trusts_it_is_served_over_https(tmp_path: Path) -> None:
    """The certificate does in a real handshake what it says."""
    import http.server
    import threading

    made = ensure_certificates(tmp_path, addresses=[], hostname="ear", now=datetime.now(UTC))
    server = http.server.HTTPServer(("127.0.0.1", 0), http.server.SimpleHTTPRequestHandler)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(made.certificate, made.key)
    server.socket = context.wrap_socket(server.socket, server_side=True)
    thread = threading.Thread(target=server.handle_request, daemon=True)
    thread.start()
    trusting = ssl.create_default_context(cafile=str(made.authority))
    url = f"https://127.0.0.1:{server.server_port}/pyproject.toml"
    with urllib.request.urlopen(url, context=trusting, timeout=10) as answer:
        assert answer.status == 200
    thread.join(10)
    server.server_close()


@pytest.mark.parametrize("host", ["127.0.0.1", "::1"])
def test_the_first_page_tells_the_fingerprint_and_hands_out_the_authority_alone(tmp_path: Path, host: str) -> None:
    made = ensure_certificates(tmp_path, addresses=["10.0.0.5"], hostname="ear", now=NOW)
    port = free_port()
    at = f"http://[{host}]:{port}" if ":" in host else f"http://{host}:{port}"
    welcome = Welcome(host=host, port=port, authority=made.authority, address="https://10.0.0.5:8321")
    try:
        page = httpx.get(f"{at}/")
        assert fingerprint(made.authority.read_bytes()) in page.text
        assert "https://10.0.0.5:8321" in page.text
        assert httpx.get(f"{at}/authority.crt").content == made.authority.read_bytes()
        for path in ("/server.key", "/authority.key", "/../server.key", "/api/jobs"):
            assert httpx.get(f"{at}{path}").status_code == 404
    finally:
        welcome.end()


def test_addresses_are_those_of_networks_within() -> None:
    for address in lan_addresses():
        assert not address.startswith("127.")
