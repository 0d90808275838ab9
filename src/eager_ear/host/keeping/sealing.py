"""A file sealed with a passphrase: AES-256-GCM in pieces, the key by scrypt (RFC 7914), pieces numbered and ended.

Each piece is authenticated with its number and whether it is the last, so that none can be changed, moved or cut off
unseen (the STREAM construction; Hoang, Reyhanitabar, Rogaway & Vizár, CRYPTO 2015).
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import IO

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from cryptography.hazmat.primitives.kdf.scrypt import Scrypt

MAGIC = b"eager-ear-sealed/1\n"
PIECE = 1 << 20
SALT, PREFIX, TAG = 16, 7, 16
COST = 1 << 16


class SealProblem(Exception):
    """It cannot be opened; the message says why."""


def is_sealed(path: Path) -> bool:
    """Whether a file begins as a sealed one."""
    with path.open("rb") as file:
        return file.read(len(MAGIC)) == MAGIC


def seal(source: Path, target: Path, *, passphrase: str) -> None:
    """Write `source` sealed to `target`."""
    salt, prefix = os.urandom(SALT), os.urandom(PREFIX)
    key = AESGCM(_key(passphrase, salt))
    with source.open("rb") as plain, target.open("wb") as out:
        out.write(MAGIC + salt + prefix)
        number, piece = 0, plain.read(PIECE)
        while True:
            following = plain.read(PIECE)
            out.write(key.encrypt(_nonce(prefix, number, last=not following), piece, None))
            if not following:
                return
            number, piece = number + 1, following


def unseal(source: Path, target: Path, *, passphrase: str) -> None:
    """Write what was sealed to `target`.

    Raises
    ------
    SealProblem
        Another passphrase, or changed or missing bytes.
    """
    with source.open("rb") as sealed, target.open("wb") as out:
        if sealed.read(len(MAGIC)) != MAGIC:
            raise SealProblem(f"{source.name} is not sealed.")
        salt, prefix = sealed.read(SALT), sealed.read(PREFIX)
        key = AESGCM(_key(passphrase, salt))
        for number, piece, last in _pieces(sealed):
            try:
                out.write(key.decrypt(_nonce(prefix, number, last=last), piece, None))
            except InvalidTag as exc:
                why = "the passphrase is another one, or the file is damaged" if number == 0 else "the file is damaged"
                raise SealProblem(f"{source.name} cannot be opened: {why}.") from exc


def _pieces(sealed: IO[bytes]) -> Iterator[tuple[int, bytes, bool]]:
    """Pieces with their numbers, the last one marked."""
    number, piece = 0, sealed.read(PIECE + TAG)
    while True:
        following = sealed.read(PIECE + TAG)
        yield number, piece, not following
        if not following:
            return
        number, piece = number + 1, following


def _key(passphrase: str, salt: bytes) -> bytes:
    return Scrypt(salt=salt, length=32, n=COST, r=8, p=1).derive(passphrase.encode())


def _nonce(prefix: bytes, number: int, *, last: bool) -> bytes:
    return prefix + number.to_bytes(4, "big") + (b"\x01" if last else b"\x00")
