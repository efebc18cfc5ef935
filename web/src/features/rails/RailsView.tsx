/** The yard: pack at the left, tracks branching in supply order, wagons as long as the current they draw. */
import { useLayoutEffect, useMemo, useRef, useState } from "react";
import { elementMarks, shownIn } from "@/shared/plan/marks";
import { useFindings } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { PHONE, useMedia } from "@/shared/ui/useMedia";
import { useRoving } from "@/shared/ui/useRoving";
import { amps } from "@/shared/ui/format";
import type { Consumer } from "@/shared/api/types";
import { blockX, layTrack, rowHeight, trackY, WAGON_H } from "./geometry";
import { blockText } from "./blockText";
import { Legend } from "./Legend";
import { Patterns } from "./Patterns";
import { SupplyBlock } from "./SupplyBlock";
import { TrackPicture } from "./TrackPicture";
import { DragGhost, DropZone } from "./DragPicture";
import type { Row } from "./row";
import { RailsList } from "./RailsList";
import { useWagonDrag } from "./useWagonDrag";
import "./rails.css";

const TOP = 14;
const LEAST_W = 600;

function wagonWords(wagon: Consumer): string {
  return `${wagon.name} ${amps(wagon.asked_a)}`;
}

export function RailsView() {
  return useMedia(PHONE) ? <RailsList /> : <Yard />;
}

function Yard() {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { select } = usePlanActions();
  const frame = useRef<HTMLDivElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const [width, setWidth] = useState(840);
  useLayoutEffect(() => {
    const box = frame.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(box.clientWidth, LEAST_W)));
    watch.observe(box);
    setWidth(Math.max(box.clientWidth, LEAST_W));
    return () => watch.disconnect();
  }, []);

  const rows = useMemo(() => {
    const found: Row[] = [];
    let top = TOP;
    for (const rail of view.analysis.budget.rails) {
      const at = shownIn(rail, condition);
      const state = rail.states[at];
      if (!state) continue;
      const track = layTrack(state, rail.depth, width, wagonWords);
      const block = blockText(view, rail, at);
      const height = rowHeight(track.levels, block.height);
      found.push({ id: rail.id, depth: rail.depth, parent: rail.parent ?? null, condition: at, track, block, top, y: trackY(top, track.levels), height });
      top += height;
    }
    return found;
  }, [view, condition, width]);
  const findings = useFindings(view);
  const marks = useMemo(() => elementMarks(findings, condition), [findings, condition]);
  const byId = useMemo(() => new Map(rows.map((row) => [row.id, row])), [rows]);
  const height = rows.reduce((sum, row) => sum + row.height, TOP) + 10;

  const drag = useWagonDrag(svg, rows);
  const roving = useRoving(svg);

  return (
    <div ref={frame} className="yard" onClick={(event) => event.target === event.currentTarget && select(null)}>
      {(view.plan.devices ?? []).length === 0 && <p className="yard-empty">No devices yet. Every track below shows what its rail can give.</p>}
      <svg
        ref={svg}
        className={drag.now ? "is-dragging" : ""}
        width={width}
        height={height}
        viewBox={`0 0 ${width} ${height}`}
        role="group"
        aria-label="Rails, tracks to scale in amps"
        {...roving}
      >
        <Patterns />
        {rows.map((row) => {
          const parent = row.parent ? byId.get(row.parent) : undefined;
          return parent ? <Branch key={row.id} from={parent} to={row} /> : null;
        })}
        {drag.now && <DropZone drag={drag.now} rows={rows} width={width} />}
        {rows.map((row, place) => {
          const rail = view.analysis.budget.rails.find((r) => r.id === row.id);
          const state = rail?.states[row.condition];
          if (!rail || !state) return null;
          return (
            <g key={row.id}>
              <SupplyBlock x={blockX(row.depth)} y={row.y - 8} text={row.block} rail={rail} condition={row.condition} marks={marks} row={place} />
              <TrackPicture track={row.track} y={row.y} rail={rail} state={state} condition={row.condition} marks={marks} grab={drag.grab} row={place} />
            </g>
          );
        })}
        {drag.now && <DragGhost drag={drag.now} />}
      </svg>
      <Legend />
    </div>
  );
}

function Branch({ from, to }: { from: Row; to: Row }) {
  const x = blockX(from.depth) + 12;
  const end = blockX(to.depth);
  const y0 = from.y - 8 + from.block.height;
  const y1 = to.y + WAGON_H / 2;
  const bend = Math.min(end - x, 12);
  return <path className="branch" d={`M ${x} ${y0} V ${y1 - bend} Q ${x} ${y1} ${x + bend} ${y1} H ${end}`} />;
}
