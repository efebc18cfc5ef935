/** A flight over time: each series in a strip of its own, the least and most of every stretch, the plan dashed over it; phases, one cursor. */
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { si } from "@/shared/ui/format";
import type { FlightView } from "./useLog";

const WIDTH = 900;
const LEFT = 64;
const RIGHT = 12;
const STRIP = 96;
const GAP = 20;
const TOP = 34;

type Line = FlightView["lines"][number];

const RANK = ["volts", "amps", "throttle", "rail", "temp"];
const rank = (line: Line) => {
  const at = RANK.findIndex((one) => line.series.startsWith(one));
  return at < 0 ? RANK.length : at;
};

export function FlightChart({ flight }: { flight: FlightView }) {
  const frame = useRef<SVGSVGElement>(null);
  const [at, setAt] = useState<number | null>(null);
  const edges = flight.edges_s;
  const from = edges[0] ?? 0;
  const to = edges.at(-1) ?? 1;
  const lines = [...flight.lines].sort((a, b) => rank(a) - rank(b));
  const height = TOP + lines.length * (STRIP + GAP) + 20;
  const x = (time: number) => LEFT + ((WIDTH - LEFT - RIGHT) * (time - from)) / Math.max(to - from, 1e-9);
  const bucket = at === null ? null : Math.min(Math.max(edges.findIndex((edge) => edge > at) - 1, 0), edges.length - 2);
  const point = (event: PointerEvent) => {
    const box = frame.current?.getBoundingClientRect();
    if (!box) return;
    const along = ((event.clientX - box.left) / box.width) * WIDTH;
    setAt(Math.min(Math.max(from + ((along - LEFT) / (WIDTH - LEFT - RIGHT)) * (to - from), from), to));
  };
  const keys = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -1, ArrowRight: 1, PageDown: -20, PageUp: 20 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    setAt((now) => Math.min(Math.max((now ?? from) + (step * (to - from)) / 300, from), to));
  };
  return (
    <svg
      ref={frame}
      className="flight-chart"
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="slider"
      aria-label="time in the flight"
      aria-valuemin={from}
      aria-valuemax={to}
      aria-valuenow={at ?? from}
      aria-valuetext={at === null ? "not set" : said(flight, lines, bucket, at)}
      tabIndex={0}
      onPointerMove={point}
      onPointerDown={point}
      onKeyDown={keys}
    >
      {flight.phases
        .filter((one) => one.to_s > from && one.from_s < to)
        .map((one, index) => (
          <g key={index} className={`phase phase-${one.kind}`}>
            <rect
              x={x(Math.max(one.from_s, from))}
              y={TOP - 4}
              width={Math.max(x(Math.min(one.to_s, to)) - x(Math.max(one.from_s, from)), 0.5)}
              height={height - TOP - 14}
            />
            {x(Math.min(one.to_s, to)) - x(Math.max(one.from_s, from)) > 46 && (
              <text x={(x(Math.max(one.from_s, from)) + x(Math.min(one.to_s, to))) / 2} y={12} textAnchor="middle">
                {one.kind}
              </text>
            )}
          </g>
        ))}
      {lines.map((line, index) => (
        <Strip key={line.series} line={line} edges={edges} x={x} top={TOP + index * (STRIP + GAP)} bucket={bucket} />
      ))}
      {at !== null && <line className="flight-cursor" x1={x(at)} x2={x(at)} y1={TOP - 16} y2={height - 18} />}
      {[0, 0.25, 0.5, 0.75, 1].map((part) => (
        <text
          key={part}
          className="flight-tick"
          x={x(from + part * (to - from))}
          y={height - 4}
          textAnchor={part === 0 ? "start" : part === 1 ? "end" : "middle"}
        >
          {si(from + part * (to - from), "s")}
        </text>
      ))}
    </svg>
  );
}

/** The stretch nearest to one that has a value: of a short stretch of time there are fewer rows than can be drawn. */
function nearest(line: Line, bucket: number): number {
  for (let off = 0; off < line.low.length; off += 1) {
    if (line.low[bucket - off] !== null && line.low[bucket - off] !== undefined) return bucket - off;
    if (line.low[bucket + off] !== null && line.low[bucket + off] !== undefined) return bucket + off;
  }
  return bucket;
}

function shown(line: Line, bucket: number): string {
  const at = nearest(line, bucket);
  const low = line.low[at];
  const high = line.high[at];
  if (low === null || low === undefined || high === null || high === undefined) return "–";
  if (line.series === "throttle") return `${Math.round(high * 100)} %`;
  return Math.abs(high - low) < 0.005 * Math.abs(high) ? si(high, line.unit) : `${si(low, line.unit)} to ${si(high, line.unit)}`;
}

function said(flight: FlightView, lines: Line[], bucket: number | null, at: number): string {
  const phase = flight.phases.find((one) => at >= one.from_s && at < one.to_s)?.kind ?? "";
  return [si(at, "s"), phase, ...(bucket === null ? [] : lines.map((line) => `${line.name} ${shown(line, bucket)}`))].filter(Boolean).join(", ");
}

interface StripProps {
  line: Line;
  edges: readonly number[];
  x: (time: number) => number;
  top: number;
  bucket: number | null;
}

function Strip({ line, edges, x, top, bucket }: StripProps) {
  const every = [...line.low, ...line.high, ...(line.model ?? [])].filter((one): one is number => one !== null);
  if (every.length === 0) return null;
  const least = Math.min(...every);
  const most = Math.max(...every);
  const room = Math.max(most - least, Math.abs(most) * 0.01, 1e-9);
  const y = (value: number) => top + STRIP - ((value - least) / room) * STRIP;
  const middle = (index: number) => ((edges[index] ?? 0) + (edges[index + 1] ?? 0)) / 2;
  const up = line.high.flatMap((value, index) => (value === null ? [] : [`${x(middle(index)).toFixed(1)},${y(value).toFixed(1)}`]));
  const down = line.low.flatMap((value, index) => (value === null ? [] : [`${x(middle(index)).toFixed(1)},${y(value).toFixed(1)}`])).reverse();
  const model = line.model?.flatMap((value, index) => (value === null ? [] : [`${x(middle(index)).toFixed(1)},${y(value).toFixed(1)}`]));
  return (
    <g className="flight-strip">
      <text x={LEFT} y={top - 5} className="flight-name">
        {line.name}
        {bucket === null ? "" : ` ${shown(line, bucket)}`}
      </text>
      <text x={LEFT - 6} y={top + 9} textAnchor="end">
        {line.series === "throttle" ? `${Math.round(most * 100)} %` : si(most, line.unit)}
      </text>
      <text x={LEFT - 6} y={top + STRIP} textAnchor="end">
        {line.series === "throttle" ? `${Math.round(least * 100)} %` : si(least, line.unit)}
      </text>
      <polygon points={[...up, ...down].join(" ")} />
      {model && <polyline className="flight-model" points={model.join(" ")} />}
    </g>
  );
}
