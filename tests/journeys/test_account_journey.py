"""Two people on one server: each signs in, and sees what is theirs."""

from __future__ import annotations

import subprocess
import sys

import pytest

from tests.journeys.conftest import of, served
from tests.journeys.test_first_journey import check_accessibility
from tests.made_sound import ROOT

pytestmark = pytest.mark.journey
WARDEN, GUIDE = ("warden", "tern-and-knot-9"), ("guide", "dunlin-and-ruff-7")


def account(environment, *arguments, password=""):
    command = [sys.executable, "-m", "zesty_cli.main", "account", *arguments]
    return subprocess.run(
        command,
        env=environment,
        cwd=ROOT,
        input=password,
        check=False,
        capture_output=True,
        text=True,
    )


@pytest.fixture(scope="module")
def studio(tmp_path_factory):
    return of(tmp_path_factory.mktemp("studio"), ZESTY_ACCOUNTS="1")


@pytest.fixture(scope="module")
def address(studio):
    for name, password in (WARDEN, GUIDE):
        made = account(studio, "add", name, password=password)
        assert (made.returncode, made.stdout) == (0, f"{name} can sign in.\n")
    with served(studio) as url:
        yield url


def sign_in(page, name, password):
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()


def test_each_comes_in_and_finds_what_is_theirs(page, browser, address, tmp_path):
    page.goto("/recordings")
    page.get_by_role("heading", name="Sign in").wait_for()
    check_accessibility(page)
    sign_in(page, "warden", "guessed-it")
    page.get_by_text("do not go together").wait_for()
    sign_in(page, *WARDEN)
    page.get_by_text("Drop recordings anywhere on this page").wait_for()
    demo = ROOT / "samples" / "recordings" / "volunteer-desk.wav"
    page.set_input_files("input[type=file]", str(demo))
    page.get_by_role("link", name="volunteer-desk").first.wait_for()

    other = browser.new_context(base_url=address).new_page()
    other.goto(page.url)
    sign_in(other, *GUIDE)
    other.get_by_text("Drop recordings anywhere on this page").wait_for()
    assert other.get_by_role("link", name="volunteer-desk").count() == 0
    page.get_by_role("link", name="volunteer-desk").first.click()
    page.get_by_role("button", name="Apply a recipe").wait_for()
    other.goto(page.url)
    other.get_by_text("There is nothing here").wait_for()
    other.context.close()


def test_a_password_is_changed_and_who_is_closed_is_out(page, studio):
    page.goto("/settings")
    sign_in(page, *GUIDE)
    page.get_by_text("Signed in as guide.").wait_for()
    page.get_by_role("button", name="Change password").click()
    check_accessibility(page)
    page.get_by_label("Current password").fill(GUIDE[1])
    page.get_by_label("New password").fill("sanderling-55")
    page.get_by_role("button", name="Change it").click()
    page.get_by_text("Other browsers have to sign in again").wait_for()
    page.get_by_role("button", name="Sign out").click()
    sign_in(page, "guide", "sanderling-55")
    page.get_by_text("Signed in as guide.").wait_for()

    assert account(studio, "close", "guide").stdout == "guide is closed.\n"
    assert account(studio, "list").stdout == "guide (closed)\nwarden\n"
    page.get_by_role("link", name="Room tones").click()
    page.get_by_role("heading", name="Sign in").wait_for()


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("add", "WARDEN"), "name: WARDEN is taken by another account"),
        (("add", "trainer"), "password: This password is too short"),
        (("open", "nobody"), "name: there is no account nobody"),
    ],
)
def test_what_cannot_be_is_told_in_one_line(studio, address, arguments, words):
    told = account(studio, *arguments, password="short\n")
    assert told.returncode == 2
    assert told.stderr.startswith(f"zesty: {words}")
    assert told.stderr.count("\n") == 1
