"""No raw name of a field is ever on screen: every one has words, and what it is set to is told by name."""

from __future__ import annotations

import importlib
import inspect
import pkgutil

import pytest

import yardmeter.core.plan as plans
from yardmeter import demo
from yardmeter.core.plan.operations import Edit, SetQuantity, SetValue
from yardmeter.core.plan.parts import Model
from yardmeter.words.edits import describe_edit
from yardmeter.words.fields import FIELDS

OUTSIDE = {"format", "version", "id", "pack", "policy", "op", "owner", "element", "device", "with_return", "state", "text", "field", "condition"}  # fmt: skip
"""Names of the document and of edits: no ticket shows them."""


def test_every_field_has_words_without_an_underscore() -> None:
    names = set()
    for module in pkgutil.iter_modules(plans.__path__):
        for _, one in inspect.getmembers(
            importlib.import_module(f"yardmeter.core.plan.{module.name}"), inspect.isclass
        ):
            if issubclass(one, Model) and one.__module__.startswith("yardmeter.core.plan"):
                names |= set(one.model_fields)
    lists = {"boards", "rails", "supplies", "devices", "inlets", "signals", "filters", "noises", "conditions"}
    assert names - OUTSIDE - lists - set(FIELDS) == set()
    assert [words for words in FIELDS.values() if "_" in words] == []


@pytest.mark.parametrize(
    ("edit", "said"),
    [
        (SetValue(element="camera-gnd", field="to", value="controller"), "goes to Flight controller"),
        (SetValue(element="video-cam", field="sink", value="c-cam2"), "to Flight controller CAM 2"),
        (SetValue(element="buck-5v", field="backfeeds", value=True), "lets current back yes"),
        (SetValue(element="buck-5v", field="derate_frac", value=None), "usable of the print not said"),
        (SetValue(element="camera", field="feed.pad", value="p5-c"), "feed pad 5V C"),
        (SetQuantity(element="camera", field="feed.wire.length_m", text="12cm"), "feed length 12cm"),
        (SetQuantity(element="buck-5v", field="theta_still_k_w", text="30"), "warms in still air by 30"),
    ],
)
def test_the_history_speaks_of_names(edit: Edit, said: str) -> None:
    assert describe_edit(demo.plan("marshlight-as-soldered"), edit).split(": ", 1)[1] == said
