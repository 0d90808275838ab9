"""A certificate authority of the shop's own: made at first use, trusted by its phones, kept in the data folder.

Browsers let a page hear and feel only over https. No stranger can certify an address within a shop, so that the shop
does it itself. The authority may certify names within such networks only (name constraints, RFC 5280, 4.2.1.10): who
trusts it trusts it for nothing else.
"""

from __future__ import annotations

import ipaddress
import os
import socket
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

AUTHORITY_FOR = timedelta(days=3650)
# Phones refuse certificates that hold longer.
SERVER_FOR = timedelta(days=397)
RENEWED_BEFORE = timedelta(days=30)
PRIVATE_NETWORKS = (
    "10.0.0.0/8",
    "172.16.0.0/12",
    "192.168.0.0/16",
    "169.254.0.0/16",
    "127.0.0.0/8",
    "::1/128",
    "fc00::/7",
    "fe80::/10",
)
PRIVATE_NAMES = ("local", "lan", "home.arpa", "internal", "localhost")


@dataclass(frozen=True, kw_only=True)
class Certificates:
    """PEM files. authority : what phones are to trust; names : by which the server may be asked for"""

    authority: Path
    certificate: Path
    key: Path
    names: tuple[str, ...]


def ensure_certificates(folder: Path, *, addresses: Sequence[str], hostname: str, now: datetime) -> Certificates:
    """The shop's authority, and a certificate for these addresses, made or renewed where it has to be."""
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o700)
    names = _names_of(hostname)
    made = Certificates(
        authority=folder / "authority.crt", certificate=folder / "server.crt", key=folder / "server.key", names=names
    )
    authority, authority_key = _authority(folder, now)
    if not _still_good(made, authority, addresses, names, now):
        _write_server(made, authority, authority_key, addresses, names, now)
    return made


def lan_addresses() -> tuple[str, ...]:
    """Addresses of this machine in networks within, the one that leads out first."""
    found: list[str] = []
    for family, far in ((socket.AF_INET, "10.255.255.255"), (socket.AF_INET6, "fd00::1")):
        try:
            with socket.socket(family, socket.SOCK_DGRAM) as probe:
                # Nothing is sent: this asks only which way it would go.
                probe.connect((far, 9))
                found.append(str(probe.getsockname()[0]))
        except OSError:
            continue
    inside = [a for a in found if _is_within(a) and not ipaddress.ip_address(a).is_loopback]
    return tuple(dict.fromkeys(inside))


def _is_within(address: str) -> bool:
    ip = ipaddress.ip_address(address.split("%")[0])
    return any(ip in ipaddress.ip_network(n) for n in PRIVATE_NETWORKS if ip.version == ipaddress.ip_network(n).version)


def _names_of(hostname: str) -> tuple[str, ...]:
    plain = hostname.split(".")[0].lower() or "localhost"
    return (f"{plain}.local", f"{plain}.lan", "localhost")


def _authority(folder: Path, now: datetime) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    certificate, key = folder / "authority.crt", folder / "authority.key"
    if certificate.is_file() and key.is_file():
        held = x509.load_pem_x509_certificate(certificate.read_bytes())
        private = serialization.load_pem_private_key(key.read_bytes(), password=None)
        if isinstance(private, ec.EllipticCurvePrivateKey) and held.not_valid_after_utc > now + SERVER_FOR:
            return held, private
    private = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Eager Ear, this shop, {now:%Y-%m-%d}")])
    permitted: list[x509.GeneralName] = [x509.IPAddress(ipaddress.ip_network(n)) for n in PRIVATE_NETWORKS]
    permitted += [x509.DNSName(n) for n in PRIVATE_NAMES]
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(private.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + AUTHORITY_FOR)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.NameConstraints(permitted_subtrees=permitted, excluded_subtrees=None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(private.public_key()), critical=False)
        .sign(private, hashes.SHA256())
    )
    _write_secret(key, _pem(private))
    certificate.write_bytes(made.public_bytes(serialization.Encoding.PEM))
    return made, private


def _write_server(
    target: Certificates,
    authority: x509.Certificate,
    authority_key: ec.EllipticCurvePrivateKey,
    addresses: Sequence[str],
    names: Sequence[str],
    now: datetime,
) -> None:
    private = ec.generate_private_key(ec.SECP256R1())
    subjects: list[x509.GeneralName] = [x509.IPAddress(ipaddress.ip_address(a)) for a in _all(addresses)]
    subjects += [x509.DNSName(n) for n in names]
    made = (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, names[0])]))
        .issuer_name(authority.subject)
        .public_key(private.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + SERVER_FOR - timedelta(days=1))
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.SubjectAlternativeName(subjects), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()), critical=False)
        .sign(authority_key, hashes.SHA256())
    )
    _write_secret(target.key, _pem(private))
    target.certificate.write_bytes(made.public_bytes(serialization.Encoding.PEM))


def _still_good(
    held: Certificates, authority: x509.Certificate, addresses: Sequence[str], names: Sequence[str], now: datetime
) -> bool:
    if not held.certificate.is_file() or not held.key.is_file():
        return False
    certificate = x509.load_pem_x509_certificate(held.certificate.read_bytes())
    told = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    has = {str(a) for a in told.get_values_for_type(x509.IPAddress)} | set(told.get_values_for_type(x509.DNSName))
    wanted = {str(ipaddress.ip_address(a)) for a in _all(addresses)} | set(names)
    return (
        certificate.issuer == authority.subject
        and certificate.not_valid_after_utc > now + RENEWED_BEFORE
        and wanted <= has
    )


def _all(addresses: Sequence[str]) -> list[str]:
    return list(dict.fromkeys([*addresses, "127.0.0.1", "::1"]))


def _usage(*, signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        key_cert_sign=signs,
        crl_sign=signs,
        encipher_only=False,
        decipher_only=False,
    )


def _pem(private: ec.EllipticCurvePrivateKey) -> bytes:
    return private.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )


def _write_secret(path: Path, content: bytes) -> None:
    """Readable by its owner alone, from its first byte on."""
    path.unlink(missing_ok=True)
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(content)
