"""The first page that a phone sees: which authority to trust, and how, before anything is asked over https.

Served without encryption, since a phone that does not trust the authority yet cannot open anything else. It holds the
authority's certificate, which is public, and nothing of the shop.
"""

from __future__ import annotations

import hashlib
import html
import socket
import ssl
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from threading import Thread

PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>A phone for Eager Ear</title>
<style>
body {{ font: 1.1rem/1.5 system-ui, sans-serif; color: #12343b; background: #edf2ef; max-width: 40rem;
  margin: 0 auto; padding: 1.5rem; }}
a.go {{ display: inline-block; padding: .9rem 1.4rem; background: #12343b; color: #edf2ef; font-weight: bold;
  border-radius: 2px 14px 2px 2px; text-decoration: none; margin: .3rem 0; }}
code {{ word-break: break-all; }} li {{ margin: .6rem 0; }}
</style></head><body>
<h1>A phone for this shop</h1>
<p>A phone lets a page hear and feel only where it knows who it talks to. So that it knows this shop, it is told once to
trust the shop's own authority. That authority can vouch for addresses within such networks and for nothing else.</p>
<ol>
<li><a class="go" href="/authority.crt">Fetch the authority</a></li>
<li>Compare its fingerprint with the one beside the machine that serves:<br><code>{fingerprint}</code></li>
<li>Install it. On phones that keep profiles: open the settings, choose the profile that was fetched, install it, then
switch on full trust for it under certificate trust. On phones that keep certificates: open the settings' security page,
choose to install a CA certificate from storage, and pick the file. On a computer: import it in the browser's list of
authorities, for websites only.</li>
<li><a class="go" href="{address}">Open Eager Ear</a>, and add it to the home screen: it then opens without a signal
too.</li>
</ol>
<p>When the phone leaves the shop, remove the authority in the same place.</p>
</body></html>
"""


class Welcome:
    """Serves that page and the certificate, until it is ended."""

    def __init__(self, *, host: str, port: int, authority: Path, address: str) -> None:
        certificate = authority.read_bytes()
        page = PAGE.format(fingerprint=fingerprint(certificate), address=html.escape(address)).encode()
        answers = {
            "/": ("text/html; charset=utf-8", page),
            "/authority.crt": ("application/x-x509-ca-cert", certificate),
        }

        class Answer(BaseHTTPRequestHandler):
            timeout = 10
            server_version, sys_version = "", ""

            def do_GET(self) -> None:
                kind, content = answers.get(self.path, ("text/plain", b""))
                self.send_response(HTTPStatus.OK if content else HTTPStatus.NOT_FOUND)
                self.send_header("Content-Type", kind)
                self.send_header("Content-Length", str(len(content)))
                self.send_header("X-Content-Type-Options", "nosniff")
                self.end_headers()
                self.wfile.write(content)

            def log_message(self, *_: object) -> None:
                """Nobody asks who looked."""

        class Server(ThreadingHTTPServer):
            address_family = socket.AF_INET6 if ":" in host else socket.AF_INET
            daemon_threads = True

        self._server = Server((host, port), Answer)
        self._thread = Thread(target=self._server.serve_forever, daemon=True, name="welcome")
        self._thread.start()

    def end(self) -> None:
        self._server.shutdown()
        self._server.server_close()


def fingerprint(certificate_pem: bytes) -> str:
    """SHA-256 of the certificate, in pairs, as phones show it."""
    digest = hashlib.sha256(ssl.PEM_cert_to_DER_cert(certificate_pem.decode())).hexdigest().upper()
    return ":".join(digest[i : i + 2] for i in range(0, len(digest), 2))
