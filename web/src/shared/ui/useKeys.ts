/** Keyboard shortcuts. Keys typed into a field stay with the field. */
import { useEffect, useState } from "react";

export type KeyMap = Record<string, (event: KeyboardEvent) => void>;

export function keyName(event: KeyboardEvent): string {
  const held = [event.ctrlKey || event.metaKey ? "ctrl" : "", event.shiftKey && event.key.length > 1 ? "shift" : "", event.altKey ? "alt" : ""].filter(Boolean);
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if ((event.ctrlKey || event.metaKey) && event.shiftKey && event.key.length === 1) held.push("shift");
  return [...held, key].join("+");
}

/** A tab, a tick or a slider is an input too, and nothing is typed into it. */
const NOT_TYPED = ["radio", "checkbox", "button", "range"];

export function inField(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement && NOT_TYPED.includes(target.type)) return false;
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName) || target.closest('[role="combobox"], [role="listbox"]') !== null)
  );
}

const OPEN_MENU = ".ant-dropdown:not(.ant-dropdown-hidden), .ant-select-dropdown:not(.ant-select-dropdown-hidden)";
const DIALOG = '[role="dialog"]';
const STEPS = ["ctrl+z", "ctrl+shift+z", "ctrl+y"];

/** Whether a field holds what the plan holds: there is nothing typed in it to take back, so undo is the plan's. */
function isSettled(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.dataset.settled === "true";
}

/** A key that speech input or a slip of the hand may send: a single character without Ctrl or Alt. */
export function isLetter(name: string): boolean {
  return name.length === 1;
}

const STORED = "yard-letter-keys";

export interface LetterKeys {
  on: boolean;
  set: (on: boolean) => void;
}

/** Whether single characters are shortcuts; kept in the browser. */
export function useLetterKeys(): LetterKeys {
  const [on, setOn] = useState(() => window.localStorage.getItem(STORED) !== "off");
  const set = (next: boolean) => {
    window.localStorage.setItem(STORED, next ? "on" : "off");
    setOn(next);
  };
  return { on, set };
}

/** Bind keys; two-key sequences are written `g r`. */
export function useKeys(map: KeyMap, letters = true): void {
  useEffect(() => {
    let lead = "";
    let timer = 0;
    let inDialog = false;
    // Looked at before anyone has heard the key: the dialog it closes is gone when it comes here.
    const look = () => (inDialog = [...document.querySelectorAll(DIALOG)].some((one) => one.checkVisibility()));
    const onKey = (event: KeyboardEvent) => {
      if (event.defaultPrevented) return;
      const name = keyName(event);
      if (inField(event.target) && event.key !== "Escape" && !(STEPS.includes(name) && isSettled(event.target))) return;
      if (!letters && isLetter(name)) return;
      if (name === "Escape" && (inDialog || document.querySelector(OPEN_MENU))) return; // closes what is open, and no more
      const action = map[lead ? `${lead} ${name}` : name];
      if (action) {
        event.preventDefault();
        action(event);
      }
      lead = !lead && Object.keys(map).some((key) => key.startsWith(`${name} `)) ? name : "";
      window.clearTimeout(timer);
      timer = window.setTimeout(() => (lead = ""), 1200);
    };
    window.addEventListener("keydown", look, { capture: true });
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("keydown", look, { capture: true });
      window.removeEventListener("keydown", onKey);
      window.clearTimeout(timer);
    };
  }, [letters, map]);
}
