/** The board at hand with its rails as rows and what hangs on them, and both probes where they go. */
import type { components } from "@/shared/api/schema";
import type { Place } from "./useBench";

type Plan = components["schemas"]["PlanView"]["plan"];

const W = 440;
const ROW = 26;
const BOARD_X = 96;
const BOARD_W = 150;
const DEVICE_X = 286;
const MOST = 9;

interface Spot {
  x: number;
  y: number;
}

interface Row {
  key: string;
  label: string;
  rail: string | null;
}

function rowsOf(plan: Plan, board: string): Row[] {
  const rails = (plan.rails ?? []).filter((one) => one.board === board);
  return [...rails.map((one) => ({ key: one.id, label: one.name, rail: one.id })), { key: "ground", label: "ground", rail: null }];
}

/** Boards the probes are on or hang from, the first probe's first; a plug alone shows what the pack feeds. */
function boardsOf(plan: Plan, places: (Place | null)[]): string[] {
  const named = places.flatMap((one) => (one?.board ? [one.board] : []));
  const first = plan.boards?.[0]?.id;
  return [...new Set(named.length > 0 ? named : first ? [first] : [])];
}

export function ProbePicture({ plan, red, black }: { plan: Plan; red: Place | null; black: Place | null }) {
  const boards = boardsOf(plan, [red, black]);
  const spots = new Map<string, Spot>();
  const blocks: { id: string; name: string; y: number; rows: Row[] }[] = [];
  let y = 14;
  for (const id of boards) {
    const rows = rowsOf(plan, id);
    blocks.push({ id, name: plan.boards?.find((one) => one.id === id)?.name ?? id, y, rows });
    rows.forEach((row, k) => spots.set(row.rail ?? `${id}:ground`, { x: BOARD_X + BOARD_W, y: y + 32 + k * ROW }));
    y += 34 + rows.length * ROW + 18;
  }
  const owners = [red?.owner, black?.owner];
  const hung = (plan.devices ?? []).filter((one) => one.kind !== "logic" && one.feed && spots.has(one.feed.rail));
  const devices = [...hung.filter((one) => owners.includes(one.id)), ...hung.filter((one) => !owners.includes(one.id))].slice(0, MOST);
  const more = hung.length - devices.length;
  devices.forEach((one, k) => {
    spots.set(`${one.id}:plus`, { x: DEVICE_X, y: 24 + k * 34 });
    spots.set(`${one.id}:ground`, { x: DEVICE_X, y: 36 + k * 34 });
  });
  spots.set("plug:plus", { x: 48, y: 50 });
  spots.set("plug:minus", { x: 48, y: 86 });
  const height = Math.max(y, 30 + devices.length * 34 + (more > 0 ? 20 : 0), 136);
  const spot = (place: Place | null): Spot | null => {
    if (!place) return null;
    const at = spots.get(place.point);
    if (at) return at;
    if (place.kind === "pad" && place.rail) return spots.get(place.rail) ?? null;
    if (place.kind === "signal pin" || place.kind === "input")
      return spots.get(`${place.owner}:plus`) ?? (place.board ? { x: BOARD_X + BOARD_W / 2, y: height - 10 } : null);
    return null;
  };
  const marks = [
    { place: red, at: spot(red), kind: "red" },
    { place: black, at: spot(black), kind: "black" },
  ];
  const same = marks[0]?.at && marks[1]?.at && marks[0].at.x === marks[1].at.x && marks[0].at.y === marks[1].at.y;
  return (
    <svg
      className="probe-picture"
      viewBox={`0 0 ${W} ${height}`}
      role="img"
      aria-label={`Red on ${red?.name ?? "nothing"}, black on ${black?.name ?? "nothing"}`}
    >
      <path className="lead" d={`M48 50 L${BOARD_X} ${Math.min(50, height - 12)}`} />
      <rect className="platform" x="4" y="32" width="58" height="72" rx="4" />
      <text className="small" x="10" y="73">
        plug
      </text>
      <text x="16" y="55">
        +
      </text>
      <text x="16" y="91">
        −
      </text>
      {blocks.map((block) => (
        <g key={block.id}>
          <rect className="platform" x={BOARD_X} y={block.y} width={BOARD_W} height={24 + block.rows.length * ROW} rx="4" />
          <text className="platform-name" x={BOARD_X + 8} y={block.y + 15}>
            {clipped(block.name, 21)}
          </text>
          {block.rows.map((row, k) => (
            <g key={row.key}>
              <text className="small" x={BOARD_X + 8} y={block.y + 36 + k * ROW}>
                {clipped(row.label, 19)}
              </text>
              <rect className="pad" x={BOARD_X + BOARD_W - 14} y={block.y + 26 + k * ROW} width="14" height="12" />
            </g>
          ))}
        </g>
      ))}
      {devices.map((one, k) => {
        const from = one.feed ? spots.get(one.feed.rail) : undefined;
        const to = { x: DEVICE_X, y: 24 + k * 34 };
        return (
          <g key={one.id}>
            {from && <path className="lead" d={`M${from.x} ${from.y} C${from.x + 26} ${from.y} ${to.x - 26} ${to.y} ${to.x} ${to.y}`} />}
            <rect className={owners.includes(one.id) ? "device is-meant" : "device"} x={DEVICE_X} y={15 + k * 34} width={W - DEVICE_X - 8} height="28" rx="3" />
            <text className="small" x={DEVICE_X + 10} y={33 + k * 34}>
              {clipped(one.name, 20)}
            </text>
          </g>
        );
      })}
      {more > 0 && (
        <text className="small muted" x={DEVICE_X} y={30 + devices.length * 34}>
          and {more} more
        </text>
      )}
      {marks.map(({ place, at, kind }, k) => {
        if (!place || !at) return null;
        const shift = same ? (k === 0 ? -5 : 5) : 0;
        const tip = place.owner === "pack" ? { x: at.x - 8, y: at.y + (kind === "red" ? -34 : 34) } : { x: at.x - 34, y: at.y + (kind === "red" ? -16 : 18) };
        return (
          <g key={kind} className={`mark-${kind}`}>
            <circle cx={at.x} cy={at.y + shift} r="8" />
            <line x1={at.x - 6} y1={at.y + shift + (kind === "red" ? -5 : 5)} x2={tip.x} y2={tip.y} />
            <text x={tip.x - 4} y={tip.y + (kind === "red" ? -2 : 10)} textAnchor="middle">
              {kind}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

function clipped(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
}
