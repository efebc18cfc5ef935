/** A board as its silkscreen tells it: changes to the part's document, one for each thing printed on it. */
import type { components } from "@/shared/api/schema";

export type BoardPart = NonNullable<components["schemas"]["Part"]["board"]>;
export type BoardRail = BoardPart["rails"][number];
export type BoardSupply = NonNullable<BoardPart["supplies"]>[number];
export type BoardPin = NonNullable<BoardPart["board"]["pins"]>[number];
type Regulator = Extract<BoardSupply, { set_v: number }>;
type Strap = Extract<BoardSupply, { kind: "strap" }>;
type Pad = NonNullable<BoardRail["pads"]>[number];

/** Ids the core gives the rail a pack wire, or 5 V from elsewhere, is soldered to. */
export const INLETS = { pack: "pack-in", five: "five-in" } as const;
export type Inlet = keyof typeof INLETS | "none";

/** A pad, or several alike side by side. */
export interface PadGroup {
  rail: string;
  label: string;
  direction: "out" | "in";
  count: number;
  limit_a: number | null;
  width_m: number | null;
}

/** A pin as it is before anything is said of it. */
export const PLAIN_PIN = { default: false, input_levels: "ttl", inverted: false, inverts: false, port: "" } as const;

export const EMPTY_BOARD: BoardPart = {
  board: {
    id: "own",
    name: "My board",
    kind: "controller",
    fitting: "",
    note: "",
    osd: false,
    pinout: "unverified",
    pins: [],
    returns: [],
    revision: "",
    weight_g: 0,
  },
  rails: [{ id: INLETS.pack, name: "Pack in", board: "own", pads: [] }],
  supplies: [],
  logic_a: null,
};

export const isRegulator = (one: BoardSupply): one is Regulator => "set_v" in one;
export const isStrap = (one: BoardSupply): one is Strap => one.kind === "strap";
export const regulators = (part: BoardPart) => (part.supplies ?? []).filter(isRegulator);
export const straps = (part: BoardPart) => (part.supplies ?? []).filter(isStrap);

export function inletOf(part: BoardPart): Inlet {
  if (part.rails.some((rail) => rail.id === INLETS.pack)) return "pack";
  return part.rails.some((rail) => rail.id === INLETS.five) ? "five" : "none";
}

/** Every id of the part, so that a new one differs. */
function taken(part: BoardPart): Set<string> {
  const pads = part.rails.flatMap((rail) => (rail.pads ?? []).map((pad) => pad.id));
  const pins = (part.board.pins ?? []).map((pin) => pin.id);
  return new Set([part.board.id, ...part.rails.map((r) => r.id), ...(part.supplies ?? []).map((s) => s.id), ...pads, ...pins]);
}

function freshId(part: BoardPart, stem: string, also: Set<string> = new Set()): string {
  const used = taken(part);
  let number = 1;
  while (used.has(`${stem}-${number}`) || also.has(`${stem}-${number}`)) number += 1;
  return `${stem}-${number}`;
}

/** What feeds the board: the rail of that wire, in place of the one before; what hung on it hangs on the new one. */
export function setInlet(part: BoardPart, inlet: Inlet): BoardPart {
  const old = INLETS[inletOf(part) as keyof typeof INLETS] as string | undefined;
  const rest = part.rails.filter((rail) => rail.id !== old);
  if (inlet === "none") {
    const supplies = (part.supplies ?? []).filter((one) => one.input !== old);
    const rails = rest.length > 0 ? rest : [{ id: "rail-1", name: "5 V", board: part.board.id, nominal_v: 5, pads: [] }];
    return { ...part, rails, supplies };
  }
  const id = INLETS[inlet];
  const before = part.rails.find((rail) => rail.id === old);
  const fresh: BoardRail = {
    pads: [],
    ...before,
    id,
    name: inlet === "pack" ? "Pack in" : "5 V",
    board: part.board.id,
    nominal_v: inlet === "pack" ? null : 5,
  };
  const supplies = (part.supplies ?? []).map((one) => (old && one.input === old ? { ...one, input: id } : one));
  return { ...part, rails: [fresh, ...rest], supplies };
}

/** Volts boards are made to give, in the order they are met; common practice, no source. */
const USUAL_V = [5, 9, 12, 3.3, 10, 8];

/** A regulator with a rail of its own at its volts. */
export function addRegulator(part: BoardPart): BoardPart {
  const id = freshId(part, "reg");
  const rail = freshId(part, "rail");
  const input = part.rails[0]?.id ?? rail;
  const has = new Set(regulators(part).map((one) => one.set_v));
  const volts = USUAL_V.find((one) => !has.has(one)) ?? 5;
  const supply: BoardSupply = {
    kind: "buck",
    id,
    name: `${volts} V regulator`,
    input,
    output: rail,
    board: part.board.id,
    set_v: volts,
    rating_a: 2,
    input_max_v: 30,
    start_v: Math.max(volts + 1, 3),
    stop_v: Math.max(volts + 0.5, 2.8),
    efficiency: [{ amps: 1, efficiency_frac: 0.88 }],
  } as Regulator;
  return {
    ...part,
    rails: [...part.rails, { id: rail, name: `${volts} V`, board: part.board.id, nominal_v: volts, pads: [] }],
    supplies: [...(part.supplies ?? []), supply],
  };
}

