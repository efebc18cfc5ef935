/** The first stops of the Tab key: past the frame, to what one came for. */
import { focusSoon } from "@/shared/ui/focus";

const TARGETS = [
  ["View", [".shell-view [data-row][tabindex='0']", ".shell-view"]],
  ["Ticket", [".ticket h2"]],
  ["Draws", [".draws input", ".ticket h2"]],
  ["Findings", [".findings h2"]],
] as const;

export function SkipLinks() {
  return (
    <nav className="skip" aria-label="Skip to">
      {TARGETS.map(([name, selectors]) => (
        <button key={name} type="button" onClick={() => focusSoon(selectors)}>
          {name}
        </button>
      ))}
    </nav>
  );
}
