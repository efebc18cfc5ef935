/** Every wire pin by pin and every part that is fitted, in the order of the work; the same table on screen and on the build card. */
import { Checkbox } from "antd";
import type { Hookup } from "@/shared/api/types";
import { amps, si } from "@/shared/ui/format";
import type { Ticks } from "./useTicks";
import "./hookup.css";

interface Props {
  list: Hookup;
  ticks?: Ticks;
  select?: (element: string) => void;
  selected?: string | null;
}

const SIGN = { "+": "plus", "−": "ground", signal: "signal" } as const;

export function HookupTable({ list, ...at }: Props) {
  const rows = new Map(list.rows.map((row) => [row.id, row]));
  const parts = new Map(list.parts.map((part) => [part.id, part]));
  return (
    <div className="hookup-frame">
      <table className="hookup">
        <thead>
          <tr>
            <th scope="col">done</th>
            <th scope="col">wire or part</th>
            <th scope="col">from</th>
            <th scope="col">to</th>
            <th scope="col">AWG, length</th>
            <th scope="col">most</th>
            <th scope="col">drop</th>
            <th scope="col">rise</th>
            <th scope="col" className="is-more">
              melts
            </th>
            <th scope="col" className="is-more">
              AWG enough
            </th>
          </tr>
        </thead>
        <tbody>
          {list.order.map((id) => {
            const row = rows.get(id);
            const part = parts.get(id);
            return row ? <WireRow key={id} row={row} {...at} /> : part ? <PartRow key={id} part={part} {...at} /> : null;
          })}
        </tbody>
      </table>
      <PinLists list={list} />
    </div>
  );
}

type At = Omit<Props, "list">;

function WireRow({ row, ticks, select, selected }: At & { row: Hookup["rows"][number] }) {
  return (
    <tr className={`hookup-${SIGN[row.polarity]} ${selected === row.element ? "is-chosen" : ""}`}>
      <td className="tick">
        <Tick ticks={ticks} id={row.id} name={row.purpose} />
      </td>
      <th scope="row">
        <span className="polarity" aria-label={SIGN[row.polarity]}>
          {row.polarity === "signal" ? "~" : row.polarity}
        </span>{" "}
        <Named name={row.purpose} element={row.element} select={select} />
        {details(row) && <div className="hookup-beside">{details(row)}</div>}
        {row.warning && <div className="hookup-warning">▲ {row.warning}</div>}
      </th>
      <td data-label="from">
        {row.start.name} <strong>{row.start.at}</strong>
      </td>
      <td data-label="to">
        {row.end.name} <strong>{row.end.at}</strong>
      </td>
      <td data-label="wire">
        <span className={`insulation insulation-${row.colour}`} role="img" aria-label={row.colour} title={row.colour} />{" "}
        {row.joined ? "joined, no wire" : row.harness ? `in ${row.harness}` : `${row.gauge_awg}, ${Math.round(row.length_m * 1000)} mm`}
      </td>
      <td data-label="most">{row.amps_a === null ? "–" : amps(row.amps_a)}</td>
      <td data-label="drop">{row.drop_v === null ? "–" : si(row.drop_v, "V")}</td>
      <td data-label="rise">{row.rise_k === null ? "–" : `${Math.round(row.rise_k ?? 0)} K`}</td>
      <td data-label="melts" className="is-more">
        {row.fuses_a === null ? "–" : `${Math.round(row.fuses_a ?? 0)} A`}
      </td>
      <td data-label="AWG enough" className="is-more">
        {row.amps_a === null || row.joined ? "–" : row.smallest_awg === null ? "none" : `${row.smallest_awg}, ${row.smallest_by}`}
      </td>
    </tr>
  );
}

/** What is fitted beside the wires: where, what it is, and which way round. */
function PartRow({ part, ticks, select, selected }: At & { part: Hookup["parts"][number] }) {
  return (
    <tr className={`hookup-part ${selected === part.element ? "is-chosen" : ""}`}>
      <td className="tick">
        <Tick ticks={ticks} id={part.id} name={part.name} />
      </td>
      <th scope="row">
        <Named name={part.name} element={part.element} select={select} />
        {part.warning && <div className="hookup-warning">▲ {part.warning}</div>}
      </th>
      <td data-label="where" colSpan={2}>
        {part.where}
      </td>
      <td data-label="fit" colSpan={6}>
        {part.what && <strong>{part.what}</strong>}
        {part.what && part.how ? ": " : ""}
        {part.how}
      </td>
    </tr>
  );
}

function Tick({ ticks, id, name }: { ticks?: Ticks; id: string; name: string }) {
  return ticks ? <Checkbox checked={ticks.has(id)} onChange={() => ticks.toggle(id)} aria-label={`${name} done`} /> : "☐";
}

function Named({ name, element, select }: { name: string; element: string; select?: (element: string) => void }) {
  if (!select) return name;
  return (
    <button type="button" className="number" onClick={() => select(element)}>
      {name}
    </button>
  );
}

/** How it lies, its connector, and the signals beside it: few wires have any. */
function details(row: Hookup["rows"][number]): string {
  const lay = row.joined || row.harness || row.lay === "beside" ? "" : row.lay;
  return [row.beside, lay, row.connector, row.inline].filter(Boolean).join(", ");
}

/** Ways of the pictures, pins that take no power, and what is free. */
export function PinLists({ list }: { list: Hookup }) {
  return (
    <div className="pin-lists">
      {list.video_paths.length > 0 && (
        <section>
          <h3>Ways of the pictures</h3>
          <ul>
            {list.video_paths.map((path) => (
              <li key={path}>{path}</li>
            ))}
          </ul>
        </section>
      )}
      <PinList title="Phases: any two changed over turn a motor the other way" lines={list.phases} />
      <PinList title="Pads that several wires share" lines={list.shared_pads} />
      <PinList title="How things sit" lines={list.fittings} />
      <PinList title="Never power these pins" lines={list.never_power} />
      <PinList title="Free" lines={list.free_ports} />
    </div>
  );
}

function PinList({ title, lines }: { title: string; lines: Hookup["free_ports"] }) {
  if (lines.length === 0) return null;
  return (
    <section>
      <h3>{title}</h3>
      <ul>
        {lines.map((line) => (
          <li key={line.owner}>
            {line.name}: {line.pins.join(", ")}
          </li>
        ))}
      </ul>
    </section>
  );
}
