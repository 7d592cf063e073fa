"""Runs pytest with its arguments while ``DATABASE_URL`` names a PostgreSQL cluster of its own."""

from __future__ import annotations

import os
import subprocess
import sys

from tests.studio.services import Postgres


def main(arguments):
    postgres = Postgres()
    try:
        environment = os.environ | {"DATABASE_URL": postgres.url}
        command = [sys.executable, "-m", "pytest", *arguments]
        return subprocess.run(command, env=environment, check=False).returncode
    finally:
        postgres.close()


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
