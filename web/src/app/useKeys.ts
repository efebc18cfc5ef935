/** Keyboard shortcuts. Keys typed into a field stay with the field. */
import { useEffect } from "react";

export type KeyMap = Record<string, (event: KeyboardEvent) => void>;

export function keyName(event: KeyboardEvent): string {
  const held = [event.ctrlKey || event.metaKey ? "ctrl" : "", event.shiftKey && event.key.length > 1 ? "shift" : "", event.altKey ? "alt" : ""].filter(Boolean);
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if ((event.ctrlKey || event.metaKey) && event.shiftKey && event.key.length === 1) held.push("shift");
  return [...held, key].join("+");
}

export function inField(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName) || target.closest('[role="combobox"], [role="listbox"]') !== null);
}

const STEPS = ["ctrl+z", "ctrl+shift+z", "ctrl+y"];

/** Whether a field holds what the plan holds: there is nothing typed in it to take back, so undo is the plan's. */
function isSettled(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.dataset.settled === "true";
}

/** Bind keys; two-key sequences are written `g r`. */
export function useKeys(map: KeyMap): void {
  useEffect(() => {
    let lead = "";
    let timer = 0;
    const onKey = (event: KeyboardEvent) => {
      if (event.defaultPrevented) return;
      const name = keyName(event);
      if (inField(event.target) && event.key !== "Escape" && !(STEPS.includes(name) && isSettled(event.target))) return;
      const action = map[lead ? `${lead} ${name}` : name];
      if (action) {
        event.preventDefault();
        action(event);
      }
      lead = !lead && Object.keys(map).some((key) => key.startsWith(`${name} `)) ? name : "";
      window.clearTimeout(timer);
      timer = window.setTimeout(() => (lead = ""), 1200);
    };
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("keydown", onKey);
      window.clearTimeout(timer);
    };
  }, [map]);
}
