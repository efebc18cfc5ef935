/** Keys of the bench. They come before the plan's own, but for the second key of a sequence; what is typed into a field stays there. */
import { useEffect } from "react";
import { inField, keyName, useLetterKeys, type KeyMap } from "@/shared/ui/useKeys";

const LEAD_MS = 1200;

export function useBenchKeys(map: KeyMap): void {
  const letters = useLetterKeys();
  useEffect(() => {
    let leadAt = 0;
    const onKey = (event: KeyboardEvent) => {
      const name = keyName(event);
      if (inField(event.target) || document.querySelector(".ant-modal-wrap:not([style*='display: none'])")) return;
      if (event.key === "Enter" && event.target instanceof HTMLElement && event.target.closest("button, a, summary")) return;
      if (!letters.on && name.length === 1) return;
      if (name === "g") {
        leadAt = Date.now();
        return;
      }
      const action = Date.now() - leadAt < LEAD_MS ? undefined : (map[name] ?? (/^[0-9.]$/.test(name) ? map["digit"] : undefined));
      leadAt = 0;
      if (!action) return;
      event.stopPropagation();
      if (!/^[0-9.]$/.test(name)) event.preventDefault();
      action(event);
    };
    window.addEventListener("keydown", onKey, { capture: true });
    return () => window.removeEventListener("keydown", onKey, { capture: true });
  }, [letters.on, map]);
}
