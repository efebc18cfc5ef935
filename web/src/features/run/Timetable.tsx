/** The graphic timetable: time runs to the right, each rail with its devices is a line; acts stand along the top. */
import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import { usePlanActions, useSelection } from "@/shared/plan/usePlan";
import { si } from "@/shared/ui/format";
import type { Line, MoreLine, RunSeen, Station } from "./useRun";

const WIDTH = 1080;
const LEFT = 190;
const RIGHT = 112;
const RAIL_H = 46;
const DEVICE_H = 34;
const MORE_H = 40;
/** The row of what is selected, with a scale of its own. */
const TALL_H = 130;
const FLAGS = { few: 3, many: 5 };
/** From more acts than this in sight on, as a recorded flight has, they are marks along the top: lines would cover what runs. */
const CROWD = 24;
/** Width of a letter of the flags, a little generous. */
const CHAR_W = 6.3;
const TICKS = 6;

interface Props {
  seen: RunSeen;
  at: number;
  scrub: (time: number) => void;
}

interface Row {
  line: Line;
  y: number;
  height: number;
}

export function Timetable({ seen, at, scrub }: Props) {
  const { select } = usePlanActions();
  const { selected } = useSelection();
  const frame = useRef<SVGSVGElement>(null);
  const span = seen.to_s - seen.from_s;
  const x = (time: number) => LEFT + ((WIDTH - LEFT - RIGHT) * (time - seen.from_s)) / span;
  const acts = seen.stations.filter((one) => one.code === "act" && one.at_s >= seen.from_s && one.at_s <= seen.to_s);
  const crowded = acts.length > CROWD;
  const flags = crowded ? 1 : acts.length > FLAGS.few ? FLAGS.many : FLAGS.few;
  const top = 13 + 15 * flags;
  const rows = laidOut(seen.lines, top, selected);
  const last = rows.at(-1);
  const below = last ? last.y + last.height : top;
  const height = below + MORE_H * seen.more.length + 30;
  const inside = (time: number) => time >= seen.from_s && time <= seen.to_s;
  const timeAt = (event: PointerEvent) => {
    const box = frame.current?.getBoundingClientRect();
    if (!box) return null;
    const along = ((event.clientX - box.left) / box.width) * WIDTH;
    return Math.min(Math.max(seen.from_s + ((along - LEFT) / (WIDTH - LEFT - RIGHT)) * span, seen.from_s), seen.to_s);
  };
  const point = (event: PointerEvent) => {
    if (event.type === "pointermove" && event.buttons === 0) return;
    const time = timeAt(event);
    if (time !== null) scrub(time);
  };
  const keys = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -20, PageUp: 20 }[event.key];
    const end = { Home: seen.from_s, End: seen.to_s }[event.key];
    if (step === undefined && end === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const now = Number.isFinite(at) ? at : seen.from_s;
    scrub(end ?? Math.min(Math.max(now + (step ?? 0) * span * (event.shiftKey ? 0.05 : 0.005), 0), seen.scenario.duration_s));
  };
  const bucket = Math.min(Math.max(Math.floor(((at - seen.from_s) / span) * (seen.edges_s.length - 1)), 0), seen.edges_s.length - 2);
  const cursor = Number.isFinite(at) && inside(at);
  return (
    <svg
      ref={frame}
      className="timetable"
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="slider"
      aria-label="Timetable; arrow keys, Page Up and Down, Home and End move the cursor"
      aria-valuemin={0}
      aria-valuemax={seen.scenario.duration_s}
      aria-valuenow={Number.isFinite(at) ? at : 0}
      aria-valuetext={cursor ? `${si(at, "s")}: ${told(seen, at, bucket)}` : Number.isFinite(at) ? si(at, "s") : "no cursor"}
      tabIndex={0}
      onKeyDown={keys}
      onPointerDown={point}
      onPointerMove={point}
    >
      <rect className="timetable-ground" x={LEFT} y={top} width={WIDTH - LEFT - RIGHT} height={height - top - 28} />
      {Array.from({ length: TICKS }, (_, k) => seen.from_s + (span * k) / (TICKS - 1)).map((time) => (
        <g key={time}>
          <line className="timetable-tick" x1={x(time)} x2={x(time)} y1={top} y2={height - 28} />
          <text className="timetable-time" x={x(time)} y={height - 10} textAnchor="middle">
            {time === 0 ? "0" : si(time, "s")}
          </text>
        </g>
      ))}
      {seen.stations
        .filter((one) => one.rounds > 0)
        .map((one) => (
          <Rounds key={`${one.element}-${one.at_s}`} one={one} x={x} seen={seen} top={top} bottom={height - 28} />
        ))}
      {rows.map((row) => (
        <LineRow
          key={row.line.id}
          row={row}
          seen={seen}
          x={x}
          marked={selected === row.line.id}
          bucket={cursor ? bucket : null}
          open={() => select(row.line.id)}
        />
      ))}
      {seen.more.map((line, k) => (
        <MoreRow key={line.id} line={line} y={below + MORE_H * k} edges={seen.edges_s} x={x} bucket={cursor ? bucket : null} />
      ))}
      {crowded && <Crowd acts={acts} x={x} y={top - 8} />}
      {(crowded ? [] : flagged(acts, x, flags)).map(({ one, level, late }) => (
        <Flag key={`${one.act}-${one.at_s}`} one={one} x={x(one.at_s)} level={level} late={late} top={top - 8} bottom={height - 28} />
      ))}
      {cursor && (
        <g className="timetable-cursor">
          <line x1={x(at)} x2={x(at)} y1={top - 6} y2={height - 28} />
          <text x={x(at)} y={height - 10} textAnchor="middle">
            {si(at, "s")}
          </text>
        </g>
      )}
    </svg>
  );
}

