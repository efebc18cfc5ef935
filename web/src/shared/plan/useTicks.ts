/** What has been ticked off on a list of a plan; kept in this browser, across reloads. */
import { useCallback, useState } from "react";

export interface Ticks {
  has: (id: string) => boolean;
  toggle: (id: string) => void;
  clear: () => void;
}

function read(key: string): Set<string> {
  try {
    const stored: unknown = JSON.parse(window.localStorage.getItem(key) ?? "[]");
    return new Set(Array.isArray(stored) ? stored.filter((one): one is string => typeof one === "string") : []);
  } catch {
    return new Set();
  }
}

export function useTicks(planId: number): Ticks {
  const key = `yard-ticks-${planId}`;
  const [done, setDone] = useState(() => read(key));
  const keep = useCallback(
    (next: Set<string>) => {
      window.localStorage.setItem(key, JSON.stringify([...next]));
      setDone(next);
    },
    [key],
  );
  const toggle = (id: string) => {
    const next = new Set(done);
    if (!next.delete(id)) next.add(id);
    keep(next);
  };
  return { has: (id) => done.has(id), toggle, clear: () => keep(new Set()) };
}
