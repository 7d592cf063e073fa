"""Tries the built wheel as somebody who has no checkout and no Node: ``make test-wheel``.

For every Python on the path, and those that ``ZESTY_PYTHONS`` names: a clean environment, the wheel,
then ``zesty`` as a person uses it. Ends with
an error at the first thing that is not as it should be.
"""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

ROOT = Path(__file__).parents[2]
PYTHONS = ("python3.11", "python3.12", "python3.13", *os.environ.get("ZESTY_PYTHONS", "").split())
_START_S = 240


def main() -> None:
    """Try all."""
    (wheel,) = (ROOT / "dist").glob("*.whl")
    refuses_without_the_page()
    tried = [name for name in PYTHONS if is_there(name)]
    assert "python3.11" in tried, "Python 3.11 must be there"
    for name in tried:
        with TemporaryDirectory() as folder:
            works(name, wheel, Path(folder))
        print(f"{name}: the wheel works")


def is_there(python: str) -> bool:
    """Whether it starts; a name on the path may lead nowhere."""
    if not shutil.which(python):
        return False
    return not subprocess.run([python, "-c", ""], capture_output=True, check=False).returncode


def refuses_without_the_page() -> None:
    """A wheel without the page is not built."""
    with TemporaryDirectory() as folder:
        copy = Path(folder) / "source"
        shutil.copytree(ROOT / "src", copy / "src", ignore=shutil.ignore_patterns("web_build"))
        for name in ("pyproject.toml", "setup.py", "README.md", "LICENSE"):
            shutil.copy(ROOT / name, copy)
        command = [sys.executable, "-m", "pip", "wheel", "--no-deps", "-w", folder, str(copy)]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        assert done.returncode, "a wheel without the page was built"
        assert "The page is not built" in done.stdout + done.stderr


def works(python: str, wheel: Path, folder: Path) -> None:
    """Install, measure, process, serve."""
    subprocess.run([python, "-m", "venv", folder / "venv"], check=True)
    zesty = folder / "venv" / "bin" / "zesty"
    pip = [folder / "venv" / "bin" / "python", "-m", "pip", "install", "-q", "--no-compile"]
    subprocess.run([*pip, "-c", ROOT / "requirements.lock", wheel], check=True)
    env = {
        "PATH": f"{zesty.parent}:/usr/bin:/bin",
        "HOME": str(folder),
        "ZESTY_DATA": str(folder / "data"),
    }

    def run(*arguments: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [zesty, *arguments], cwd=folder, env=env, capture_output=True, text=True, check=True
        )

    assert run("--version").stdout.startswith("zesty ")
    assert "Kitchen-table podcast" in run("recipe", "list").stdout
    with serving(zesty, "demo", folder, env) as address:
        recordings = fetched(f"{address}/api/recordings/")
        assert len(recordings) == 6, recordings
        page = urllib.request.urlopen(address, timeout=10).read().decode()
        assert "/assets/" in page
    take = folder / "data" / "demo-material" / "recordings" / "volunteer-desk.wav"
    assert json.loads(run("measure", str(take), "--json").stdout)["channels"] == 1
    shutil.rmtree(next((folder / "venv").rglob("zesty_core/dsp/__pycache__")))
    first = run("process", str(take), "done.wav", "--recipe", "Voice for video")
    assert "compiling for this processor" in first.stderr
    again = run("process", str(take), "again.wav", "--recipe", "Voice for video")
    assert "compiling" not in again.stderr
    assert (folder / "done.wav").read_bytes() == (folder / "again.wav").read_bytes()


@contextlib.contextmanager
def serving(zesty: Path, command: str, folder: Path, env: dict[str, str]) -> Iterator[str]:
    """The address of a server that says it is there; stopped at the end."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    log = folder / "serve.log"
    with log.open("w") as out:
        server = subprocess.Popen(
            [zesty, command, "--port", str(port)], cwd=folder, env=env, stdout=out, stderr=out
        )
    try:
        deadline_s = time.monotonic() + _START_S
        while "Zesty Voice is at" not in log.read_text():
            assert server.poll() is None, log.read_text()
            assert time.monotonic() < deadline_s, log.read_text()
            time.sleep(0.2)
        yield f"http://127.0.0.1:{port}"
    finally:
        server.terminate()
        server.wait(30)


def fetched(url: str) -> list[object]:
    """A list that the server answers with."""
    with urllib.request.urlopen(url, timeout=30) as answer:
        found: list[object] = json.loads(answer.read())
    return found


if __name__ == "__main__":
    os.chdir(ROOT)
    main()
