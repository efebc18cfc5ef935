/** Views in the order of the work. */
import { NavLink, useLocation } from "react-router";

export const VIEWS = [{ path: "rails", name: "Rails", key: "r" }] as const;

export function Nav({ planId }: { planId: number }) {
  const { search } = useLocation();
  return (
    <nav className="nav" aria-label="Views">
      {VIEWS.map((view) => (
        <NavLink key={view.path} to={{ pathname: `/plans/${planId}/${view.path}`, search }} title={`g ${view.key}`}>
          {view.name}
        </NavLink>
      ))}
    </nav>
  );
}
