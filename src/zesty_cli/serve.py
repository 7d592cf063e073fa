"""``zesty serve``, ``zesty demo``, ``zesty worker``: the web process and its workers, kept alive."""

from __future__ import annotations

import argparse
import errno
import ipaddress
import os
import socket
import sys
import time
from pathlib import Path

from zesty_core.foundation.errors import BadInput

_SETTINGS = "zesty_server.config.settings"


def serve_command(options: argparse.Namespace) -> int:
    """Prepare the database, start everything, restart what dies, until told to stop."""
    if options.workers < 1:
        raise BadInput(f"--workers: must be at least 1, got {options.workers}", path="workers")
    if options.command != "worker":
        _check_address(options.host, options.port)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", _SETTINGS)
    from django.conf import settings

    # Reading the settings makes the data folder and its key, before two processes could.
    os.stat(settings.DATA)
    from zesty_cli.processes import Processes

    with Processes() as processes:
        if options.command != "worker":
            # It loads while the database is brought up to date, and serves after that.
            web = _module("zesty_server.web", str(options.port), options.host)
            processes.start("web", web, held=True)
        prepare_server()
        _begin_library(options)
        processes.release()
        if options.command != "worker":
            # First of all: whoever waits for a page waits for this.
            _wait_for(options.host, options.port)
        if options.command == "demo":
            _load_demo(options.samples)
        for _ in range(options.workers):
            processes.start("worker", _module("zesty_server.jobs.worker"))
        if options.command != "worker":
            print(f"Zesty Voice is at http://{options.host}:{options.port}/  (Ctrl+C stops it)")
            sys.stdout.flush()
        processes.watch()
    return 0


def prepare_server() -> None:
    """Read the server's settings, make the data private, and bring the database up to date."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", _SETTINGS)
    import django

    django.setup()
    from django.conf import settings

    from zesty_server.config.data_folder import keep_private
    from zesty_server.upgrade import upgrade_database

    if keep_private(settings.DATA):
        print(f"zesty: others could read {settings.DATA}; no longer", file=sys.stderr)
    upgrade_database(lambda text: print(f"zesty: {text}", file=sys.stderr))


def _begin_library(options: argparse.Namespace) -> None:
    """What there is from the first start on; of accounts, each has its own from its making on."""
    from django.conf import settings

    from zesty_server.accounts.selectors import accounts
    from zesty_server.starters import add_starters

    if settings.ACCOUNTS:
        if options.command == "demo":
            raise BadInput(
                "demo: loads for one person; unset ZESTY_ACCOUNTS, load it, set it again"
            )
        if not accounts().exists():
            print("There is no account yet. Make one: zesty account add NAME", file=sys.stderr)
        return
    add_starters()


def _load_demo(samples: str | None) -> None:
    from django.conf import settings

    from zesty_demo.material import is_made, make_material
    from zesty_server.demo import is_loaded, load_demo

    if is_loaded():
        return
    if samples is None:
        folder = Path(settings.DATA) / "demo-material"
        if not is_made(folder):
            print("Making the demo recordings ...", flush=True)
            make_material(folder)
        samples = str(folder / "recordings")
    load_demo(Path(samples), say=print)


def _module(name: str, *arguments: str) -> list[str]:
    return [sys.executable, "-m", name, *arguments]


def _check_address(host: str, port: int) -> None:
    try:
        address = ipaddress.IPv4Address(host)
    except ValueError:
        raise BadInput(
            f"--host: must be an IPv4 address such as 127.0.0.1, got {host}", path="host"
        ) from None
    if not address.is_loopback and not os.environ.get("ZESTY_ACCOUNTS"):
        raise BadInput(
            f"--host: {host} lets everybody on the network in; set ZESTY_ACCOUNTS=1, so that people "
            "sign in, and name this machine in ZESTY_HOSTS",
            path="host",
        )
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as fault:
            if fault.errno == errno.EADDRNOTAVAIL:
                raise BadInput(f"--host: this machine has no address {host}", path="host") from None
            raise BadInput(f"--port: {port} is in use; name another") from None


def _wait_for(host: str, port: int) -> None:
    for _ in range(600):
        with socket.socket() as probe:
            if probe.connect_ex((host, port)) == 0:
                return
        time.sleep(0.03)
