/** One stop of the Tab key for a whole picture: arrows walk along rows and between them. */
import { useEffect, type KeyboardEvent, type RefObject } from "react";
import { nextStop, type Stop } from "./roving";

const ITEM = "[data-row]";

/** Gives the container's key and focus handlers. Items carry `data-row`, their place in it follows from where they are drawn. */
export function useRoving(container: RefObject<Element | null>) {
  const items = () => [...(container.current?.querySelectorAll<SVGElement | HTMLElement>(ITEM) ?? [])];
  useEffect(() => {
    const found = items();
    // The one that had the keyboard may be gone after an edit; some item always takes it.
    if (found.length > 0 && !found.some((one) => one.tabIndex === 0)) hold(found, found[0]);
  });
  return {
    onFocus: (event: { target: EventTarget }) => {
      const item = (event.target as Element).closest<SVGElement | HTMLElement>(ITEM);
      if (item) hold(items(), item);
    },
    onKeyDown: (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const found = items();
      const at = found.findIndex((one) => one === (event.target as Element).closest(ITEM));
      if (at < 0) return;
      const stops: Stop[] = found.map((one) => ({ row: Number(one.dataset.row), x: one.getBoundingClientRect().left }));
      const to = nextStop(stops, at, event.key);
      if (to === null) return;
      event.preventDefault();
      found[to]?.focus();
    },
  };
}

function hold(all: (SVGElement | HTMLElement)[], chosen: SVGElement | HTMLElement | undefined): void {
  for (const one of all) one.tabIndex = one === chosen ? 0 : -1;
}
