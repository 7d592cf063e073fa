"""A real server with real workers, and a browser."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import contextmanager
from pathlib import Path

import pytest
from playwright.sync_api import sync_playwright

from tests.made_sound import ROOT

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium")
_ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--autoplay-policy=no-user-gesture-required",
]
#: What is refused, not found, or (in a test of it) cut off, the browser tells as an error.
TOLD_ANYWAY = ("400", "401", "404", "ERR_FAILED")


def free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def of(data, **more):
    """Environment of a server with this data folder."""
    environment = os.environ | {"ZESTY_DATA": str(data)} | more
    environment.pop("ZESTY_TASKS", None)
    return environment


@contextmanager
def served(environment):
    """Where the application is served."""
    build = ROOT / "src" / "zesty_server" / "web_build" / "index.html"
    assert build.exists(), "the front end is not built: run `make build`"
    port = free_port()
    command = [sys.executable, "-m", "zesty_cli.main", "serve", "--port", str(port)]
    server = subprocess.Popen(command, env=environment, cwd=ROOT)
    try:
        url = f"http://127.0.0.1:{port}"
        for _ in range(300):
            try:
                urllib.request.urlopen(f"{url}/api/account/", timeout=1).close()
                break
            except OSError:
                time.sleep(0.1)
        yield url
    finally:
        server.terminate()
        server.wait(20)


@pytest.fixture(scope="module")
def address(tmp_path_factory):
    """One with a data folder of its own for each journey."""
    with served(of(tmp_path_factory.mktemp("data"))) as url:
        yield url


@pytest.fixture(scope="module")
def browser():
    """Ends with its journey: what drives it would keep other tests from the database."""
    with sync_playwright() as engine:
        made = engine.chromium.launch(executable_path=CHROMIUM, args=_ARGUMENTS)
        yield made
        made.close()


@pytest.fixture
def page(browser, address):
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=address, accept_downloads=True
    )
    context.add_init_script(path=str(Path(__file__).parent / "listen.js"))
    page = context.new_page()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("console", lambda m: faults.append(m.text) if m.type == "error" else None)
    yield page
    context.close()
    assert [f for f in faults if not any(w in f for w in TOLD_ANYWAY)] == []
