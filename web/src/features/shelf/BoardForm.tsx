/** “What board do I hold?”: from its silkscreen, drawn while it is typed. */
import { Checkbox, Input, InputNumber, Select } from "antd";
import { CHOICES } from "@/shared/api/constants";
import { BoardPicture } from "./BoardPicture";
import * as boards from "./boards";
import type { BoardPart, BoardPin, Inlet, PadGroup } from "./boards";
import { Rows, type Column } from "./Rows";

const named = (values: readonly string[]) => values.map((value) => ({ value, label: value }));
const INLET_WORDS: { value: Inlet; label: string }[] = [
  { value: "pack", label: "the pack" },
  { value: "five", label: "5 V from elsewhere" },
  { value: "none", label: "neither" },
];

interface Props {
  part: BoardPart;
  change: (part: BoardPart) => void;
}

export function BoardForm({ part, change }: Props) {
  const set = (fields: Partial<BoardPart["board"]>) => change({ ...part, board: { ...part.board, ...fields } });
  const rails = part.rails.map((rail) => ({ value: rail.id, label: rail.name }));
  const firstRail = part.rails.at(-1)?.id ?? "";
  return (
    <>
      <BoardPicture part={part} />
      <div className="part-form">
        <label>
          print says <Input size="small" aria-label="revision" value={part.board.revision ?? ""} onChange={(event) => set({ revision: event.target.value })} />
        </label>
        <label>
          what it is{" "}
          <Select
            size="small"
            aria-label="kind of board"
            value={part.board.kind ?? "other"}
            options={named(CHOICES["Board.kind"])}
            onChange={(kind) => set({ kind })}
          />
        </label>
        <label>
          it is fed by{" "}
          <Select<Inlet>
            size="small"
            aria-label="fed by"
            value={boards.inletOf(part)}
            options={INLET_WORDS}
            onChange={(inlet) => change(boards.setInlet(part, inlet))}
          />
        </label>
        <label>
          own draw, A{" "}
          <InputNumber
            size="small"
            aria-label="own draw"
            controls={false}
            value={part.logic_a ?? null}
            placeholder="by its kind"
            onChange={(logic_a) => change({ ...part, logic_a })}
          />
        </label>
        <label>
          overlay chip <Checkbox aria-label="overlay chip" checked={part.board.osd ?? false} onChange={(event) => set({ osd: event.target.checked })} />
        </label>
        <label>
          how it sits{" "}
          <Input size="small" aria-label="how it sits" value={part.board.fitting ?? ""} onChange={(event) => set({ fitting: event.target.value })} />
        </label>
      </div>
      <Rows
        title="regulators"
        add="Add a regulator"
        rows={boards.regulators(part)}
        columns={regulatorColumns(part, change, rails)}
        onAdd={() => change(boards.addRegulator(part))}
        onRemove={(row) => change(boards.removeSupply(part, row.id))}
      />
      <Rows
        title="selectable pads"
        add="Add selectable pads"
        rows={boards.straps(part)}
        columns={strapColumns(part, change, rails)}
        onAdd={
          part.rails.length > 1
            ? () =>
                change(
                  boards.addStrap(
                    part,
                    part.rails.slice(0, 2).map((one) => one.id),
                  ),
                )
            : undefined
        }
        onRemove={(row) => change(boards.removeSupply(part, row.id))}
      />
      <Rows<PadGroup>
        title="pads"
        add="Add pads"
        rows={boards.padGroups(part)}
        columns={padColumns(part, change, rails)}
        onAdd={() =>
          change(
            boards.putPads(part, null, { rail: firstRail, label: part.rails.at(-1)?.name ?? "5V", direction: "out", count: 1, limit_a: null, width_m: null }),
          )
        }
        onRemove={(row) => change(boards.putPads(part, row, { ...row, count: 0 }))}
      />
      <Rows<BoardPin>
        title="pins and ports"
        add="Add a pin"
        rows={part.board.pins ?? []}
        columns={pinColumns((row, next) =>
          change(
            boards.putPins(
              part,
              (part.board.pins ?? []).map((one) => (one === row ? next : one)),
            ),
          ),
        )}
        onAdd={() => change(boards.addPin(part))}
        onRemove={(row) =>
          change(
            boards.putPins(
              part,
              (part.board.pins ?? []).filter((one) => one !== row),
            ),
          )
        }
      />
    </>
  );
}

type Options = { value: string; label: string }[];
type Change = (part: BoardPart) => void;
type Reg = ReturnType<typeof boards.regulators>[number];
type Strapped = ReturnType<typeof boards.straps>[number];

