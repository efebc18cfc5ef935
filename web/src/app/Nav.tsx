/** Views in the order of the work. */
import { NavLink, useLocation } from "react-router";
import { findingsOfView } from "@/shared/plan/families";
import { findingsIn, severityIn } from "@/shared/plan/marks";
import { useFindings } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { Mark, worst } from "@/shared/ui/marks";
import { NextThing } from "./NextThing";

export const VIEWS = [
  { path: "rails", name: "Rails", key: "r", part: "Plan it" },
  { path: "windows", name: "Windows", key: "w", part: "Plan it" },
  { path: "grounds", name: "Grounds", key: "g", part: "Plan it" },
  { path: "noise", name: "Noise", key: "n", part: "Plan it" },
  { path: "run", name: "Run", key: "u", part: "Plan it" },
  { path: "layouts", name: "Layouts", key: "y", part: "Plan it" },
  { path: "hookup", name: "Hook-up", key: "h", part: "Build it" },
  { path: "bench", name: "Bench", key: "t", part: "Build it" },
  { path: "card", name: "Build card", key: "b", part: "Build it" },
  { path: "wrong", name: "Trouble", key: "x", part: "Fly it" },
  { path: "log", name: "Log", key: "o", part: "Fly it" },
  { path: "shelf", name: "Shelf", key: "s", part: "Tools" },
  { path: "leds", name: "LEDs", key: "l", part: "Tools" },
  { path: "compare", name: "Compare", key: "c", part: "Tools" },
] as const;

const PARTS = [...new Set(VIEWS.map((view) => view.part))];

export function Nav({ planId }: { planId: number }) {
  const { search } = useLocation();
  const { select } = usePlanActions();
  return (
    <nav className="nav" aria-label="Views">
      <div className="nav-parts">
        {PARTS.map((part) => (
          <div key={part} className="nav-part" role="group" aria-label={part}>
            {VIEWS.filter((view) => view.part === part).map((view) => (
              <NavLink key={view.path} to={{ pathname: `/plans/${planId}/${view.path}`, search }} title={`${part} · g ${view.key}`}>
                {view.name} <OpenMark path={view.path} />
              </NavLink>
            ))}
            {part === "Tools" && (
              <button type="button" className="nav-tool" onClick={() => select("policy")} title="Derating, margins, what counts as good practice">
                Policy
              </button>
            )}
          </div>
        ))}
      </div>
      <NextThing planId={planId} />
    </nav>
  );
}

/** What is open in a view, in the condition that is shown: the heaviest of its findings, and how many beside notes. */
function OpenMark({ path }: { path: string }) {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const findings = useFindings(view);
  const open = (findingsOfView(findingsIn(findings, condition), path) ?? []).filter((one) => severityIn(one, condition) !== "note");
  if (open.length === 0) return null;
  return (
    <span className="nav-open">
      <Mark kind={worst(open.map((one) => severityIn(one, condition)))} />
      {open.length}
    </span>
  );
}
