"""`noise.compass`: high-current pairs beside a compass."""

from __future__ import annotations

from collections.abc import Iterator

from yardmeter.core.checks.finding import Finding, number
from yardmeter.core.checks.registry import Case, rule
from yardmeter.core.physics.magnetics import heading_error_deg, pair_field_t, safe_distance_m
from yardmeter.core.units import format_si


@rule("noise.compass", sense="at most")
def bent_compass(case: Case) -> Iterator[Finding]:
    """Heading error by the field of the pack's current against the policy's limit, in the worst condition."""
    plan, policy = case.plan, case.plan.policy
    for device in plan.devices:
        if device.compass is None:
            continue
        spec = device.compass
        amps = {c.id: abs(c.pack_a) * spec.share_frac for c in case.budget.conditions}
        fields = {c: pair_field_t(a, spec.spacing_m, spec.distance_m) for c, a in amps.items()}
        errors = {c: heading_error_deg(field, policy.earth_field_t) for c, field in fields.items()}
        worst = max(errors, key=lambda c: errors[c])
        if errors[worst] <= policy.compass_limit_deg:
            continue
        safe = safe_distance_m(amps[worst], spec.spacing_m, policy.earth_field_t, policy.compass_limit_deg)
        yield Finding(
            severity="caution",
            conditions=tuple(c for c, e in errors.items() if e > policy.compass_limit_deg),
            worst=worst,
            elements=(device.id,),
            title=f"{device.name}: the compass is bent by {errors[worst]:.0f}°",
            cause=(
                f"{format_si(amps[worst], 'A')} in a pair {format_si(spec.spacing_m, 'm')} apart makes "
                f"{fields[worst] * 1e6:.1f} µT at {format_si(spec.distance_m, 'm')}; the earth gives {policy.earth_field_t * 1e6:g} µT."
            ),
            remedy=f"Move it {format_si(safe, 'm')} away, or twist the pair tighter.",
            numbers=(number("heading error °", errors[worst], ""), number("limit °", policy.compass_limit_deg, "")),
        )
