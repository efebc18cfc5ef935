/** The sheet of a view, held in the address: it can be linked to, and comes back with the page. */
import { useCallback } from "react";
import { useSearchParams } from "react-router";

export function useSheet<T extends string>(sheets: readonly T[], first: T): [T, (sheet: T) => void] {
  const [params, set] = useSearchParams();
  const asked = params.get("sheet");
  const shown = sheets.find((one) => one === asked) ?? first;
  const show = useCallback(
    (sheet: T) =>
      set(
        (before) => {
          const next = new URLSearchParams(before);
          if (sheet === first) next.delete("sheet");
          else next.set("sheet", sheet);
          return next;
        },
        { replace: true },
      ),
    [first, set],
  );
  return [shown, show];
}
