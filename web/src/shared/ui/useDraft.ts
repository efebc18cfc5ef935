/** A typed but not yet applied text, kept in the browser so that neither an error nor a reload loses it. */
import { useCallback, useState } from "react";

const PREFIX = "yard-draft:";

function read(key: string): string | null {
  try {
    return window.localStorage.getItem(PREFIX + key);
  } catch {
    return null; // storage may be switched off; the text then lives as long as the page
  }
}

function write(key: string, text: string | null): void {
  try {
    if (text === null) window.localStorage.removeItem(PREFIX + key);
    else window.localStorage.setItem(PREFIX + key, text);
  } catch {
    // see read()
  }
}

export interface Draft {
  text: string;
  /** Whether the text differs from what is stored in the plan. */
  pending: boolean;
  type: (text: string) => void;
  /** Forget the draft: it was applied, or the builder gave it up. */
  drop: () => void;
}

export function useDraft(key: string, stored: string): Draft {
  const [state, setState] = useState({ key, text: read(key) });
  const current = state.key === key ? state.text : read(key);
  const type = useCallback(
    (text: string) => {
      write(key, text);
      setState({ key, text });
    },
    [key],
  );
  const drop = useCallback(() => {
    write(key, null);
    setState({ key, text: null });
  }, [key]);
  return { text: current ?? stored, pending: current !== null && current !== stored, type, drop };
}
