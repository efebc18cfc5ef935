"""What is compiled is kept whole or made anew: damaged files, folders that cannot be written, one that is still being filled."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import numba
import pytest

from yardmeter.compiled import folder as compiled
from yardmeter.compiled.pages import let_compiler_pages_go, mirrored


def sealed(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    folder.mkdir(parents=True)
    (folder / "march.nbi").write_bytes(b"index")
    (folder / "march.1.nbc").write_bytes(b"code")
    monkeypatch.setattr(compiled, "FOLDER", folder)
    assert not compiled.is_ready()
    assert compiled.seal() == folder
    assert compiled.is_ready()
    return folder


@pytest.mark.parametrize("harm", ["cut short", "gone", "no list", "another"])
def test_a_damaged_folder_is_thrown_away_once_and_filled_anew(
    harm: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("YARD_CACHE", str(tmp_path))
    folder = sealed(tmp_path / f"march-{compiled._figure()}", monkeypatch)
    assert compiled._kept_in() == folder
    assert compiled.sound(folder)
    assert (folder / "march.nbi").exists()
    match harm:
        case "cut short":
            (folder / "march.1.nbc").write_bytes(b"co")
        case "gone":
            (folder / "march.nbi").unlink()
        case "no list":
            (folder / compiled.SEAL).write_text("[")
        case _:
            (folder / compiled.SEAL).write_text("[1]")
    assert not compiled.sound(folder)
    assert compiled._kept_in() == folder
    assert list(folder.iterdir()) == []  # as good as never made
    assert not compiled.is_ready()
    assert compiled.sound(folder)  # one that is being filled is left to who fills it


def test_where_the_usual_folder_cannot_be_written_another_is_found(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    blocked = tmp_path / "a file"
    blocked.write_text("")
    monkeypatch.setenv("YARD_CACHE", str(blocked / "cache"))
    monkeypatch.setattr(compiled.tempfile, "gettempdir", lambda: str(tmp_path / "temporary"))
    found = compiled._kept_in()
    assert found is not None
    assert found.is_relative_to(tmp_path / "temporary")
    monkeypatch.setattr(compiled.tempfile, "gettempdir", lambda: str(blocked))
    assert compiled._kept_in() is None


def test_another_processor_has_code_of_its_own(monkeypatch: pytest.MonkeyPatch) -> None:
    here = compiled._figure()
    monkeypatch.setattr(compiled.llvmlite.binding, "get_host_cpu_name", lambda: "another")
    assert compiled._figure() != here


SMALL = """
import sys
from yardmeter.compiled import FOLDER, compiled, is_ready, seal
def twice(a): return 2.0 * a
def thrice(a): return 3.0 * a
one = compiled(twice)
assert one(2.0) == 4.0
print("half", flush=True)
if sys.argv[1:]: sys.stdin.read()
assert compiled(thrice)(2.0) == 6.0
seal()
print(is_ready(), len(list(FOLDER.rglob("*.nbc"))), sum(one.stats.cache_hits.values()), flush=True)
"""


def started(folder: Path, *, waits: bool = False) -> subprocess.Popen[str]:
    """A program that compiles two small functions into a cache folder; it may wait between them."""
    file = folder / "small.py"
    if not file.exists():
        file.write_text(SMALL)
    env = {**os.environ, "YARD_CACHE": str(folder / "cache"), "PYTHONPATH": str(Path(__file__).parents[2])}
    pipes = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "stderr": subprocess.PIPE}
    return subprocess.Popen([sys.executable, str(file), *(["waits"] if waits else [])], env=env, text=True, **pipes)


def test_a_start_that_is_killed_half_way_and_two_at_once_leave_a_whole_cache(tmp_path: Path) -> None:
    with started(tmp_path, waits=True) as killed:
        assert killed.stdout is not None
        assert killed.stdout.readline() == "half\n"
        killed.kill()
    both = [started(tmp_path) for _ in range(2)]
    told = [one.communicate(timeout=120) for one in both]
    assert [one.returncode for one in both] == [0, 0], told
    for out, _ in told:
        assert out.splitlines() == ["half", "True 2 1"], "what was whole before the kill is taken, the rest is made"
    [folder] = (tmp_path / "cache").iterdir()
    assert compiled.sound(folder)
    assert (folder / compiled.SEAL).is_file()


BLOCK = """{range} {rights} 00365000 fe:00 5333925    /lib/{name}
Size:              82108 kB
Anonymous:         {anonymous:>5} kB
VmFlags: rd ex mr mw me
"""


def test_only_pages_of_the_compiler_that_mirror_its_file_go_back_to_the_system() -> None:
    table = "".join(
        BLOCK.format(range=f"{k}000-{k}800", rights=rights, name=name, anonymous=anonymous)
        for k, (rights, name, anonymous) in enumerate(
            [
                ("r-xp", "libllvmlite.so", 0),
                ("r--p", "libllvmlite.so", 12),  # relocated: other than the file
                ("rw-p", "libllvmlite.so", 0),
                ("r-xp", "libother.so", 0),
                ("r--p", "libllvmlite.so", 0),
            ]
        )
    )
    assert list(mirrored(table)) == [(0x0000, 0x800), (0x4000, 0x4800)]
    # What was dropped is read again: the compiler works as before.
    let_compiler_pages_go()
    assert numba.njit(lambda x: x * 3 + 1)(7) == 22