/** Throttle, amps, charge or heat, below the volts; heat is drawn from a little under its coolest. */
function MoreRow({ line, y, edges, x, bucket }: { line: MoreLine; y: number; edges: number[]; x: (time: number) => number; bucket: number | null }) {
  const highs = line.high.filter((one): one is number => one !== null);
  const lows = line.low.filter((one): one is number => one !== null);
  const over = line.limit != null && Math.max(...highs) > 0.7 * line.limit ? line.limit : 0;
  const most = Math.max(...highs, over, line.unit === "%" ? 100 : 0.1);
  const floor = line.unit === "°C" ? Math.min(...lows) - 5 : 0;
  const level = (value: number) => y + MORE_H - 6 - ((MORE_H - 12) * Math.max(value - floor, 0)) / (most - floor);
  const told = (low: number | null | undefined, high: number | null | undefined) => (low == null || high == null ? "–" : span(low, high, line.unit));
  return (
    <g className="timetable-row">
      <line className="timetable-base" x1={LEFT} x2={WIDTH - RIGHT} y1={y + MORE_H} y2={y + MORE_H} />
      {over > 0 && <line className="timetable-max" x1={LEFT} x2={WIDTH - RIGHT} y1={level(over)} y2={level(over)} />}
      <path className="timetable-band timetable-more" d={band(line.low, line.high, edges, x, level)} />
      <text className="timetable-name timetable-railname" x={6} y={y + MORE_H / 2 + 4}>
        {short(line.name, 25)}
        <title>{line.name}</title>
      </text>
      <text className="timetable-facts" x={WIDTH - RIGHT + 8} y={y + MORE_H / 2 + 4}>
        {bucket === null ? (lows.length > 0 ? told(Math.min(...lows), Math.max(...highs)) : "–") : told(line.low[bucket], line.high[bucket])}
      </text>
    </g>
  );
}

function span(low: number, high: number, unit: MoreLine["unit"]): string {
  if (unit !== "A") return high - low < 1 ? `${high.toFixed(0)} ${unit}` : `${low.toFixed(0)} – ${high.toFixed(0)} ${unit}`;
  return high - low < 0.02 * Math.max(high, 0.1) ? si(high, unit) : `${si(low, unit)} – ${si(high, unit)}`;
}

/** What the strokes stand for. */
export function Legend() {
  const strokes: [string, string][] = [
    ["timetable-band timetable-rail", "volts of a rail"],
    ["timetable-band", "volts at a device"],
    ["timetable-max", "the most it takes"],
    ["timetable-reset", "it resets below"],
    ["life life-run", "runs"],
    ["life life-boot", "boots"],
    ["life life-off", "off"],
  ];
  return (
    <ul className="timetable-legend" aria-label="What the lines stand for">
      {strokes.map(([stroke, words]) => (
        <li key={words}>
          <svg aria-hidden viewBox="0 0 26 10">
            {stroke.startsWith("timetable-band") ? (
              <rect className={stroke} x={0} y={4} width={26} height={2} />
            ) : (
              <line className={stroke} x1={0} x2={26} y1={5} y2={5} />
            )}
          </svg>
          {words}
        </li>
      ))}
      <li>
        <b aria-hidden>✕</b> resets
      </li>
    </ul>
  );
}

/** What stands under the cursor: volts of every rail, and each device that does not run. */
function told(seen: RunSeen, at: number, bucket: number): string {
  const rails = seen.lines.filter((one) => one.kind === "rail").map((one) => `${one.name} ${between(one.low_v[bucket] ?? null, one.high_v[bucket] ?? null)}`);
  const states = seen.report.devices.flatMap((one) => {
    const state = one.spans.find((span) => span.from_s <= at && at < span.to_s)?.state;
    const name = seen.lines.find((line) => line.id === one.id)?.name;
    return name && state && state !== "run" ? [`${name} ${state === "off" ? "is off" : "boots"}`] : [];
  });
  return [...rails, ...(states.length > 0 ? states : ["every device runs"])].join(", ");
}

