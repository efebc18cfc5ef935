"""One answer about a plan file on the terminal: what goes wrong is said in a line, never as a traceback."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from yardmeter.core.errors import YardError
from yardmeter.core.formats.plan_json import read_plan
from yardmeter.core.plan import Plan


def answered(file: Path, work: Callable[[Plan], str]) -> int:
    """Read the plan, print what `work` makes of it, and return the exit code."""
    try:
        print(work(read_plan(file.read_bytes())), end="")
    except BrokenPipeError:
        sys.stderr.close()  # whoever read the answer has enough of it
        return 1
    except OSError as error:
        print(f"{file}: {error.strerror}", file=sys.stderr)
        return 1
    except YardError as error:
        print(f"{file}: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130
    return 0
