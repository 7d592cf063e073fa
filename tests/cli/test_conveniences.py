"""What the command line offers besides its work: completion, quiet, verbose, addresses."""

from __future__ import annotations

import json
import shutil
import subprocess

import pytest

from tests.made_sound import STARTER, noise, write
from zesty_cli.completion import SHELLS
from zesty_cli.main import BAD_USE, DONE, main


@pytest.mark.parametrize("shell", SHELLS)
def test_completion_names_commands_and_options(shell, capsys, tmp_path):
    assert main(["completion", shell]) == DONE
    script = capsys.readouterr().out
    assert "measure" in script
    assert "room-tone" in script
    if shutil.which(shell):
        path = tmp_path / "script"
        path.write_text(script)
        subprocess.run([shell, "-n", path], check=True)


@pytest.fixture
def take(tmp_path):
    return write(tmp_path / "take.wav", noise(-20, 1))


def process(take, *more):
    out = take.with_name("done.wav")
    return main(["process", str(take), str(out), "--recipe", str(STARTER), *more])


def test_quiet_prints_nothing_and_verbose_every_part_with_its_time(take, capsys):
    assert process(take, "--quiet") == DONE
    assert capsys.readouterr() == ("", "")
    assert process(take, "--force", "--verbose") == DONE
    parts = capsys.readouterr().err
    assert " s  measuring" in parts
    assert "Noise reduction" in parts


def test_quiet_still_prints_the_json_that_was_asked_for(take, capsys):
    assert process(take, "--quiet", "--json") == DONE
    assert json.loads(capsys.readouterr().out)["after"]["channels"] == 1


def test_a_quiet_batch_prints_what_failed_alone(take, tmp_path, capsys):
    (tmp_path / "broken.wav").write_bytes(b"RIFF")
    order = ["batch", str(take), "--recipe", str(STARTER), "--out", str(tmp_path / "out")]
    assert main([*order, "--quiet"]) == DONE
    assert capsys.readouterr() == ("", "")
    order[1:2] = [str(take), str(tmp_path / "broken.wav")]
    assert main([*order, "--quiet"]) != DONE
    (line,) = capsys.readouterr().out.splitlines()
    assert line.startswith("failed  ")
    assert "broken.wav" in line


def test_quiet_still_prints_errors_and_verbose_their_cause(tmp_path, capsys):
    broken = tmp_path / "a.wav"
    broken.write_bytes(b"RIFF")
    assert process(broken, "--quiet") == BAD_USE
    plain = capsys.readouterr().err
    assert plain.count("\n") == 1
    assert process(broken, "--verbose") == BAD_USE
    verbose = capsys.readouterr().err
    assert verbose.startswith(plain)
    assert "because of " in verbose
    assert "Traceback" not in verbose


def test_quiet_and_verbose_exclude_each_other(take, capsys):
    with pytest.raises(SystemExit) as ended:
        process(take, "--quiet", "--verbose")
    assert ended.value.code == BAD_USE


@pytest.mark.parametrize(
    ("host", "accounts", "message"),
    [
        ("0.0.0.0", "", "lets everybody on the network in; set ZESTY_ACCOUNTS=1"),
        ("192.0.2.7", "1", "this machine has no address 192.0.2.7"),
        ("studio", "", "must be an IPv4 address such as 127.0.0.1"),
    ],
)
def test_addresses_that_are_refused(host, accounts, message, capsys, monkeypatch):
    monkeypatch.setenv("ZESTY_ACCOUNTS", accounts)
    assert main(["serve", "--host", host, "--port", "8799"]) == BAD_USE
    assert message in capsys.readouterr().err
