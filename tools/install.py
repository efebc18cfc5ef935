"""What the project needs on a machine, put there by the project's own files. Python's standard library only."""

from __future__ import annotations

import hashlib
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

from tools.chromium import PROGRAMS

ROOT = Path(__file__).resolve().parents[1]
VENV = ROOT / ".venv"
STATE = ROOT / ".yard"
WEB = ROOT / "web"
PYTHON = VENV / ("Scripts/python.exe" if os.name == "nt" else "bin/python")


class CannotError(Exception):
    """Something is missing that cannot be installed from here."""


def run(*command: object, cwd: Path = ROOT, env: dict[str, str] | None = None, quiet: bool = False) -> int:
    output = subprocess.DEVNULL if quiet else None
    return subprocess.run(
        [str(c) for c in command], cwd=cwd, env={**os.environ, **(env or {})}, stdout=output, check=False
    ).returncode


def must(what: str, *command: object, cwd: Path = ROOT) -> None:
    print(f"{what} …", file=sys.stderr, flush=True)
    try:
        failed = run(*command, cwd=cwd, quiet=True) != 0
    except OSError as error:
        raise CannotError(f"{what}: {error.strerror}: {command[0]}") from None
    if failed:
        raise CannotError(f"{what}: “{' '.join(str(c) for c in command)}” failed; its own words stand above.")


def digest(*paths: Path) -> str:
    """One figure for the contents of files and folders; a change means that work depending on them is due."""
    sums = hashlib.sha256()
    for path in paths:
        for file in sorted(path.rglob("*")) if path.is_dir() else [path]:
            if file.is_file():
                sums.update(str(file.relative_to(ROOT)).encode() + file.read_bytes())
    return sums.hexdigest()


def due(name: str, figure: str) -> bool:
    stamp = STATE / name
    return not stamp.is_file() or stamp.read_text() != figure


def done(name: str, figure: str) -> None:
    STATE.mkdir(exist_ok=True)
    (STATE / name).write_text(figure)


def python_ready(*, dev: bool = False) -> None:
    """The virtual environment with the pinned packages, with those of the tests too where `dev`."""
    if sys.hexversion < 0x030B0000:
        raise CannotError(f"Python 3.11 or newer is needed, this is {sys.version.split()[0]}.")
    wanted = ROOT / ("requirements-dev.txt" if dev else "requirements.txt")
    figure = digest(ROOT / "requirements.txt", ROOT / "requirements-dev.txt")
    if PYTHON.exists() and not (due("python-dev", figure) and (dev or due("python", figure))):
        return
    if not PYTHON.exists():
        must("Making a virtual environment (Debian: package python3-venv)", sys.executable, "-m", "venv", VENV)
    pip("Installing Python packages", wanted)
    done("python-dev" if dev else "python", figure)


def march_ready() -> None:
    """The loops of points and runs in machine code; compiled, and said to be, before anything that needs it starts."""
    python_ready()
    if run(PYTHON, "-m", "tools.compile", "--check", quiet=True) != 0:
        must("Compiling the loops of points and runs, once", PYTHON, "-m", "tools.compile")


def pip(what: str, wanted: Path) -> None:
    must(what, PYTHON, "-m", "pip", "install", "--disable-pip-version-check", "-q", "-r", wanted)


def node_suits(version: str) -> bool:
    """Whether the front end can be built with a Node.js that calls itself so: 20.19 and newer, 22.12 and newer."""
    found = re.match(r"v(\d+)\.(\d+)\.", version)
    if not found:
        return False
    major, minor = int(found[1]), int(found[2])
    return (major == 20 and minor >= 19) or (major == 22 and minor >= 12) or major > 22


def path_with_node(path: str) -> str | None:
    """The search path on which a Node.js that suits comes first, with npm beside it; None where there is none.

    The path is tried as it is, then with the environment's own programs in front.
    """
    for tried in (path, os.pathsep.join((str(PYTHON.parent), path))):
        node = shutil.which("node", path=tried)
        if node is None or shutil.which("npm", path=tried) is None or shutil.which("npx", path=tried) is None:
            continue
        said = subprocess.run(
            [node, "--version"], capture_output=True, text=True, check=False, env={**os.environ, "PATH": tried}
        )
        if said.returncode == 0 and node_suits(said.stdout):
            return tried
    return None


def node_ready() -> None:
    """Node.js first on this process's search path: the machine's, else the one PyPI has, in the environment of the checkout."""
    if (found := path_with_node(os.environ.get("PATH", ""))) is None:
        python_ready()
        pip("Installing Node.js from PyPI", ROOT / "requirements-node.txt")
        found = path_with_node(os.environ.get("PATH", ""))
    if found is None:
        raise CannotError(
            "Node.js 20.19 or newer is needed to build the front end, and PyPI has none for this machine. Install it with npm."
        )
    os.environ["PATH"] = found


def node(tool: str, *arguments: object) -> list[object]:
    """A command of the front end's tools, by the full name of `npx`: one that is only on our own search path is not found otherwise."""
    return [shutil.which("npx") or "npx", "--no-install", tool, *arguments]


def web_ready() -> None:
    node_ready()
    figure = digest(WEB / "package-lock.json")
    if not due("npm", figure) and (WEB / "node_modules").is_dir():
        return
    must(
        "Installing front-end packages",
        shutil.which("npm"),
        "ci",
        "--no-audit",
        "--no-fund",
        "--loglevel=error",
        cwd=WEB,
    )
    done("npm", figure)


def site_ready() -> None:
    """The built front end; rebuilt when its sources changed."""
    sources = [
        WEB / name
        for name in ("src", "public", "index.html", "vite.config.ts", "unused-styles.ts", "package-lock.json")
    ]
    figure = digest(*sources, Path(__file__).resolve())
    if not due("site", figure) and (WEB / "dist" / "index.html").is_file():
        return
    web_ready()
    must("Building the front end", *node("vite", "build", "--logLevel", "warn"), cwd=WEB)
    must("Packing it for the way", PYTHON, "-m", "whitenoise.compress", "-q", WEB / "dist")
    done("site", figure)


def programs_ready() -> None:
    """Chromium and ngspice for the tests; installed from Debian's packages where this may be done."""
    wanted = (PROGRAMS, ("ngspice",))
    best = [names[0] for names in wanted if shutil.which(names[0]) is None]
    missing = [names[0] for names in wanted if not any(map(shutil.which, names))]
    if best and shutil.which("apt-get") and hasattr(os, "geteuid") and os.geteuid() == 0:
        try:
            from_debian(best)
        except CannotError:
            if missing:
                raise
            print("A whole Chromium does it, more slowly.", file=sys.stderr)
        return
    if not missing:
        return
    words = f"{' and '.join(missing)} not found. As root: apt-get install {' '.join(missing)}"
    if os.environ.get("CI"):
        raise CannotError(words)
    print(f"{words}\nTests that need them are skipped.", file=sys.stderr)


def from_debian(packages: list[str]) -> None:
    must("Refreshing Debian's package lists", "apt-get", "update", "-qq")
    os.environ["DEBIAN_FRONTEND"] = "noninteractive"
    install = ("apt-get", "install", "-y", "-qq", "--no-install-recommends")
    must(f"Installing {' and '.join(packages)}", *install, *packages)
