"""Not as root: whoever starts this as root sees it run as somebody who may do little."""

from __future__ import annotations

import os
import pwd
import subprocess
import sys
from pathlib import Path

ACCOUNT = "eager-ear"


def drop_privileges(folder: Path) -> str | None:
    """Become an unprivileged user, who owns the folder from then on; a sentence where that cannot be.

    Who used sudo is that user; else a system account of this product's own, made where it is missing.
    """
    if os.geteuid() != 0:
        return None
    user = _user()
    if user is None:
        return f"It runs as root, since the account {ACCOUNT} could not be made; the database runs as its own user."
    if not can_run(user, sys.executable):
        return "It runs as root, since its Python lies where only root can enter; the database runs as its own user."
    folder.mkdir(parents=True, exist_ok=True)
    for path in (folder, *folder.rglob("*")):
        os.chown(path, user.pw_uid, user.pw_gid, follow_symlinks=False)
    os.initgroups(user.pw_name, user.pw_gid)
    os.setgid(user.pw_gid)
    os.setuid(user.pw_uid)
    os.environ["HOME"] = user.pw_dir
    return None


def can_run(user: pwd.struct_passwd, program: str) -> bool:
    """Whether that user can start this program with this product."""
    words = [program, "-c", "import eager_ear"]
    try:
        done = subprocess.run(
            words, user=user.pw_uid, group=user.pw_gid, extra_groups=[], capture_output=True, check=False
        )
    except OSError:
        return False
    return done.returncode == 0


def _user() -> pwd.struct_passwd | None:
    sudo = os.environ.get("SUDO_UID", "")
    try:
        if sudo.isdigit() and sudo != "0":
            return pwd.getpwuid(int(sudo))
        return pwd.getpwnam(ACCOUNT)
    except KeyError:
        pass
    made = subprocess.run(
        ["useradd", "--system", "--no-create-home", "--shell", "/usr/sbin/nologin", ACCOUNT],
        capture_output=True,
        check=False,
    )
    return pwd.getpwnam(ACCOUNT) if made.returncode == 0 else None
