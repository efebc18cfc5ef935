/** What the block before a track says: volts in and out, headroom, temperature, who carries the rail. */
import type { PlanView, RailAnswer, SupplyAnswer, SupplyState } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { celsius, percent, seconds, volts } from "@/shared/ui/format";
import type { MarkKind } from "@/shared/ui/marks";

export interface BlockLine {
  text: string;
  mark?: MarkKind;
  /** The number's working, when the line is one. */
  ask?: { element: string; quantity: "volts" | "headroom" | "temperature" | "pack" | "share" };
}

export interface BlockText {
  title: string;
  element: string;
  lines: BlockLine[];
  height: number;
}

const MODE_WORDS: Record<SupplyState["mode"], string> = {
  off: "off",
  regulating: "in regulation",
  dropout: "out of regulation",
  limiting: "at its limit",
  passing: "straight through",
  "gives up": "gives up",
  hiccup: "keeps restarting",
  backwards: "runs backwards",
  unknown: "unknown",
};

export function blockText(view: PlanView, rail: RailAnswer, condition: string): BlockText {
  const state = rail.states[condition];
  const lines: BlockLine[] = [];
  let element = rail.id;
  const feeding = rail.supplies.map((id) => view.analysis.budget.supplies.find((s) => s.id === id)).filter((s): s is SupplyAnswer => s !== undefined);
  const live = feeding.filter((s) => (s.states[condition]?.out_a ?? 0) > 1e-3);
  const main = live[0] ?? feeding[0];
  if (view.plan.pack.rail === rail.id) {
    const head = view.analysis.budget.conditions.find((c) => c.id === condition);
    element = "pack";
    lines.push({ text: `${volts(state?.volts_v)} at the board`, ask: { element: "pack", quantity: "pack" } });
    lines.push({
      text: head && head.pack_a > 0 ? `${volts(head.pack_rest_v)} at rest${left(head.charge_left_frac)}` : "not connected",
      mark: head && head.pack_a > 0 ? undefined : "note",
    });
  } else if (main) {
    const at = main.states[condition];
    if (feeding.length === 1) element = main.id;
    if (at) {
      lines.push({ text: `${volts(at.in_v)} → ${volts(at.out_v)}`, ask: { element: rail.id, quantity: "volts" } });
      if (at.headroom_v !== null && at.headroom_v !== undefined && at.mode !== "off") {
        lines.push({
          text: `headroom ${volts(at.headroom_v)}`,
          ask: { element: main.id, quantity: "headroom" },
          mark: at.mode === "dropout" ? (at.weight ?? undefined) : undefined,
        });
      }
      lines.push(modeLine(main, at));
      if (typeof at.still_trip_s === "number") lines.push({ text: `still air: trips in ${seconds(at.still_trip_s)}`, mark: "caution" });
    }
    if (feeding.length > 1) lines.push(...shares(feeding, condition));
  } else {
    const inlet = (view.plan.inlets ?? []).find((one) => one.rail === rail.id);
    lines.push({ text: volts(state?.volts_v), ask: { element: rail.id, quantity: "volts" } });
    lines.push({ text: inlet ? `from ${inlet.name}` : "no supply", mark: (state?.volts_v ?? 0) > 0.5 ? undefined : "note" });
  }
  const title =
    view.plan.pack.rail === rail.id
      ? `Pack ${view.plan.pack.series}S → ${rail.name}`
      : blockTitle(rail.name, elementName(view, rail.id), main?.name, feeding.length);
  return { title, element, lines, height: 26 + lines.length * 16 };
}

function left(fraction: number | null | undefined): string {
  if (fraction === null || fraction === undefined) return "";
  return fraction > 0.995 ? ", full" : `, ${percent(fraction)} left`;
}

const TITLE_ROOM = 27;

/** The rail, with what its supply is; with its board instead where another rail has the same name. */
function blockTitle(rail: string, called: string, supply: string | undefined, count: number): string {
  const kind = supply && count === 1 && supply.startsWith(`${rail} `) ? ` · ${supply.slice(rail.length).trim()}` : "";
  const title = called === rail ? `${rail}${kind}` : called;
  return title.length > TITLE_ROOM ? `${title.slice(0, TITLE_ROOM - 1)}…` : title;
}

function modeLine(supply: SupplyAnswer, at: SupplyState): BlockLine {
  const mark: MarkKind = at.weight ?? (at.mode === "off" ? "note" : "ok");
  const text = MODE_WORDS[at.mode];
  if (at.temp_c === null || at.temp_c === undefined || at.mode === "off") return { text, mark };
  return { text: `${text} · ${celsius(at.temp_c)}`, mark, ask: { element: supply.id, quantity: "temperature" } };
}

/** One line per supply that carries the rail; each leads to the working of its share. */
function shares(feeding: SupplyAnswer[], condition: string): BlockLine[] {
  return feeding
    .filter((s) => (s.states[condition]?.share_frac ?? 0) > 0.005)
    .map((s) => ({ text: `${percent(s.states[condition]?.share_frac ?? 0)} ${s.name}`, ask: { element: s.id, quantity: "share" as const } }));
}