/** Change a regulator; its rail, and what bears its volts in its name, follow. */
export function changeRegulator(part: BoardPart, id: string, change: Partial<Regulator>): BoardPart {
  const before = regulators(part).find((one) => one.id === id);
  if (!before) return part;
  const after = { ...before, ...change };
  if (change.kind === "linear") after.efficiency = [];
  const volts = change.set_v;
  if (volts !== undefined) {
    after.name = `${volts} V regulator`;
    // One that steps down starts when its input is above its output; common practice, no source.
    const steps = after.kind === "buck" || after.kind === "linear";
    after.start_v = steps ? Math.max(volts + 1, 3) : 3;
    after.stop_v = steps ? Math.max(volts + 0.5, 2.8) : 2.8;
  }
  const rails = part.rails.map((rail) =>
    rail.id === before.output && volts !== undefined ? { ...rail, nominal_v: volts, name: rail.name === `${before.set_v} V` ? `${volts} V` : rail.name } : rail,
  );
  return { ...part, rails, supplies: (part.supplies ?? []).map((one) => (one.id === id ? after : one)) };
}

export function renameRail(part: BoardPart, id: string, name: string): BoardPart {
  return { ...part, rails: part.rails.map((rail) => (rail.id === id && name !== "" ? { ...rail, name } : rail)) };
}

/** A regulator or selectable rail goes with the rail it feeds and whatever hung on that. */
export function removeSupply(part: BoardPart, id: string): BoardPart {
  const gone = (part.supplies ?? []).find((one) => one.id === id);
  if (!gone) return part;
  const rails = part.rails.filter((rail) => rail.id !== gone.output);
  let left: BoardPart = { ...part, rails, supplies: (part.supplies ?? []).filter((one) => one.id !== id) };
  for (const one of left.supplies ?? []) {
    if (one.input === gone.output) left = removeSupply(left, one.id);
    else if (isStrap(one) && one.choices.includes(gone.output)) left = removeSupply(left, one.id);
  }
  return left;
}

/** A rail whose pads can be bridged to one of two others. */
export function addStrap(part: BoardPart, choices: string[]): BoardPart {
  const rail = freshId(part, "rail");
  const [first] = choices;
  if (!first) return part;
  const strap = {
    kind: "strap",
    id: freshId(part, "strap"),
    name: "Selectable pads",
    input: first,
    output: rail,
    board: part.board.id,
    choices,
    selected: [first],
  } as unknown as Strap;
  return {
    ...part,
    rails: [...part.rails, { id: rail, name: "Selectable", board: part.board.id, nominal_v: null, pads: [] }],
    supplies: [...(part.supplies ?? []), strap],
  };
}

export function changeStrap(part: BoardPart, id: string, change: Partial<Strap>): BoardPart {
  return { ...part, supplies: (part.supplies ?? []).map((one) => (one.id === id && isStrap(one) ? { ...one, ...change } : one)) };
}

const alike = (pad: Pad, group: PadGroup) => pad.label === group.label && (pad.direction ?? "out") === group.direction;

/** Pads of one label and direction on a rail are one group. */
export function padGroups(part: BoardPart): PadGroup[] {
  const groups: PadGroup[] = [];
  for (const rail of part.rails) {
    for (const pad of rail.pads ?? []) {
      const known = groups.find((one) => one.rail === rail.id && alike(pad, one));
      if (known) known.count += 1;
      else
        groups.push({
          rail: rail.id,
          label: pad.label,
          direction: pad.direction ?? "out",
          count: 1,
          limit_a: pad.limit_a ?? null,
          width_m: pad.trace?.width_m ?? null,
        });
    }
  }
  return groups;
}

/** Put a group in place of another one, or add it; a count of nothing takes it away. Pads that stay keep their ids. */
export function putPads(part: BoardPart, old: PadGroup | null, group: PadGroup): BoardPart {
  const kept = old ? (part.rails.find((rail) => rail.id === old.rail)?.pads ?? []).filter((pad) => alike(pad, old)) : [];
  const without = part.rails.map((rail) => (old && rail.id === old.rail ? { ...rail, pads: (rail.pads ?? []).filter((pad) => !alike(pad, old)) } : rail));
  const used = new Set<string>(kept.map((pad) => pad.id));
  const pads: Pad[] = Array.from({ length: Math.min(Math.max(group.count, 0), 20) }, (_, k) => {
    const before = kept[k];
    const id = before?.id ?? freshId(part, "pad", used);
    used.add(id);
    const trace = group.width_m ? { ...before?.trace, width_m: group.width_m } : null;
    return { ...before, id, label: group.label, direction: group.direction, limit_a: group.limit_a, trace } as Pad;
  });
  return { ...part, rails: without.map((rail) => (rail.id === group.rail ? { ...rail, pads: [...(rail.pads ?? []), ...pads] } : rail)) };
}

export function putPins(part: BoardPart, pins: BoardPin[]): BoardPart {
  return { ...part, board: { ...part.board, pins } };
}

export function addPin(part: BoardPart): BoardPart {
  return putPins(part, [...(part.board.pins ?? []), { ...PLAIN_PIN, id: freshId(part, "pin"), label: "RX1", role: "rx" }]);
}
