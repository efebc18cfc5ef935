/** A yard in small: tracks in supply order, each as full as what is asked of it. */
import type { components } from "@/shared/api/schema";

type Rail = components["schemas"]["SketchRail"];
const ROW = 9;
const WIDE = 120;
const SHOWN = 9;

export function SmallYard({ rails }: { rails: readonly Rail[] }) {
  const shown = rails.slice(0, SHOWN);
  return (
    <svg className="small-yard" width={WIDE} height={shown.length * ROW} role="img" aria-label={`${rails.length} rails`}>
      {shown.map((rail, index) => {
        const left = rail.depth * 8;
        const share = rail.usable_a > 0 ? Math.min(rail.asked_a / rail.usable_a, 1) : 0;
        return (
          <g key={rail.id} className={`yard-${rail.tone}`}>
            <rect x={left} y={index * ROW + 1} width={WIDE - left - 4} height={5} className="yard-track" />
            <rect x={left} y={index * ROW + 1} width={(WIDE - left - 4) * share} height={5} className="yard-load" />
          </g>
        );
      })}
    </svg>
  );
}
