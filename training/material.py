"""Packages of the registries that hold recorded voices and sounds, with their licences.

The judging material is never here: see ``NEVER``.
"""

import subprocess
from dataclasses import dataclass

from training.places import data_folder


@dataclass(frozen=True)
class Package:
    """One Debian package: what of it is used, and under which licence its sounds are."""

    name: str
    used_for: str
    licence: str


PACKAGES = (
    Package("tuxpaint-stamps-default", "voices of 15 languages, events", "GPL-2"),
    Package("ktuberling-data", "voices of children's games", "GPL-2+, CC-BY"),
    Package("klettres-data", "letters and syllables in 20 languages", "GPL-2+, CC0"),
    Package("hedgewars-data", "acted voices, events", "GPL-2, CC-BY-SA-3.0"),
    Package("kanagram", "interface sounds (events)", "GPL-2+"),
    Package("gcompris-qt-data", "sounds (events)", "public domain, CC-BY, CC-BY-SA, GPL-3+"),
    Package("warzone2100-data", "radio voices, events", "GPL-2+, CC-BY-SA-3.0"),
)

#: Judging material: never trained or tuned on.
NEVER = (
    "asterisk-core-sounds-*",
    "asterisk-prompt-*",
    "fillets-ng-data*",
    "codec2-examples",
    "pocketsphinx-testdata",
    "sonic-pi-samples",
)


def fetch() -> None:
    """Downloads and unpacks every package that is not there yet."""
    root = data_folder()
    (root / "debs").mkdir(parents=True, exist_ok=True)
    for package in PACKAGES:
        target = root / "x" / package.name
        if target.exists():
            continue
        subprocess.run(["apt-get", "download", "-q", package.name], cwd=root / "debs", check=True)
        archive = next((root / "debs").glob(f"{package.name}_*.deb"))
        subprocess.run(["dpkg-deb", "-x", archive, target], check=True)
        print(package.name, "unpacked")


if __name__ == "__main__":
    fetch()
