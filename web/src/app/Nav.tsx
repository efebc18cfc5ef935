/** Views in the order of the work. */
import { NavLink, useLocation } from "react-router";
import { usePlanActions } from "@/shared/plan/usePlan";

export const VIEWS = [
  { path: "rails", name: "Rails", key: "r" },
  { path: "windows", name: "Windows", key: "w" },
  { path: "grounds", name: "Grounds", key: "g" },
  { path: "noise", name: "Noise", key: "n" },
  { path: "run", name: "Run", key: "u" },
  { path: "leds", name: "LEDs", key: "l" },
  { path: "bench", name: "Bench", key: "t" },
  { path: "compare", name: "Compare", key: "c" },
  { path: "shelf", name: "Shelf", key: "s" },
  { path: "card", name: "Build card", key: "b" },
] as const;

export function Nav({ planId }: { planId: number }) {
  const { search } = useLocation();
  const { select } = usePlanActions();
  return (
    <nav className="nav" aria-label="Views">
      {VIEWS.map((view) => (
        <NavLink key={view.path} to={{ pathname: `/plans/${planId}/${view.path}`, search }} title={`g ${view.key}`}>
          {view.name}
        </NavLink>
      ))}
      <button type="button" className="nav-tool" onClick={() => select("policy")} title="Derating, margins, what counts as good practice">
        Policy
      </button>
    </nav>
  );
}
