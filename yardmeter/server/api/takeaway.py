"""What is taken away: the plan, its budget, its rails as a picture, netlists, and one page of everything."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Router

from yardmeter.core.formats.csv_files import write_budget
from yardmeter.core.formats.netlist import write_netlist
from yardmeter.core.formats.plan_json import write_plan
from yardmeter.core.formats.rails_svg import write_rails_svg
from yardmeter.core.plan import Plan
from yardmeter.core.runs import scenarios_of
from yardmeter.review.whole_page import BenchLine, Heading, whole_page
from yardmeter.server.builds.services import editing, runs
from yardmeter.server.builds.services.analysis import reviewed, reviewed_noise
from yardmeter.server.builds.services.bench_record import record
from yardmeter.server.builds.services.lookup import get_plan, head_of
from yardmeter.words.told import tell

router = Router(tags=["take away"])


@router.get("/{int:plan_id}/netlist", response=str, openapi_extra={"x-media": "text/plain"})
def netlist(request: HttpRequest, plan_id: int, condition: str) -> HttpResponse:
    """SPICE netlist of the plan in one condition."""
    plan = editing.document_at(plan_id)
    return _download(write_netlist(plan, plan.condition(condition)), f"{plan.name}-{condition}.cir", "text/plain")


@router.get("/{int:plan_id}/export", response=Plan)
def export(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The plan in its open JSON format."""
    plan = editing.document_at(plan_id)
    return _download(write_plan(plan), f"{plan.name}.json", "application/json")


@router.get("/{int:plan_id}/rails.svg", response=str, openapi_extra={"x-media": "image/svg+xml"})
def rails_svg(request: HttpRequest, plan_id: int, condition: str) -> HttpResponse:
    """The rails in one condition as a picture."""
    found = reviewed(head_of(get_plan(plan_id)))
    chosen = found.plan.condition(condition)
    text = write_rails_svg(found.plan, found.solved.budget, chosen.id)
    return _download(text, f"{found.plan.name}-{chosen.id}.svg", "image/svg+xml")


@router.get("/{int:plan_id}/budget.csv", response=str, openapi_extra={"x-media": "text/csv"})
def budget_csv(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Every rail and device in every condition as CSV."""
    found = reviewed(head_of(get_plan(plan_id)))
    return _download(write_budget(found.plan, found.solved.budget), f"{found.plan.name}-budget.csv", "text/csv")


@router.get("/{int:plan_id}/page.html", response=str, openapi_extra={"x-media": "text/html"})
def page(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Findings, rails, hook-up and bench record as one page that opens anywhere."""
    row = get_plan(plan_id)
    found = reviewed(head_of(row))
    run, _ = runs.all_of(found.plan, plan_id, start=False)
    of_runs, _ = runs.verdicts_of(found, plan_id, start=False)
    told = tuple(tell(found.plan, one) for one in of_runs)
    findings = [*found.analysis.findings, *reviewed_noise(found).review.findings, *told]
    left = [one.name for one in scenarios_of(found.plan) if one.id not in {scenario.id for scenario, _ in run}]
    missing = (
        f"Not run yet, so that what it would find is not told here: {', '.join(left)}. Open Run, then take the page again."
        if left
        else ""
    )
    lines = [
        BenchLine(
            one["when"],
            one["title"],
            f"{one['read']} {one['unit'] if one['value'] is not None else ''}".strip(),
            one["outcome"],
            one["note"],
        )
        for one in record(row)
    ]
    text = whole_page(Heading(row.build.name, head_of(row).number, missing), found.solved, findings, lines)
    return _download(text, f"{row.build.name}-{found.plan.name}.html", "text/html")


def _download(text: str, name: str, kind: str) -> HttpResponse:
    safe = "".join(c if c.isalnum() or c in ".-_" else "-" for c in name)
    return HttpResponse(
        text, content_type=f"{kind}; charset=utf-8", headers={"Content-Disposition": f'attachment; filename="{safe}"'}
    )
