/** What is seen while a wagon is dragged: the track under it, and the words at the hand. */
import { amps } from "@/shared/ui/format";
import type { Row } from "./row";
import type { Drag } from "./useWagonDrag";

export function DropZone({ drag, rows, width }: { drag: Drag; rows: Row[]; width: number }) {
  const refused = Boolean(drag.tried?.refused);
  return (
    <>
      {rows
        .filter((row) => row.id === drag.target || drag.tried?.spare[row.id])
        .map((row) => {
          const spare = drag.tried?.spare[row.id];
          return (
            <g key={row.id} className={row.id === drag.target ? (refused ? "zone zone-refused" : "zone zone-target") : "zone"}>
              <rect x={2} y={row.top + 2} width={width - 4} height={row.height - 4} />
              {spare && (
                <text x={width - 10} y={row.top + 18} textAnchor="end" className={spare.then_a < 0 ? "zone-short" : ""}>
                  spare {amps(spare.now_a)} → {amps(spare.then_a)}
                </text>
              )}
            </g>
          );
        })}
    </>
  );
}

export function DragGhost({ drag }: { drag: Drag }) {
  const words =
    drag.tried?.refused ??
    (drag.target
      ? drag.tried
        ? drag.tried.against
          ? `Let go to move it here, but: ${drag.tried.against}`
          : "Let go to move it here"
        : "Working it out…"
      : "Drop it on another track");
  return (
    <foreignObject x={drag.x + 10} y={drag.y + 8} width={300} height={70} className="ghost">
      <div className={drag.tried?.refused ? "ghost-box ghost-refused" : "ghost-box"} role="status">
        <strong>{drag.name}</strong>
        <br />
        {words}
      </div>
    </foreignObject>
  );
}
