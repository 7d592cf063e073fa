"""How fast passwords may be tried: by whom, for which name, and in all.

Counters lie in the database, so that neither a restart nor a flood of other names resets them. Nothing
is ever locked: after some free tries each further one has to wait, and the waits by name and in all
stay so short that nobody can keep somebody else out. An address from which somebody has signed in
before is exempt from what others try from elsewhere.
"""

from __future__ import annotations

import hashlib
import ipaddress
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from zesty_server.accounts.models import SignInTries

#: Without a further try, a count is forgotten after so long; that an address is known, later.
_FORGOTTEN_AFTER = timedelta(minutes=15)
_UNKNOWN_AFTER = timedelta(days=90)


@dataclass(frozen=True)
class Limit:
    """Tries that cost nothing; from then on each waits twice as long as the one before."""

    free: int
    longest_s: float

    def wait_s(self, count: int) -> float:
        """How long after the last of ``count`` tries the next may come."""
        return 0.0 if count < self.free else min(self.longest_s, 2.0 ** min(count - self.free, 30))


BY_PAIR = Limit(free=5, longest_s=30.0)
BY_ADDRESS = Limit(free=20, longest_s=30.0)
BY_NAME = Limit(free=30, longest_s=4.0)
IN_ALL = Limit(free=200, longest_s=1.0)


@dataclass(frozen=True)
class Try:
    """One try of a password: who, from where."""

    name: str
    address: str

    @property
    def pair(self) -> str:
        """Key of this name from this address."""
        return _key("pair", self.name, _network(self.address))

    def limits(self) -> dict[str, Limit]:
        """Limits by the keys of what is counted."""
        return {
            self.pair: BY_PAIR,
            _key("address", _network(self.address)): BY_ADDRESS,
            _key("name", self.name): BY_NAME,
            _key("all"): IN_ALL,
        }


@transaction.atomic
def wait_before(one: Try) -> float:
    """Seconds that a try has to wait; 0 counts it and lets it go on."""
    now = timezone.now()
    limits = one.limits()
    for key in limits:
        SignInTries.objects.get_or_create(key=key)
    # Always in one order, so that two tries at once do not wait for each other.
    rows = SignInTries.objects.select_for_update().filter(key__in=limits).order_by("key")
    counts = {row.key: row for row in rows}
    for row in counts.values():
        if row.last_at is None or now - row.last_at > _FORGOTTEN_AFTER:
            row.count = 0
    keys: Iterable[str] = limits
    if counts[one.pair].is_known:
        keys = (one.pair,)
    waits_s = [_wait_s(limits[key], counts[key], now) for key in keys]
    if max(waits_s) > 0.0:
        return max(waits_s)
    for row in counts.values():
        row.count, row.last_at = row.count + 1, now
        row.save(update_fields=["count", "last_at"])
    _forget(now)
    return 0.0


def _wait_s(limit: Limit, row: SignInTries, now: datetime) -> float:
    """What is left of the wait; a clock that was set back makes it no longer."""
    whole_s = limit.wait_s(row.count)
    if row.last_at is None or not whole_s:
        return 0.0
    gone_s = max(0.0, (now - row.last_at).total_seconds())
    return max(0.0, whole_s - gone_s)


def succeeded(one: Try) -> None:
    """Take back what the try counted, and remember the address."""
    SignInTries.objects.filter(key=one.pair).update(count=0, is_known=True)
    others = set(one.limits()) - {one.pair}
    SignInTries.objects.filter(key__in=others, count__gt=0).update(count=F("count") - 1)


def _forget(now: datetime) -> None:
    old = SignInTries.objects.filter(last_at__lt=now - _FORGOTTEN_AFTER, is_known=False)
    old.delete()
    SignInTries.objects.filter(last_at__lt=now - _UNKNOWN_AFTER).delete()


def _key(*parts: str) -> str:
    return hashlib.sha256("\n".join(parts).encode("utf-8", "replace")).hexdigest()


def _network(address: str) -> str:
    """An address as one sender holds it: of the newer kind, everybody has many."""
    try:
        given = ipaddress.ip_address(address.strip("[]"))
    except ValueError:
        return address
    if given.version == 4:
        return str(given)
    return str(ipaddress.ip_network((given, 64), strict=False))
