"""The data folder: private, its key whole, and one sentence where it cannot be used."""

from __future__ import annotations

import os
import sqlite3
import stat
import subprocess
import sys
from datetime import timedelta

import pytest

from tests.made_sound import ROOT
from zesty_core.foundation.errors import BadInput
from zesty_server.config.data_folder import keep_private, make_folders, secret_key

MODES = 0o777


def mode(path):
    return stat.S_IMODE(path.stat().st_mode)


@pytest.mark.parametrize("broken", [None, b"", b"half-a-key", b"\xff\xfe" * 40])
def test_a_key_that_is_missing_or_broken_is_made_anew(tmp_path, broken):
    path = tmp_path / "secret-key"
    if broken is not None:
        path.write_bytes(broken)
    key = secret_key(path)
    assert len(key) >= 50
    assert secret_key(path) == key
    assert mode(path) == 0o600
    assert [p.name for p in tmp_path.iterdir()] == ["secret-key"]


def test_rights_of_others_are_taken_once(tmp_path):
    data = tmp_path / "data"
    for folder in ("media/recordings/one", "work", "holiday"):
        (data / folder).mkdir(parents=True)
    for name in ("zesty.sqlite3", "media/recordings/one/original", "holiday/photo"):
        (data / name).write_bytes(b"x")
        (data / name).chmod(0o644)
    (data / "media" / "elsewhere").symlink_to("/etc/hostname")
    data.chmod(0o755)
    assert keep_private(data)
    assert not keep_private(data)
    assert mode(data) == mode(data / "media" / "recordings" / "one") == 0o700
    assert mode(data / "zesty.sqlite3") == mode(data / "media/recordings/one/original") == 0o600
    # What is not ours stays as it was.
    assert mode(data / "holiday" / "photo") == 0o644


def test_a_file_in_the_place_of_the_folder(tmp_path):
    path = tmp_path / "data"
    path.write_text("a note")
    for folder in (path, path / "media"):
        with pytest.raises(BadInput, match=r"ZESTY_DATA: .*data.* is a file"):
            make_folders(folder)


def test_a_folder_that_cannot_be_written(tmp_path, monkeypatch):
    def read_only(*_, **__):
        raise OSError(30, "Read-only file system")

    monkeypatch.setattr("pathlib.Path.touch", read_only)
    with pytest.raises(BadInput, match="cannot be written to \\(Read-only file system\\)"):
        make_folders(tmp_path)


def zesty(data, *arguments, umask=0o022):
    command = [sys.executable, "-m", "zesty_cli.main", *arguments]
    own = {name: value for name, value in os.environ.items() if name != "DATABASE_URL"}
    return subprocess.run(
        command,
        env=own | {"ZESTY_DATA": str(data)},
        cwd=ROOT,
        capture_output=True,
        text=True,
        timeout=timedelta(minutes=1).total_seconds(),
        check=False,
        preexec_fn=lambda: os.umask(umask),
    )


def spoil_database(data):
    data.mkdir()
    (data / "zesty.sqlite3").write_bytes(b"no database at all" * 1000)


def use_newer(data):
    zesty(data, "account", "list")
    with sqlite3.connect(data / "zesty.sqlite3") as database:
        database.execute(
            "insert into django_migrations (app, name, applied) values (?, ?, ?)",
            ("recordings", "9999_of_next_year", "2031-01-01"),
        )


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda data: data.write_text("x"), "is a file; name a folder for the data"),
        (spoil_database, "The database cannot be used: "),
        (use_newer, "was last used by a newer Zesty Voice than"),
    ],
)
def test_what_cannot_be_used_is_said_in_one_sentence(tmp_path, spoil, words):
    spoil(tmp_path / "data")
    done = zesty(tmp_path / "data", "serve", "--port", "1")
    done = zesty(tmp_path / "data", "account", "list") if "--port" in done.stderr else done
    assert done.returncode == 2
    assert words in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1
    assert "Traceback" not in done.stderr


def test_a_database_is_copied_before_it_is_changed(tmp_path):
    data = tmp_path / "data"
    assert zesty(data, "account", "list", umask=0).returncode == 0
    assert mode(data) == 0o700
    assert mode(data / "zesty.sqlite3") == mode(data / "secret-key") == 0o600
    assert not list(data.glob("*before*"))
    with sqlite3.connect(data / "zesty.sqlite3") as database:
        database.execute("delete from django_migrations where name = '0001_sign_in_tries'")
        database.execute("drop table accounts_signintries")
    done = zesty(data, "account", "list")
    (copy,) = data.glob("zesty-before-*.sqlite3")
    assert f"The database was copied to {copy}" in done.stderr
    with sqlite3.connect(copy) as database:
        tables = {row[0] for row in database.execute("select name from sqlite_master")}
    assert "recordings_recording" in tables
    assert "accounts_signintries" not in tables
    assert mode(copy) == 0o600
