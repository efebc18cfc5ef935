/** State that outlives a reload of the page, in this tab only, until it is forgotten. */
import { useState } from "react";

export function useKept<T extends object>(key: string, start: T): [T, (change: Partial<T>) => void, () => void] {
  const [value, setValue] = useState<T>(() => {
    try {
      const found = window.sessionStorage.getItem(key);
      return found ? { ...start, ...(JSON.parse(found) as Partial<T>) } : start;
    } catch {
      return start;
    }
  });
  const keep = (change: Partial<T>) => {
    const next = { ...value, ...change };
    setValue(next);
    window.sessionStorage.setItem(key, JSON.stringify(next));
  };
  const forget = () => {
    setValue(start);
    window.sessionStorage.removeItem(key);
  };
  return [value, keep, forget];
}
