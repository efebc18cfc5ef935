/** Dragging the end of a return to another ground: while it hovers the change is tried, dropping applies it. */
import { useCallback, useEffect, useRef, useState, type RefObject } from "react";
import type { Edit, PreviewView } from "@/shared/api/types";
import { ApiError } from "@/shared/api/client";
import { ownerOfEnd } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { volts } from "@/shared/ui/format";
import { BOX_H, type Placed } from "./heights";

export interface ReturnDrag {
  wire: string;
  x: number;
  y: number;
  target: string | null;
  words: string;
}

export function useReturnDrag(svg: RefObject<SVGSVGElement | null>, placed: Placed[], condition: string) {
  const { view } = usePlanState();
  const { preview, edit } = usePlanActions();
  const [wire, setWire] = useState<string | null>(null);
  const [now, setNow] = useState<ReturnDrag | null>(null);
  const latest = useRef<ReturnDrag | null>(null);
  useEffect(() => {
    latest.current = now;
  }, [now]);
  const grab = useCallback((id: string, event: PointerEvent) => {
    event.preventDefault();
    setWire(id);
  }, []);
  useEffect(() => {
    if (!wire) return;
    const segment = view.analysis.returns.segments.find((s) => s.id === wire);
    let asked: string | null = null;
    const change = (to: string): Edit[] => [{ op: "set", element: wire, field: "to", value: to }];
    const place = (event: PointerEvent) => {
      const box = svg.current?.getBoundingClientRect();
      if (!box || !segment) return;
      const [x, y] = [event.clientX - box.left, event.clientY - box.top];
      const under = placed.find((p) => x >= p.x - 6 && x <= p.x + p.width + 6 && Math.abs(y - p.labelY) <= BOX_H / 2 + 4);
      const target = under && under.id !== segment.owner && under.id !== segment.to ? under.id : null;
      setNow((before) => ({ wire, x, y, target, words: target ? (before?.target === target ? before.words : `to ${under?.name}…`) : "" }));
      if (target && target !== asked)
        preview(change(target))
          .then((after) => `to ${under?.name}: ${shiftWords(view.analysis, after, condition)}`)
          .catch((caught: unknown) => `Refused: ${caught instanceof ApiError ? caught.body.what : String(caught)}`)
          .then((words) => setNow((before) => (before?.target === target ? { ...before, words } : before)));
      asked = target;
    };
    const drop = () => {
      const last = latest.current;
      setWire(null);
      setNow(null);
      if (last?.target && !last.words.startsWith("Refused")) void edit(change(last.target)).catch(() => undefined);
    };
    const cancel = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      setWire(null);
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
  }, [wire, view, placed, svg, preview, edit, condition]);
  /** Grips of several returns at one ground stand beside each other. */
  const gripOffset = (id: string) => {
    const { segments } = view.analysis.returns;
    const mine = segments.find((s) => s.id === id);
    const beside = segments.filter((s) => s.to === mine?.to);
    return (
      -Math.min(
        beside.findIndex((s) => s.id === id),
        9,
      ) * 11
    );
  };
  return { now, grab, gripOffset, ownerOf: (end: string) => ownerOfEnd(view, end) };
}

/** The signal the change tells on most, steady shift before and after. */
function shiftWords(before: PreviewView["analysis"], after: PreviewView, condition: string): string {
  const names = new Map((after.plan.signals ?? []).map((s) => [s.id, s.name]));
  const moved = after.analysis.returns.signals
    .map((signal) => {
      const was = before.returns.signals.find((s) => s.id === signal.id)?.states[condition]?.shift_v ?? 0;
      const is = signal.states[condition]?.shift_v ?? 0;
      return { name: names.get(signal.id) ?? signal.id, was, is, change: Math.abs(is - was) / (signal.margin_v || 1) };
    })
    .sort((a, b) => b.change - a.change)[0];
  return moved && moved.change > 1e-3 ? `${moved.name} ${volts(Math.abs(moved.was))} → ${volts(Math.abs(moved.is))} steady` : "no signal moves";
}