/** Each rail, then the devices on it; what hangs on none comes last. What is selected has more room. */
function laidOut(lines: Line[], top: number, selected: string | null): Row[] {
  const rows: Row[] = [];
  let y = top + 4;
  const put = (line: Line, usual: number) => {
    const height = line.id === selected ? TALL_H : usual;
    rows.push({ line, y, height });
    y += height;
  };
  const devices = lines.filter((one) => one.kind === "device");
  for (const rail of lines.filter((one) => one.kind === "rail")) {
    put(rail, RAIL_H);
    for (const device of devices.filter((one) => one.rail === rail.id)) put(device, DEVICE_H);
  }
  for (const device of devices.filter((one) => one.rail === null)) put(device, DEVICE_H);
  return rows;
}

function LineRow({
  row,
  seen,
  x,
  marked,
  bucket,
  open,
}: {
  row: Row;
  seen: RunSeen;
  x: (time: number) => number;
  marked: boolean;
  bucket: number | null;
  open: () => void;
}) {
  const { line, y, height } = row;
  const highs = line.high_v.filter((one): one is number => one !== null);
  const lows = line.low_v.filter((one): one is number => one !== null);
  const most = Math.max(...highs, line.max_v !== null && Math.max(...highs) > 0.7 * line.max_v ? line.max_v : 0, 0.5);
  // A line that never comes near nothing is drawn from a little under its least, so that a dip is seen.
  const least = Math.min(...lows, line.reset_v ?? Number.POSITIVE_INFINITY);
  const floor = least > 0.5 * most ? 0.9 * least : 0;
  const level = (value: number) => y + height - 7 - ((height - 12) * Math.max(value - floor, 0)) / (most - floor);
  const drawn = band(line.low_v, line.high_v, seen.edges_s, x, level);
  const life = seen.report.devices.find((one) => one.id === line.id);
  const rail = line.kind === "rail";
  const now = bucket === null ? null : [line.low_v[bucket], line.high_v[bucket]];
  const bad = life !== undefined && (life.resets_s.length > 0 || life.over_s > 0 || life.never);
  return (
    <g className={marked ? "timetable-row timetable-marked" : "timetable-row"}>
      <line className="timetable-base" x1={LEFT} x2={WIDTH - RIGHT} y1={y + height} y2={y + height} />
      {line.reset_v !== null && line.reset_v < most && line.reset_v >= floor && (
        <line className="timetable-reset" x1={LEFT} x2={WIDTH - RIGHT} y1={level(line.reset_v)} y2={level(line.reset_v)} />
      )}
      {line.max_v !== null && line.max_v <= most && (
        <line className="timetable-max" x1={LEFT} x2={WIDTH - RIGHT} y1={level(line.max_v)} y2={level(line.max_v)} />
      )}
      {marked && <Scale floor={floor} most={most} level={level} />}
      <path className={rail ? "timetable-band timetable-rail" : "timetable-band"} d={drawn} />
      {life?.spans.map((one) =>
        one.to_s < seen.from_s || one.from_s > seen.to_s ? null : (
          <line
            key={one.from_s}
            className={`life life-${one.state}`}
            x1={x(Math.max(one.from_s, seen.from_s))}
            x2={x(Math.min(one.to_s, seen.to_s))}
            y1={y + height - 3}
            y2={y + height - 3}
          />
        ),
      )}
      {life?.resets_s
        .filter((time) => time >= seen.from_s && time <= seen.to_s)
        .map((time) => (
          <text key={time} className="timetable-cross" x={x(time)} y={y + height + 1} textAnchor="middle">
            ✕
          </text>
        ))}
      <text
        className={rail ? "timetable-name timetable-railname" : "timetable-name"}
        x={rail ? 6 : 18}
        y={y + height / 2 + 4}
        onClick={open}
        onPointerDown={(event) => event.stopPropagation()}
      >
        {bad ? "✕ " : ""}
        {short(line.name, rail ? 25 : 23)}
        <title>{line.name}</title>
      </text>
      <text className="timetable-facts" x={WIDTH - RIGHT + 8} y={y + height / 2 + 4}>
        {now ? between(now[0] ?? null, now[1] ?? null) : lows.length > 0 ? between(Math.min(...lows), Math.max(...highs)) : "–"}
      </text>
    </g>
  );
}

