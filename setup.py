"""The wheel holds the built page; what else there is to say stands in pyproject.toml."""

from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py

_PAGE = Path(__file__).parent / "src" / "zesty_server" / "web_build" / "index.html"


class BuildWithPage(build_py):
    """Refuses to build a package without the page; an editable install can do without."""

    def run(self) -> None:
        """Build."""
        if not self.editable_mode and not _PAGE.exists():
            raise SystemExit("The page is not built. Run: make wheel")
        super().run()


setup(cmdclass={"build_py": BuildWithPage})
