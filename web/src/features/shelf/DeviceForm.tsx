/** A device of the shelf: its window, draws, ways in, pins, outputs, and what its maker asks for. */
import { Checkbox, Input, InputNumber, Select } from "antd";
import { CHOICES } from "@/shared/api/constants";
import type { Part } from "@/shared/api/types";
import { pinColumns } from "./BoardForm";
import { PLAIN_PIN, type BoardPin } from "./boards";
import { Rows, type Column } from "./Rows";

export type ShelfDevice = NonNullable<Part["device"]>;
export type Output = NonNullable<Part["outputs"]>[number];
type Way = NonNullable<ShelfDevice["ways"]>[number];
type Draws = Record<"idle" | "typical" | "peak" | "boot" | "off", string>;

const KINDS = CHOICES["Device.kind"].filter((one) => one !== "motor").map((value) => ({ value, label: value }));
const REGULATORS = CHOICES["Regulator.kind"].map((value) => ({ value, label: value }));
const DRAWS: { state: keyof Draws; label: string }[] = [
  { state: "idle", label: "idle draw" },
  { state: "typical", label: "typical draw" },
  { state: "peak", label: "peak draw" },
  { state: "boot", label: "draw while it starts" },
  { state: "off", label: "draw switched off" },
];

interface Props {
  device: ShelfDevice;
  change: (fields: Partial<ShelfDevice>) => void;
  draws: Draws;
  setDraws: (draws: Draws) => void;
  outputs: Output[];
  setOutputs: (outputs: Output[]) => void;
}

export function DeviceForm({ device, change, draws, setDraws, outputs, setOutputs }: Props) {
  const number = (label: string, value: number | null | undefined, put: (value: number | null) => void) => (
    <label>
      {label} <InputNumber size="small" aria-label={label} controls={false} value={value ?? null} onChange={put} />
    </label>
  );
  const ways = device.ways ?? [];
  const pins = device.pins ?? [];
  const setWays = (next: Way[]) => change({ ways: next, way: next.some((one) => one.name === device.way) ? device.way : (next[0]?.name ?? null) });
  return (
    <>
      <div className="part-form">
        <label>
          kind <Select size="small" aria-label="kind of device" value={device.kind ?? "other"} options={KINDS} onChange={(kind) => change({ kind })} />
        </label>
        {number("nominal, V", device.nominal_v, (v) => v !== null && change({ nominal_v: v }))}
        {number("from, V", device.min_v, (v) => v !== null && change({ min_v: v }))}
        {number("to, V", device.max_v, (v) => v !== null && change({ max_v: v }))}
        {number("resets below, V", device.brownout_v, (v) => change({ brownout_v: v }))}
        {number("rides through, ms", device.hold_s === null || device.hold_s === undefined ? null : device.hold_s * 1000, (v) =>
          change({ hold_s: v === null ? null : v / 1000 }),
        )}
        {number("takes to start, s", device.boot_s, (v) => change({ boot_s: v }))}
        {number("input capacitor, µF", device.input_f ? Number((device.input_f * 1e6).toPrecision(6)) : null, (v) => change({ input_f: (v ?? 0) / 1e6 }))}
        {number("its maker asks for, A", device.demand_a, (v) => change({ demand_a: v }))}
        {DRAWS.map(({ state, label }) => (
          <label key={state}>
            {label}{" "}
            <Input
              size="small"
              aria-label={label}
              value={draws[state]}
              placeholder={state === "boot" ? "as typical" : state === "off" ? "nothing" : ""}
              onChange={(event) => setDraws({ ...draws, [state]: event.target.value })}
            />
          </label>
        ))}
        <label>
          needed to fly{" "}
          <Checkbox aria-label="needed to fly" checked={device.keeps_control ?? false} onChange={(event) => change({ keeps_control: event.target.checked })} />
        </label>
        <label>
          how it sits{" "}
          <Input
            size="small"
            aria-label="how it sits"
            value={device.fitting ?? ""}
            placeholder="clearance of propellers, where its leads leave"
            onChange={(event) => change({ fitting: event.target.value })}
          />
        </label>
      </div>
      <Rows<Way>
        title="ways to power it"
        add="Add a way to power it"
        rows={ways}
        columns={wayColumns((row, next) => setWays(ways.map((one) => (one === row ? next : one))))}
        onAdd={() =>
          setWays([
            ...ways,
            { name: ways.length === 0 ? "as above" : `way ${ways.length + 1}`, nominal_v: device.nominal_v, min_v: device.min_v, max_v: device.max_v },
          ])
        }
        onRemove={(row) => setWays(ways.filter((one) => one !== row))}
      />
      <Rows<Output>
        title="volts it gives"
        add="Add an output"
        rows={outputs}
        columns={outputColumns((row, next) => setOutputs(outputs.map((one) => (one === row ? next : one))))}
        onAdd={() => setOutputs([...outputs, newOutput(outputs.length)])}
        onRemove={(row) => setOutputs(outputs.filter((one) => one !== row))}
      />
      <Rows<BoardPin>
        title="pins"
        add="Add a pin"
        rows={pins}
        columns={pinColumns((row, next) => change({ pins: pins.map((one) => (one === row ? next : one)) }))}
        onAdd={() => change({ pins: [...pins, { ...PLAIN_PIN, id: freshPin(pins), label: "5 V", role: "power-in" }] })}
        onRemove={(row) => change({ pins: pins.filter((one) => one !== row) })}
      />
    </>
  );
}

function freshPin(pins: BoardPin[]): string {
  let number = 1;
  while (pins.some((one) => one.id === `pin-${number}`)) number += 1;
  return `pin-${number}`;
}

function newOutput(count: number): Output {
  return {
    kind: "buck",
    place: "device",
    id: `out-${count + 1}`,
    name: "5 V out",
    input: "self",
    output: "out",
    board: "self",
    set_v: 5,
    rating_a: 0.5,
    start_v: 6,
    stop_v: 5.5,
    efficiency: [],
  } as unknown as Output;
}

function wayColumns(put: (row: Way, next: Way) => void): Column<Way>[] {
  const volts = (label: string, field: "nominal_v" | "min_v" | "max_v") => ({
    label,
    width: 64,
    kind: "number" as const,
    read: (row: Way) => row[field],
    put: (row: Way, value: number | null) => value !== null && put(row, { ...row, [field]: value }),
  });
  return [
    { label: "name", width: 170, kind: "words", read: (row) => row.name, put: (row, name: string) => name !== "" && put(row, { ...row, name }) },
    volts("nominal, V", "nominal_v"),
    volts("from, V", "min_v"),
    volts("to, V", "max_v"),
    {
      label: "resets below",
      width: 64,
      kind: "number",
      read: (row) => row.brownout_v ?? null,
      put: (row, brownout_v: number | null) => put(row, { ...row, brownout_v }),
    },
  ];
}

function outputColumns(put: (row: Output, next: Output) => void): Column<Output>[] {
  return [
    { label: "kind", width: 96, kind: "one", options: REGULATORS, read: (row) => row.kind, put: (row, kind) => put(row, { ...row, kind }) },
    {
      label: "V",
      width: 64,
      kind: "number",
      read: (row) => row.set_v,
      put: (row, set_v: number | null) => set_v !== null && put(row, { ...row, set_v, name: `${set_v} V out` }),
    },
    {
      label: "A",
      width: 64,
      kind: "number",
      read: (row) => row.rating_a,
      put: (row, rating_a: number | null) => rating_a !== null && put(row, { ...row, rating_a }),
    },
  ];
}
