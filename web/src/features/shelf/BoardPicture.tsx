/** A board as a platform: a track for every rail with its pads on it, what feeds each, and its pins along the edge. */
import type { BoardPart, BoardSupply } from "./boards";
import { isRegulator, padGroups } from "./boards";

const W = 560;
const ROW = 46;
const LEFT = 150;
const PAD = 13;

function feeding(part: BoardPart, rail: string): BoardSupply | undefined {
  return (part.supplies ?? []).find((one) => one.output === rail);
}

function source(part: BoardPart, supply: BoardSupply | undefined): string {
  if (!supply) return "from outside";
  const from = part.rails.find((one) => one.id === supply.input)?.name ?? "?";
  if (isRegulator(supply)) return `${supply.kind} ${supply.set_v} V ${supply.rating_a} A ← ${from}`;
  return supply.kind === "strap" ? `bridged to ${from}` : `${supply.kind} ← ${from}`;
}

export function BoardPicture({ part }: { part: BoardPart }) {
  const groups = padGroups(part);
  const pins = part.board.pins ?? [];
  const height = 34 + part.rails.length * ROW + (pins.length > 0 ? 34 : 8);
  return (
    <svg className="board-picture" viewBox={`0 0 ${W} ${height}`} role="img" aria-label={`${part.board.name}: ${part.rails.map((one) => one.name).join(", ")}`}>
      <rect className="platform" x="3" y="3" width={W - 6} height={height - 6} rx="6" />
      <text className="platform-name" x="14" y="22">
        {part.board.name}
        {part.board.revision ? `, ${part.board.revision}` : ""}
        {part.board.osd ? " · overlay" : ""}
      </text>
      {part.rails.map((rail, row) => {
        const y = 48 + row * ROW;
        let x = LEFT + 10;
        return (
          <g key={rail.id}>
            <text x="14" y={y}>
              {rail.name}
            </text>
            <text className="small" x="14" y={y + 15}>
              {source(part, feeding(part, rail.id))}
            </text>
            <line className="steel" x1={LEFT} x2={W - 14} y1={y - 4} y2={y - 4} />
            <line className="steel" x1={LEFT} x2={W - 14} y1={y + 2} y2={y + 2} />
            {groups
              .filter((one) => one.rail === rail.id)
              .map((group) => {
                const at = x;
                x += Math.max(group.count * (PAD + 3), group.label.length * 6.6 + 10) + 8;
                return (
                  <g key={`${group.label}${group.direction}`}>
                    {Array.from({ length: group.count }, (_, k) => (
                      <rect key={k} className={group.direction === "in" ? "pad pad-in" : "pad"} x={at + k * (PAD + 3)} y={y - 7} width={PAD} height={PAD} />
                    ))}
                    <text className="small" x={at} y={y + 19}>
                      {group.label}
                      {group.limit_a ? ` ${group.limit_a}A` : ""}
                    </text>
                  </g>
                );
              })}
          </g>
        );
      })}
      {pins.slice(0, 16).map((pin, k) => (
        <text key={pin.id} className="small" x={16 + k * ((W - 30) / Math.min(Math.max(pins.length, 8), 16))} y={height - 14}>
          {pin.label.slice(0, 6)}
        </text>
      ))}
    </svg>
  );
}
