"""What a part is: a template of plan elements, or the values of what is chosen for one."""

from __future__ import annotations

from typing import Annotated, Any, Literal, get_args

from pydantic import Field, ValidationError, model_validator

from yardmeter.core.plan import Board, Device, Pack, Provenance, Rail, Regulator, Supply
from yardmeter.core.plan.clamps import ClampValues
from yardmeter.core.plan.document import plan_error
from yardmeter.core.plan.filters import CapacitorValues, CoilValues
from yardmeter.core.plan.inline import InlinePart
from yardmeter.core.plan.parts import Id, Model, Name, Note
from yardmeter.core.plan.upgrades import SCHEMA_VERSION, bring_up

PartKind = Literal[
    "pack", "board", "bec", "device", "capacitor", "filter", "clamp", "diode", "resistor", "wire", "connector"
]
KINDS: tuple[PartKind, ...] = get_args(PartKind)
PACK_IN = "pack-in"
"""Id a board part gives the rail its pack wire is soldered to."""
FIVE_IN = "five-in"
"""Id a board part gives the rail that takes 5 V from elsewhere."""
LOGIC_A = {"controller": 0.15}
"""What a board's own logic draws by its kind [A]; common practice, no source."""


class BoardPart(Model):
    """A board with its rails and supplies; ids are local to the part.

    The rail `pack-in` takes the pack wire, `five-in` 5 V from elsewhere. `logic_a` is what its own logic draws; left out, it
    goes by the board's kind.
    """

    board: Board
    rails: tuple[Rail, ...] = Field(min_length=1)
    supplies: tuple[Supply, ...] = ()
    logic_a: float | None = Field(default=None, ge=0, le=10)

    @property
    def own_a(self) -> float:
        """What its logic draws [A]."""
        return LOGIC_A.get(self.board.kind, 0.0) if self.logic_a is None else self.logic_a


class CapacitorPart(CapacitorValues):
    """A capacitor to be fitted anywhere."""


class CoilPart(CapacitorValues, CoilValues):
    """An LC section: a coil with its capacitor."""

    kind: Literal["lc"]
    henry: float = Field(gt=0, le=1)


class BeadPart(CoilValues):
    kind: Literal["ferrite"]
    ohm_100mhz: float = Field(gt=0, le=1e5)


class ClampPart(ClampValues):
    """A suppressor to be fitted at a rail or a device."""


class DiodePart(Model):
    """A diode, or an ideal one, in the plus lead."""

    drop_v: float = Field(ge=0, le=1.5)
    series_ohm: float = Field(ge=0.001, le=5)
    rating_a: float = Field(gt=0, le=200)


class ResistorPart(Model):
    watts: float = Field(gt=0, le=1000)
    ohm: float | None = Field(default=None, gt=0, le=1e9, description="Left out for a class of resistors of any value.")


class WirePart(Model):
    gauge_awg: int = Field(ge=0, le=40)


class ConnectorPart(Model):
    limit_a: float = Field(gt=0, le=1000)
    ohm: float = Field(default=0.0, ge=0, le=10)
    inline: InlinePart | None = None


class Part(Model):
    """One entry of the shelf. Exactly what its kind calls for is filled."""

    key: Id
    name: Name
    kind: PartKind
    note: Note = ""
    weight_g: float = Field(default=0, ge=0, le=10_000)
    provenance: Provenance = "sheet"
    device: Device | None = None
    outputs: tuple[Regulator, ...] = Field(
        default=(), description="Regulated outputs of the device, for what it feeds."
    )
    bec: Regulator | None = None
    board: BoardPart | None = None
    pack: Pack | None = None
    capacitor: CapacitorPart | None = None
    filter: Annotated[CoilPart | BeadPart, Field(discriminator="kind")] | None = None
    clamp: ClampPart | None = None
    diode: DiodePart | None = None
    resistor: ResistorPart | None = None
    wire: WirePart | None = None
    connector: ConnectorPart | None = None

    @model_validator(mode="after")
    def _filled_as_its_kind_says(self) -> Part:
        for kind in KINDS:
            if (getattr(self, kind) is not None) != (kind == self.kind):
                raise ValueError(f"a {self.kind} part {'needs' if kind == self.kind else 'has no'} {kind}")
        if self.outputs and self.device is None:
            raise ValueError(f"a {self.kind} part has no outputs: only a device hands volts on")
        return self


def load_part(data: Any, version: int = SCHEMA_VERSION) -> Part:
    """Validate plain data, of the document version it was written in, into a Part; raises PlanError with one problem per fault."""
    data = bring_up(data, version)
    try:
        return Part.model_validate(data)
    except ValidationError as error:
        raise plan_error(error) from None
