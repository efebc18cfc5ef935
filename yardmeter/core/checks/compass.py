"""`noise.compass`: high-current pairs beside a compass."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from yardmeter.core.answers.solved_plan import SolvedPlan
from yardmeter.core.checks.registry import rule
from yardmeter.core.physics.magnetics import heading_error_deg, pair_field_t, safe_distance_m
from yardmeter.core.verdict import Comparison, Facts, Verdict, under


@dataclass(frozen=True)
class BentCompass(Facts):
    amps_a: float
    field_t: float
    safe_m: float


@rule("noise.compass", BentCompass, sense="at most")
def bent_compass(case: SolvedPlan) -> Iterator[Verdict]:
    """Heading error by the field of the pack's current against the policy's limit, in the worst condition."""
    policy = case.plan.policy
    for device in case.plan.devices:
        if device.compass is None:
            continue
        spec = device.compass
        amps = {c.id: abs(c.pack_a) * spec.share_frac for c in case.budget.conditions}
        fields = {c: pair_field_t(a, spec.spacing_m, spec.distance_m) for c, a in amps.items()}
        errors = {c: heading_error_deg(field, policy.earth_field_t) for c, field in fields.items()}
        worst = max(errors, key=lambda c: errors[c])
        if errors[worst] > policy.compass_limit_deg:
            safe = safe_distance_m(amps[worst], spec.spacing_m, policy.earth_field_t, policy.compass_limit_deg)
            yield under(
                {c: "caution" for c, error in errors.items() if error > policy.compass_limit_deg},
                worst,
                (device.id,),
                Comparison(errors[worst], policy.compass_limit_deg, "°"),
                BentCompass(amps[worst], fields[worst], safe),
            )