function regulatorColumns(part: BoardPart, change: Change, rails: Options): Column<Reg>[] {
  const put = (row: Reg, fields: Partial<Reg>) => change(boards.changeRegulator(part, row.id, fields));
  const railOf = (id: string) => part.rails.find((rail) => rail.id === id)?.name ?? "";
  return [
    {
      label: "rail",
      width: 84,
      kind: "words",
      read: (row) => railOf(row.output),
      put: (row, name: string) => change(boards.renameRail(part, row.output, name)),
    },
    { label: "kind", width: 96, kind: "one", options: named(CHOICES["Regulator.kind"]), read: (row) => row.kind, put: (row, kind) => put(row, { kind }) },
    { label: "V", width: 56, kind: "number", read: (row) => row.set_v, put: (row, set_v: number | null) => set_v !== null && put(row, { set_v }) },
    { label: "A", width: 56, kind: "number", read: (row) => row.rating_a, put: (row, rating_a: number | null) => rating_a !== null && put(row, { rating_a }) },
    {
      label: "from, V in",
      width: 64,
      kind: "number",
      read: (row) => row.start_v ?? null,
      put: (row, start_v: number | null) => start_v !== null && put(row, { start_v, stop_v: Math.min(row.stop_v ?? start_v, start_v) }),
    },
    {
      label: "to, V in",
      width: 64,
      kind: "number",
      read: (row) => row.input_max_v ?? null,
      put: (row, input_max_v: number | null) => input_max_v !== null && put(row, { input_max_v }),
    },
    { label: "fed from", width: 120, kind: "one", options: rails, read: (row) => row.input, put: (row, input) => put(row, { input }) },
  ];
}

function strapColumns(part: BoardPart, change: Change, rails: Options): Column<Strapped>[] {
  const put = (row: Strapped, fields: Partial<Strapped>) => change(boards.changeStrap(part, row.id, fields));
  return [
    {
      label: "rail",
      width: 84,
      kind: "words",
      read: (row) => part.rails.find((rail) => rail.id === row.output)?.name ?? "",
      put: (row, name: string) => change(boards.renameRail(part, row.output, name)),
    },
    {
      label: "bridges to",
      width: 230,
      kind: "several",
      options: rails,
      read: (row) => row.choices,
      put: (row, choices: string[]) => choices.length > 1 && put(row, { choices, input: choices[0] ?? row.input, selected: [choices[0] ?? row.input] }),
    },
    {
      label: "as delivered",
      width: 130,
      kind: "one",
      options: rails.filter((one) => part.rails.some((rail) => rail.id === one.value)),
      read: (row) => row.selected?.[0] ?? "",
      put: (row, first: string) => row.choices.includes(first) && put(row, { selected: [first], input: first }),
    },
  ];
}

function padColumns(part: BoardPart, change: Change, rails: Options): Column<PadGroup>[] {
  const put = (row: PadGroup, fields: Partial<PadGroup>) => change(boards.putPads(part, row, { ...row, ...fields }));
  return [
    { label: "label", width: 90, kind: "words", read: (row) => row.label, put: (row, label: string) => label !== "" && put(row, { label }) },
    { label: "on", width: 120, kind: "one", options: rails, read: (row) => row.rail, put: (row, rail) => put(row, { rail }) },
    { label: "way", width: 64, kind: "one", options: named(["out", "in"]), read: (row) => row.direction, put: (row, direction) => put(row, { direction }) },
    {
      label: "count",
      width: 52,
      kind: "number",
      read: (row) => row.count,
      put: (row, count: number | null) => count !== null && count >= 1 && put(row, { count: Math.round(count) }),
    },
    { label: "limit, A", width: 60, kind: "number", read: (row) => row.limit_a, put: (row, limit_a: number | null) => put(row, { limit_a }) },
    {
      label: "trace, mm",
      width: 64,
      kind: "number",
      read: (row) => (row.width_m === null ? null : Number((row.width_m * 1000).toPrecision(6))),
      put: (row, mm: number | null) => put(row, { width_m: mm === null ? null : mm / 1000 }),
    },
  ];
}

/** Pins of a board or a device. */
export function pinColumns(put: (row: BoardPin, next: BoardPin) => void): Column<BoardPin>[] {
  return [
    { label: "label", width: 90, kind: "words", read: (row) => row.label, put: (row, label: string) => label !== "" && put(row, { ...row, label }) },
    {
      label: "what it is",
      width: 120,
      kind: "one",
      options: named(CHOICES["Pin.role"]),
      read: (row) => row.role ?? "other",
      put: (row, role) => put(row, { ...row, role }),
    },
    { label: "port", width: 90, kind: "words", read: (row) => row.port ?? "", put: (row, port) => put(row, { ...row, port }) },
    { label: "shown first", width: 60, kind: "flag", read: (row) => row.default ?? false, put: (row, first) => put(row, { ...row, default: first }) },
  ];
}
