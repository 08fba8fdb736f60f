"""A server under attack and its clients; see `attack.py`."""

from __future__ import annotations

import http.cookiejar
import os
import re
import signal
import subprocess
import sys
import urllib.error
import urllib.parse
import urllib.request
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
RUN = {"when": "2026-03-04", "who": "R.T.", "front": "straw", "back": "silver", "outcome": "no"}


class StayOnPage(urllib.request.HTTPRedirectHandler):
    """Ignores redirects."""

    def redirect_request(self, *args: Any) -> None:
        """Return no request, so that a redirect is not followed."""
        return


class Server:
    """A server in a separate process."""

    def __init__(self, folder: Path, *more: str) -> None:
        """Start a server on a free port.

        Args:
            folder: The data folder.
            more: More arguments of the command.
        """
        self.process = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "wisearc",
                "serve",
                "--data",
                str(folder),
                "--port",
                "0",
                "--no-browser",
                *more,
            ],
            cwd=ROOT,
            text=True,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            env={k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"},
        )

    def wait(self) -> str:
        """Return the address, or an empty string if the server did not start."""
        for line in self.process.stdout:
            if found := re.search(r"http://127[^/]*/", line):
                self.address = found[0]
                return self.address
        return ""

    def resident_mb(self) -> float:
        """Return the resident memory, MB."""
        status = Path(f"/proc/{self.process.pid}/status").read_text(encoding="ascii")
        return (
            next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmRSS"))
            / 1000
        )

    def end(self, how: int = signal.SIGKILL) -> str:
        """Stop the server and return its messages.

        Args:
            how: The signal.
        """
        self.process.send_signal(how)
        return self.process.communicate()[1]


class Client:
    """A client with cookies and a CSRF token."""

    def __init__(self, address: str) -> None:
        """Connect to a server."""
        self.address = address.rstrip("/")
        jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPCookieProcessor(jar), StayOnPage()
        )
        self.token = re.search(
            r'name="csrf_token" value="([^"]+)"', self.get("/?joint=tee").decode()
        )[1]

    def get(self, path: str) -> bytes:
        """Return the body of a page."""
        return self.opener.open(self.address + path, timeout=20).read()

    def post(self, path: str, **form: Any) -> tuple[int, str]:
        """Post a form. Return the status and the location."""
        data = urllib.parse.urlencode({"csrf_token": self.token, **form}, doseq=True).encode()
        try:
            done = self.opener.open(urllib.request.Request(self.address + path, data), timeout=20)
            return done.status, done.headers.get("Location", "")
        except urllib.error.HTTPError as error:
            error.read()
            return error.code, error.headers.get("Location", "")


def run_command(*words: str) -> subprocess.CompletedProcess[str]:
    """Run a `wisearc` command.

    Args:
        words: Arguments of the command.

    Returns:
        The completed process with its output.
    """
    return subprocess.run(
        [sys.executable, "-m", "wisearc", *words],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
