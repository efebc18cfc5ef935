/** A line for each wire, to be ticked off on paper. */
import type { Hookup } from "@/shared/api/types";
import { PinLists } from "@/shared/plan/HookupTable";
import { amps, si } from "@/shared/ui/format";

type Row = Hookup["rows"][number];

export function WireLines({ list }: { list: Hookup }) {
  return (
    <>
      <ul className="wire-lines" aria-label="Wires">
        {list.rows.map((row) => (
          <li key={row.id}>
            ☐ <strong>{row.polarity === "signal" ? "~" : row.polarity}</strong> {row.purpose}: {row.start.name} <strong>{row.start.at}</strong> → {row.end.name}{" "}
            <strong>{row.end.at}</strong>
            <span className="wire-numbers"> {numbers(row)}</span>
            {row.warning && <span> ▲ {row.warning}</span>}
          </li>
        ))}
      </ul>
      <PinLists list={list} />
    </>
  );
}

function numbers(row: Row): string {
  const wire = row.joined
    ? "pad on pad"
    : `${row.colour}, AWG ${row.gauge_awg}, ${Math.round(row.length_m * 1000)} mm${row.lay === "beside" ? "" : `, ${row.lay}`}${row.connector ? `, ${row.connector}` : ""}`;
  const most = row.amps_a === null ? "" : `, at most ${amps(row.amps_a)}`;
  const drop = row.drop_v === null ? "" : `, ${si(row.drop_v, "V")}`;
  return `${wire}${most}${drop}`;
}
