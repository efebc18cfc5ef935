/** Dragging a wagon to another track: while it hovers the move is tried, dropping applies it. */
import { useCallback, useEffect, useRef, useState, type RefObject } from "react";
import type { MoveTried } from "@/shared/api/types";
import { moveOf, tryMove } from "@/shared/plan/tryMove";
import { WORST, usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import type { Row } from "./RailsView";

export interface Drag {
  device: string;
  name: string;
  x: number;
  y: number;
  /** The track under the wagon, when it is not its own. */
  target: string | null;
  tried: MoveTried | null;
}

/** Pixels a press may wander before it becomes a drag. */
const SLACK = 6;

interface Held {
  device: string;
  fromX: number;
  fromY: number;
  moving: boolean;
}

export function useWagonDrag(svg: RefObject<SVGSVGElement | null>, rows: Row[]) {
  const { view } = usePlanState();
  const { standing: condition } = useSelection();
  const { preview, edit } = usePlanActions();
  const [now, setNow] = useState<Drag | null>(null);
  const [held, setHeld] = useState<Held | null>(null);
  const latest = useRef<Drag | null>(null);
  useEffect(() => {
    latest.current = now;
  }, [now]);
  const grab = useCallback((device: string, event: PointerEvent) => setHeld({ device, fromX: event.clientX, fromY: event.clientY, moving: false }), []);

  useEffect(() => {
    if (!held) return;
    const device = view.plan.devices?.find((d) => d.id === held.device);
    let started = false;
    let asked: string | null = null;
    const place = (event: PointerEvent) => {
      const box = svg.current?.getBoundingClientRect();
      if (!box || !device) return;
      if (!started && Math.hypot(event.clientX - held.fromX, event.clientY - held.fromY) < SLACK) return;
      started = true;
      const y = event.clientY - box.top;
      const row = rows.find((one) => y >= one.top && y < one.top + one.height);
      const target = row && row.id !== device.feed?.rail ? row.id : null;
      setNow((before) => ({ device: held.device, name: device.name, x: event.clientX - box.left, y, target, tried: before?.tried?.rail === target ? before.tried : null }));
      if (target && target !== asked) {
        void tryMove(preview, held.device, target, condition === WORST ? undefined : condition).then((tried) => setNow((before) => (before?.target === target ? { ...before, tried } : before)));
      }
      asked = target;
    };
    const drop = () => {
      const last = latest.current;
      setHeld(null);
      setNow(null);
      if (last?.target && !last.tried?.refused) {
        edit(moveOf(last.device, last.target)).catch(() => undefined);
      }
      if (started) window.addEventListener("click", swallow, { capture: true, once: true });
    };
    const swallow = (event: Event) => event.stopPropagation();
    const cancel = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      setHeld(null);
      setNow(null);
    };
    window.addEventListener("pointermove", place);
    window.addEventListener("pointerup", drop);
    window.addEventListener("keydown", cancel);
    return () => {
      window.removeEventListener("pointermove", place);
      window.removeEventListener("pointerup", drop);
      window.removeEventListener("keydown", cancel);
    };
    // One press is one drag: what it needs is read when it begins.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [held]);

  return { now, grab };
}