/** Volts along the side of a row: round ones between its least and its most. */
function Scale({ floor, most, level }: { floor: number; most: number; level: (value: number) => number }) {
  const rough = (most - floor) / 4;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((one) => one * power >= rough) ?? 10);
  const first = Math.ceil(floor / step);
  const marks = Array.from({ length: Math.floor(most / step) - first + 1 }, (_, k) => (first + k) * step);
  return (
    <g className="timetable-scale">
      {marks.map((value) => (
        <g key={value}>
          <line x1={LEFT} x2={WIDTH - RIGHT} y1={level(value)} y2={level(value)} />
          <text x={LEFT - 6} y={level(value) + 4} textAnchor="end">
            {value === 0 ? "0" : si(value, "V")}
          </text>
        </g>
      ))}
    </g>
  );
}

/** Rounds of a loop that are all alike and not drawn: what is before and after them is. */
function Rounds({ one, x, seen, top, bottom }: { one: Station; x: (time: number) => number; seen: RunSeen; top: number; bottom: number }) {
  const [begin, end] = [Math.max(one.at_s, seen.from_s), Math.min(one.at_s + one.rounds * one.period_s, seen.to_s)];
  const wide = x(end) - x(begin);
  if (wide <= 0) return null;
  const whose = seen.lines.find((line) => line.id === one.element)?.name;
  const every = `${one.rounds} rounds alike, every ${si(one.period_s, "s")}`;
  const words = whose && wide > CHAR_W * (whose.length + every.length) + 20 ? `${whose}: ${every}` : every;
  return (
    <g className="timetable-rounds">
      <rect x={x(begin)} y={top} width={wide} height={bottom - top} />
      {wide > CHAR_W * words.length + 8 && (
        <text x={(x(begin) + x(end)) / 2} y={top - 4} textAnchor="middle">
          {words}
        </text>
      )}
      <title>{whose ? `${whose}: ${every}` : every}</title>
    </g>
  );
}

const short = (name: string, most: number) => (name.length > most ? `${name.slice(0, most - 1)}…` : name);

function between(low: number | null, high: number | null): string {
  if (low === null || high === null) return "–";
  return high - low < 0.02 * Math.max(high, 0.1) ? si(high, "V") : `${si(low, "V")} – ${si(high, "V")}`;
}

/** A closed path around least and most. */
function band(
  lows: readonly (number | null)[],
  highs: readonly (number | null)[],
  edges: number[],
  x: (time: number) => number,
  y: (value: number) => number,
): string {
  const over: string[] = [];
  const under: string[] = [];
  highs.forEach((high, k) => {
    const low = lows[k] ?? null;
    const [from, to] = [edges[k], edges[k + 1]];
    if (high === null || low === null || from === undefined || to === undefined) return;
    const middle = x((from + to) / 2).toFixed(1);
    over.push(`${middle},${(y(high) - 0.6).toFixed(1)}`);
    under.push(`${middle},${(y(low) + 0.6).toFixed(1)}`);
  });
  return over.length > 1 ? `M${over.join("L")}L${under.reverse().join("L")}Z` : "";
}

/** Each act's words on the first line where they lie over no other's; where there is none, its number alone. */
function flagged(acts: Station[], x: (time: number) => number, flags: number): { one: Station; level: number | null; late: boolean }[] {
  const taken: [number, number][][] = Array.from({ length: flags }, () => []);
  return acts.map((one) => {
    const at = x(one.at_s);
    const long = CHAR_W * Math.min(one.words.length, 34) + 10;
    const late = at + long > WIDTH;
    const [from, to] = late ? [at - long, at + 2] : [at - 2, at + long];
    const level = taken.findIndex((line) => line.every(([a, b]) => to < a || from > b));
    if (level >= 0) taken[level]?.push([from, to]);
    return { one, level: level >= 0 ? level : null, late };
  });
}

function Crowd({ acts, x, y }: { acts: Station[]; x: (time: number) => number; y: number }) {
  return (
    <g className="timetable-flag">
      <text x={6} y={y + 4}>{`${acts.length} acts: Closer names them`}</text>
      {acts.map((one) => (
        <rect key={`${one.act}-${one.at_s}`} x={x(one.at_s) - 1} y={y - 6} width={2} height={10}>
          <title>{`${one.words}, at ${si(one.at_s, "s")}`}</title>
        </rect>
      ))}
    </g>
  );
}

function Flag({ one, x, level, late, top, bottom }: { one: Station; x: number; level: number | null; late: boolean; top: number; bottom: number }) {
  const y = 14 + 15 * (level ?? 0);
  return (
    <g className="timetable-flag">
      <line x1={x} x2={x} y1={level === null ? top : y - 2} y2={bottom} />
      {level !== null && (
        <text x={late ? x - 4 : x + 4} y={y} textAnchor={late ? "end" : "start"}>
          {short(one.words, 34)}
        </text>
      )}
      <title>{`${one.words}, at ${si(one.at_s, "s")}`}</title>
    </g>
  );
}
