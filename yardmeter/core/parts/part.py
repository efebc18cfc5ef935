"""What a part is: a template of plan elements, or plain values for what is not an element of its own yet."""

from __future__ import annotations

from typing import Any, Literal, get_args

from pydantic import Field, ValidationError, model_validator

from yardmeter.core.plan import Board, Device, Pack, Provenance, Rail, Regulator, Supply
from yardmeter.core.plan.document import plan_error
from yardmeter.core.plan.parts import Id, Model, Name, Note
from yardmeter.core.plan.upgrades import SCHEMA_VERSION, bring_up

PartKind = Literal["pack", "board", "bec", "device", "capacitor", "filter", "resistor", "wire", "connector"]
KINDS: tuple[PartKind, ...] = get_args(PartKind)
PACK_IN = "pack-in"
"""Id a board part gives the rail its pack wire is soldered to."""


class BoardPart(Model):
    """A board with its rails and supplies; ids are local to the part. The rail `pack-in` takes the pack wire."""

    board: Board
    rails: tuple[Rail, ...] = Field(min_length=1)
    supplies: tuple[Supply, ...] = ()


class Part(Model):
    """One entry of the shelf. Exactly the template its kind calls for is filled."""

    key: Id
    name: Name
    kind: PartKind
    note: Note = ""
    weight_g: float = Field(default=0, ge=0, le=10_000)
    provenance: Provenance = "sheet"
    device: Device | None = None
    bec: Regulator | None = None
    board: BoardPart | None = None
    pack: Pack | None = None
    values: dict[str, float] = Field(
        default_factory=dict, description="farads, esr_ohm, volts, henries, amps, gauge_awg …"
    )

    @model_validator(mode="after")
    def _filled_as_its_kind_says(self) -> Part:
        templates = {"device": self.device, "bec": self.bec, "board": self.board, "pack": self.pack}
        for kind, template in templates.items():
            if (template is not None) != (kind == self.kind):
                raise ValueError(f"a {self.kind} part {'needs' if kind == self.kind else 'has no'} {kind}")
        if self.kind not in templates and not self.values:
            raise ValueError(f"a {self.kind} needs its values")
        return self


def load_part(data: Any, version: int = SCHEMA_VERSION) -> Part:
    """Validate plain data, of the document version it was written in, into a Part; raises PlanError with one problem per fault."""
    data = bring_up(data, version)
    try:
        return Part.model_validate(data)
    except ValidationError as error:
        raise plan_error(error) from None
