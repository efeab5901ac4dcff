"""Letting devices in: the warning without TLS, a certificate by file, and what is said of a wrong one."""

from __future__ import annotations

import shutil
import ssl
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from pathlib import Path

from bildung.api.serve import is_here, tls_problem
from tests.support import found_folder, free_port

LONGEST = 60.0


def certificate(folder: Path) -> tuple[Path, Path]:
    cert, key = folder / "cert.pem", folder / "key.pem"
    subprocess.run(
        [
            "openssl",
            "req",
            "-x509",
            "-newkey",
            "ec",
            "-pkeyopt",
            "ec_paramgen_curve:prime256v1",
            "-nodes",
            "-days",
            "2",
            "-subj",
            "/CN=localhost",
            "-addext",
            "subjectAltName=DNS:localhost,IP:127.0.0.1",
            "-keyout",
            str(key),
            "-out",
            str(cert),
        ],
        check=True,
        capture_output=True,
    )
    return cert, key


@unittest.skipUnless(shutil.which("openssl"), "needs openssl to make a certificate")
class Serving(unittest.TestCase):
    def setUp(self) -> None:
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)
        found_folder(self.folder / "data")

    def start(self, *more: str) -> tuple[subprocess.Popen[str], int]:
        port = free_port()
        server = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "bildung.cli",
                "serve",
                "--data",
                str(self.folder / "data"),
                "--port",
                str(port),
                *more,
            ],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            text=True,
        )
        self.addCleanup(lambda: server.stderr and server.stderr.close())
        self.addCleanup(server.wait)
        self.addCleanup(server.terminate)
        return server, port

    def ask(self, url: str, context: ssl.SSLContext | None = None) -> dict[str, str]:
        until = time.monotonic() + LONGEST
        while True:
            try:
                with urllib.request.urlopen(url, timeout=5, context=context) as answer:
                    return dict(answer.headers.items())
            except OSError:
                if time.monotonic() > until:
                    raise

    def test_other_hosts_without_tls_are_warned_of(self) -> None:
        server, port = self.start("--host", "0.0.0.0")
        headers = self.ask(f"http://127.0.0.1:{port}/api/welcome")
        self.assertNotIn("strict-transport-security", headers)
        server.terminate()
        self.assertEqual(server.wait(LONGEST), 0)
        assert server.stderr is not None
        self.assertIn("lets other devices in without TLS", server.stderr.read())

    def test_a_certificate_by_file_serves_by_tls_and_is_not_warned_of(self) -> None:
        cert, key = certificate(self.folder)
        server, port = self.start("--host", "0.0.0.0", "--cert", str(cert), "--key", str(key))
        headers = self.ask(f"https://localhost:{port}/api/welcome", ssl.create_default_context(cafile=str(cert)))
        self.assertEqual(headers["strict-transport-security"], "max-age=31536000")
        server.terminate()
        server.wait(LONGEST)
        assert server.stderr is not None
        self.assertNotIn("without TLS", server.stderr.read())

    def test_what_is_no_certificate_with_its_key_is_said_before_anything_is_served(self) -> None:
        cert, key = certificate(self.folder)
        other = self.folder / "other"
        other.mkdir()
        _, foreign = certificate(other)
        self.assertEqual(tls_problem(cert, key), "")
        self.assertIn("wants both", tls_problem(cert, None))
        self.assertIn("is no file", tls_problem(self.folder / "nothing.pem", key))
        self.assertIn("no certificate with its key", tls_problem(cert, foreign))
        self.assertIn("no certificate with its key", tls_problem(key, cert))

    def test_this_machine_is_this_machine(self) -> None:
        self.assertEqual(
            [is_here(h) for h in ("localhost", "127.0.0.1", "::1", "0.0.0.0", "bildung.example.org")],
            [True, True, True, False, False],
        )
