/** A line for each wire and each part that is fitted, in the order of the work, to be ticked off on paper. */
import type { Hookup } from "@/shared/api/types";
import { PinLists } from "@/shared/plan/HookupTable";
import { amps, si } from "@/shared/ui/format";

type Row = Hookup["rows"][number];

export function WireLines({ list }: { list: Hookup }) {
  const rows = new Map(list.rows.map((one) => [one.id, one]));
  const parts = new Map(list.parts.map((one) => [one.id, one]));
  return (
    <>
      <ul className="wire-lines" aria-label="Parts and wires">
        {list.order.map((id) => {
          const row = rows.get(id);
          const part = parts.get(id);
          return row ? <WireLine key={id} row={row} /> : part ? <PartLine key={id} part={part} /> : null;
        })}
      </ul>
      <PinLists list={list} />
    </>
  );
}

function WireLine({ row }: { row: Row }) {
  return (
    <li>
      ☐ <strong>{row.polarity === "signal" ? "~" : row.polarity}</strong> {row.purpose}: {row.start.name} <strong>{row.start.at}</strong> → {row.end.name}{" "}
      <strong>{row.end.at}</strong>
      <span className="wire-numbers"> {numbers(row)}</span>
      {row.warning && <span> ▲ {row.warning}</span>}
    </li>
  );
}

function PartLine({ part }: { part: Hookup["parts"][number] }) {
  return (
    <li>
      ☐ <strong>{part.name}</strong>
      {part.what && `: ${part.what}`}
      {part.where && `, ${part.where}`}
      <span className="wire-numbers"> {part.how}</span>
      {part.warning && <span> ▲ {part.warning}</span>}
    </li>
  );
}

function numbers(row: Row): string {
  const wire = row.joined
    ? "pad on pad"
    : row.harness
      ? `in ${row.harness}`
      : `${row.colour}, AWG ${row.gauge_awg}, ${Math.round(row.length_m * 1000)} mm${row.lay === "beside" ? "" : `, ${row.lay}`}${row.connector ? `, ${row.connector}` : ""}`;
  const most = row.amps_a === null ? "" : `, at most ${amps(row.amps_a)}`;
  const drop = row.drop_v === null ? "" : `, ${si(row.drop_v, "V")}`;
  return `${wire}${most}${drop}`;
}
