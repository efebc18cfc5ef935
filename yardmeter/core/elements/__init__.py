"""What a craft is made of, one kind a file: its laws, its words in a netlist, what a meter sees, and what its numbers mean.

They know no plan. Every file of a kind enters it as it is loaded, and is refused where a part is missing.
"""

from importlib import import_module

from yardmeter.core.elements.registry import ELEMENTS, Element, IncompleteElementError, Without

KINDS = (
    "pack", "source", "regulator", "load", "led", "motor", "capacitor", "coil", "wire", "inline", "diode", "strap", "signal",
)  # fmt: skip
for _kind in KINDS:
    import_module(f"{__name__}.{_kind}")

__all__ = ["ELEMENTS", "KINDS", "Element", "IncompleteElementError", "Without"]
