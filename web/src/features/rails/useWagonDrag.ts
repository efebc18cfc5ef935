/** Dragging a wagon to another track: while it hovers the move is tried, dropping applies it. */
import { useCallback, useEffect, useEffectEvent, useState, type RefObject } from "react";
import type { MoveTried } from "@/shared/api/types";
import { moveOf, tryMove } from "@/shared/plan/tryMove";
import { WORST, usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import type { Row } from "./row";

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
}

/** What has become of a press so far. */
interface Press {
  started: boolean;
  /** The track last tried. */
  asked: string | null;
}

export function useWagonDrag(svg: RefObject<SVGSVGElement | null>, rows: Row[]) {
  const { view } = usePlanState();
  const { standing: condition } = useSelection();
  const { preview, edit } = usePlanActions();
  const [now, setNow] = useState<Drag | null>(null);
  const [held, setHeld] = useState<Held | null>(null);
  const grab = useCallback((device: string, event: PointerEvent) => setHeld({ device, fromX: event.clientX, fromY: event.clientY }), []);

  const place = useEffectEvent((event: PointerEvent, press: Press, { device: id, fromX, fromY }: Held) => {
    const box = svg.current?.getBoundingClientRect();
    const device = view.plan.devices?.find((d) => d.id === id);
    if (!box || !device) return;
    if (!press.started && Math.hypot(event.clientX - fromX, event.clientY - fromY) < SLACK) return;
    press.started = true;
    const y = event.clientY - box.top;
    const row = rows.find((one) => y >= one.top && y < one.top + one.height);
    const target = row && row.id !== device.feed?.rail ? row.id : null;
    setNow((before) => ({
      device: id,
      name: device.name,
      x: event.clientX - box.left,
      y,
      target,
      tried: before?.tried?.rail === target ? before.tried : null,
    }));
    if (target && target !== press.asked) {
      void tryMove(preview, id, target, condition === WORST ? undefined : condition).then((tried) =>
        setNow((before) => (before?.target === target ? { ...before, tried } : before)),
      );
    }
    press.asked = target;
  });
  const letGo = useEffectEvent(() => {
    setHeld(null);
    setNow(null);
    if (now?.target && !now.tried?.refused) edit(moveOf(now.device, now.target)).catch(() => undefined);
  });

  useEffect(() => {
    if (!held) return;
    const press: Press = { started: false, asked: null };
    const move = (event: PointerEvent) => place(event, press, held);
    const drop = () => {
      letGo();
      if (press.started) window.addEventListener("click", swallow, { capture: true, once: true });
    };
    const swallow = (event: Event) => event.stopPropagation();
    const cancel = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      setHeld(null);
      setNow(null);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", drop);
    window.addEventListener("keydown", cancel);
    return () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", drop);
      window.removeEventListener("keydown", cancel);
    };
  }, [held]);

  return { now, grab };
}
