/** Views in the order of the work. */
import { NavLink, useLocation } from "react-router";
import { usePlanActions } from "@/shared/plan/usePlan";

export const VIEWS = [
  { path: "rails", name: "Rails", key: "r", part: "Plan it" },
  { path: "windows", name: "Windows", key: "w", part: "Plan it" },
  { path: "grounds", name: "Grounds", key: "g", part: "Plan it" },
  { path: "noise", name: "Noise", key: "n", part: "Plan it" },
  { path: "run", name: "Run", key: "u", part: "Plan it" },
  { path: "hookup", name: "Hook-up", key: "h", part: "Build it" },
  { path: "bench", name: "Bench", key: "t", part: "Build it" },
  { path: "card", name: "Build card", key: "b", part: "Build it" },
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
      {PARTS.map((part) => (
        <div key={part} className="nav-part" role="group" aria-label={part}>
          {VIEWS.filter((view) => view.part === part).map((view) => (
            <NavLink key={view.path} to={{ pathname: `/plans/${planId}/${view.path}`, search }} title={`${part} · g ${view.key}`}>
              {view.name}
            </NavLink>
          ))}
          {part === "Tools" && (
            <button type="button" className="nav-tool" onClick={() => select("policy")} title="Derating, margins, what counts as good practice">
              Policy
            </button>
          )}
        </div>
      ))}
    </nav>
  );
}
