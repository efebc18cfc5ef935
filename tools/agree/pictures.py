"""Noise: what is marked, what is found and what the picture shows."""

from __future__ import annotations

import math

from tools.agree.cases import Case
from tools.agree.statements import Told, statement
from yardmeter.core.checks.noise import VISIBLE_DB
from yardmeter.core.edits import apply_edits
from yardmeter.review import review
from yardmeter.review.predicted import WORST_THROTTLE
from yardmeter.review.schools import schools


@statement("Ripple above what a device stands is found in just those conditions, by all lines together")
def ripple_found(case: Case) -> Told:
    said = {one.elements[0]: set(one.conditions) for one in case.noise.verdicts if one.code == "noise.ripple"}
    for pin in case.noise.review.pins:
        if case.plan.device_of[pin.device].throttle:
            continue
        over = {c for c, volts in pin.total_v.items() if volts > pin.tolerated_v}
        if over != said.get(pin.device, set()):
            yield f"{pin.device} is over in {sorted(over)}, found in {sorted(said.get(pin.device, set()))}"
        for condition, lines in pin.lines.items():
            together = math.sqrt(sum(line.pp_v**2 for line in lines))
            if together > pin.total_v[condition] * (1 + 1e-6) + 1e-9:
                yield f"{pin.device} in {condition}: lines of {together:.5f} V, {pin.total_v[condition]:.5f} V together"


@statement("A picture's mark, finding, level and drawing say one thing")
def pictures_agree(case: Case) -> Told:
    said = {one.elements[0]: one for one in case.noise.verdicts if one.code == "noise.video"}
    for video in case.noise.review.videos:
        seen = {c for c, level in video.level_db.items() if level > VISIBLE_DB}
        found = said.get(video.signal)
        if seen != set(found.conditions if found else ()):
            yield f"{video.signal} is seen in {sorted(seen)}, found in {sorted(found.conditions if found else ())}"
        for key, standards in case.noise.review.pictures[video.signal].items():
            if key == WORST_THROTTLE:
                continue
            level = standards["525"].level_db if "525" in standards else next(iter(standards.values())).level_db
            if abs(level - video.level_db[key]) > 0.5:
                yield f"{video.signal} in {key}: {video.level_db[key]:.1f} dB, drawn at {level:.1f} dB"


@statement("A school of grounds shows the picture that Noise and Grounds find once it is built", share=0.25)
def schools_agree(case: Case) -> Told:
    for table in schools(case.plan):
        for school in table.schools:
            if school.refused or not school.edits:
                continue
            made = review(apply_edits(case.plan, school.edits))
            own = next(one for one in schools(made.plan) if one.question == table.question).schools[0]
            shown, built = ({cell.label: cell.value for cell in one.cells} for one in (school, own))
            for label, value in shown.items():
                if label != "ground wire" and not math.isclose(
                    value, built.get(label, math.nan), rel_tol=1e-6, abs_tol=1e-9
                ):
                    yield f"{school.title}: {label} {value:.6g}, built {built.get(label)}"
