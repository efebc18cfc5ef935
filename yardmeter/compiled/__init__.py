"""Plain loops and laws made into machine code, and where that is kept: the one place that knows the compiler, files and the clock."""

from yardmeter.compiled.code import compiled, in_machine_code
from yardmeter.compiled.folder import FOLDER, is_ready, seal

__all__ = ["FOLDER", "compiled", "in_machine_code", "is_ready", "seal"]
