"""A client that carries the page's token, and recordings to work with."""

from __future__ import annotations

import io
import json

import numpy as np
import pytest
import soundfile
from django.core.cache import cache
from django.test import Client

from tests.made_sound import RATE, noise, spoken
from zesty_server.accounts import services
from zesty_server.jobs.watch import LEASE_S, LOOK_EVERY_S, Watch

WARDEN, GUIDE = ("warden", "tern-and-knot-9"), ("guide", "dunlin-and-ruff-7")


class Api:
    """Talks JSON to the server as the page does."""

    def __init__(self) -> None:
        self.client = Client(enforce_csrf_checks=True)
        self.client.get("/recordings")
        self.token = (
            self.client.cookies["csrftoken"].value if "csrftoken" in self.client.cookies else ""
        )

    def __call__(self, method, path, body=None, kind="application/json", **headers):
        call = getattr(self.client, method)
        if method in ("get", "head"):
            return call(f"/api/{path}", headers=headers)
        return call(
            f"/api/{path}",
            data=body,
            content_type=kind,
            headers={"X-CSRFToken": self.token, **headers},
        )

    def upload(self, data, name="take.wav"):
        return self("post", f"recordings/upload/?name={name}", data, "application/octet-stream")


def wav(sound, rate=RATE, subtype="PCM_24"):
    file = io.BytesIO()
    soundfile.write(file, sound.T, rate, subtype, format="WAV")
    return file.getvalue()


@pytest.fixture
def api(db, django_capture_on_commit_callbacks):
    made = Api()
    plain = made.__call__

    class Committing(Api):
        """Background work is queued when the transaction ends; in tests that is at once."""

        def __init__(self) -> None:
            self.client, self.token = made.client, made.token

        def __call__(self, *arguments, **more):
            with django_capture_on_commit_callbacks(execute=True):
                return plain(*arguments, **more)

    return Committing()


@pytest.fixture
def take():
    voice = np.concatenate([np.zeros((1, 2 * RATE), np.float32), spoken(3)], axis=1)
    return wav(voice + noise(-55, 5))


@pytest.fixture
def another():
    """Other takes of the same kind, one for each seed."""

    def make(seed):
        voice = np.concatenate([np.zeros((1, 2 * RATE), np.float32), spoken(3)], axis=1)
        return wav(voice + noise(-55, 5, seed=seed))

    return make


@pytest.fixture
def recording(api, take):
    answer = api.upload(take, "Morning tide.wav")
    assert answer.status_code == 201, answer.content
    return api("get", f"recordings/{answer.json()['id']}/").json()


class Looking:
    """A watch over open rows whose clock is set by the test."""

    def __init__(self):
        self.now_s = 1_000.0
        self.watch = Watch(lambda: self.now_s)

    def after(self, seconds=LEASE_S + 1):
        """Look now, and on as the server does, for so long; how many were queued again."""
        again = self.watch.look()
        while seconds > 0.0:
            self.now_s += min(seconds, LOOK_EVERY_S)
            seconds -= LOOK_EVERY_S
            again += self.watch.look()
        return again


@pytest.fixture
def looking(db):
    return Looking()


@pytest.fixture
def accounts_on(settings, db):
    settings.ACCOUNTS = True
    # The usual one is slow on purpose, which is no matter of these tests.
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    cache.clear()


@pytest.fixture
def enter(accounts_on, django_capture_on_commit_callbacks):
    """A browser of its own, signed in."""

    class Browser(Api):
        def __call__(self, *arguments, **more):
            with django_capture_on_commit_callbacks(execute=True):
                answer = super().__call__(*arguments, **more)
            if "csrftoken" in answer.cookies:
                self.token = answer.cookies["csrftoken"].value
            return answer

        def send(self, method, path, **body):
            return self(method, path, json.dumps(body))

    def come_in(name=None, password=None):
        browser = Browser()
        if name:
            answer = browser.send("post", "account/sign-in/", name=name, password=password)
            assert answer.status_code == 200, answer.content
        return browser

    return come_in


@pytest.fixture
def warden(enter):
    services.add_account(*WARDEN)
    return enter(*WARDEN)


@pytest.fixture
def guide(warden, enter):
    services.add_account(*GUIDE)
    return enter(*GUIDE)
