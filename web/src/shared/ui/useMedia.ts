/** Whether a media query holds, followed as the window changes. */
import { useCallback, useSyncExternalStore } from "react";

/** Below this the panel lies under the view as a sheet; below the second the yard is a list. The same widths stand in the style sheets. */
export const NARROW = "(max-width: 859px)";
export const PHONE = "(max-width: 619px)";

export function useMedia(query: string): boolean {
  const follow = useCallback(
    (changed: () => void) => {
      const list = window.matchMedia(query);
      list.addEventListener("change", changed);
      return () => list.removeEventListener("change", changed);
    },
    [query],
  );
  return useSyncExternalStore(follow, () => window.matchMedia(query).matches);
}
