/** The one next thing, in the order in which builders work: fed, judged, joined, soldered, checked. It can be put off. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "react-router";
import { call, client } from "@/shared/api/client";
import type { Finding, PlanView } from "@/shared/api/types";
import { viewOf } from "@/shared/plan/families";
import { AT_REST_MS, useBackgroundRuns, useFindings } from "@/shared/plan/useNoise";
import { usePlanState } from "@/shared/plan/usePlan";

interface Next {
  /** What it is put off by. */
  key: string;
  says: string;
  path: string;
  sheet?: string;
  element?: string;
}

const HEAVY: readonly string[] = ["danger", "fault"];

function nextOf(view: PlanView, findings: Finding[], joins: number): Next[] {
  const heavy = findings.filter((one) => HEAVY.includes(one.severity) && !one.under);
  const first = heavy[0];
  const found: Next[] = [];
  if ((view.plan.devices ?? []).every((one) => one.kind === "logic")) found.push({ key: "devices", says: "Add what the craft carries", path: "rails" });
  if (first) found.push({ key: `finding ${first.key}`, says: first.title, path: viewOf(first), element: first.elements[0] });
  if (joins > 0)
    found.push({
      key: `joins ${joins}`,
      says: `Join the pins: ${joins} usual ${joins === 1 ? "link is" : "links are"} open`,
      path: "grounds",
      sheet: "Signals",
    });
  found.push({ key: "hookup", says: "Solder by the hook-up list", path: "hookup" });
  found.push({ key: "bench", says: "Check it on the bench before the pack goes in", path: "bench" });
  return found;
}

const kept = (plan: number) => `yard-next-${plan}`;

function putOff(plan: number): string[] {
  try {
    const found: unknown = JSON.parse(window.localStorage.getItem(kept(plan)) ?? "[]");
    return Array.isArray(found) ? found.filter((one) => typeof one === "string") : [];
  } catch {
    return [];
  }
}

/** The address's own words, with what is to be looked at chosen. */
function selecting(search: string, { element, sheet }: Next): string {
  const words = new URLSearchParams(search);
  words.delete("sheet");
  if (element) words.set("s", element);
  if (sheet) words.set("sheet", sheet);
  return `?${words.toString()}`;
}

export function NextThing({ planId }: { planId: number }) {
  const { view } = usePlanState();
  const { search } = useLocation();
  const findings = useFindings(view);
  useBackgroundRuns(view, AT_REST_MS);
  const [off, setOff] = useState(() => putOff(planId));
  const usual = useQuery({
    queryKey: ["usual-signals", view.id, view.revision],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/signals/usual", { params: { path: { plan_id: view.id } } })),
  });
  const next = nextOf(view, findings, usual.data?.length ?? 0).find((one) => !off.includes(one.key));
  if (!next) return null;
  const skip = () => {
    const all = [...off, next.key].slice(-40);
    setOff(all);
    window.localStorage.setItem(kept(planId), JSON.stringify(all));
  };
  return (
    <section className="next-thing" aria-label="Next">
      <h2>Next</h2>
      <Link to={{ pathname: `/plans/${planId}/${next.path}`, search: selecting(search, next) }}>{next.says}</Link>
      <button type="button" className="nav-tool" onClick={skip}>
        Not now
      </button>
    </section>
  );
}
