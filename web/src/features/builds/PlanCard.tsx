/** A plan at a glance: marks over its conditions, its yard in small, the one next thing. */
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { amps } from "@/shared/ui/format";
import { glyph, Mark } from "@/shared/ui/marks";
import { useSeen } from "@/shared/ui/useSeen";

type Rail = components["schemas"]["SketchRail"];

export function PlanCard({ id, name, also }: { id: number; name: string; also: React.ReactNode }) {
  // Every glance is a plan solved: those out of sight are not asked for, or a long list would keep all else waiting.
  const [place, seen] = useSeen<HTMLElement>();
  const found = useQuery({
    queryKey: ["glance", id],
    enabled: seen,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/glance", { params: { path: { plan_id: id } } })),
  });
  const so = found.data?.glance;
  const at = so ? new URLSearchParams({ ...(so.next_condition ? { c: so.next_condition } : {}), ...(so.next_element ? { s: so.next_element } : {}) }) : null;
  return (
    <article ref={place} className="plan-card" aria-label={name}>
      <Link className="plan-open" to={`/plans/${id}/rails`}>
        {name}
      </Link>
      {so && found.data && (
        <>
          <p className="muted">
            {so.cells}S · {amps(so.most_a)} at most · {new Date(found.data.changed_at).toLocaleDateString()} {found.data.summary}
          </p>
          <p className="plan-marks">
            {so.marks.map((mark) => (
              <Link
                key={mark.condition}
                to={`/plans/${id}/rails?c=${mark.condition}`}
                title={`${mark.name}: ${mark.severity ?? "clear"}`}
                aria-label={`${mark.name}: ${mark.severity ?? "clear"}`}
                className={`mark mark-${mark.severity ?? "ok"}`}
              >
                {glyph(mark.severity ?? "ok")}
              </Link>
            ))}
            {so.always && (
              <Link
                to={`/plans/${id}/rails?c=worst`}
                title={`Whatever the condition: ${so.always}`}
                aria-label={`Whatever the condition: ${so.always}`}
                className={`mark mark-${so.always}`}
              >
                {glyph(so.always)}
              </Link>
            )}
          </p>
          <SmallYard rails={so.rails} />
          <p className="plan-next">
            {so.next ? (
              <Link to={`/plans/${id}/rails?${at?.toString() ?? ""}`}>
                <Mark kind={so.next.severity} /> {so.next.title}
              </Link>
            ) : (
              <>
                <Mark kind="ok" /> Nothing asks for you here.
              </>
            )}
          </p>
        </>
      )}
      <p className="plan-also">{also}</p>
    </article>
  );
}

const ROW = 11;
const WIDE = 300;

/** Tracks in supply order; each as full as the share of its usable amps that is asked. */
function SmallYard({ rails }: { rails: readonly Rail[] }) {
  const shown = rails.slice(0, 9);
  const length = (rail: Rail) => WIDE - 14 - rail.depth * 16;
  return (
    <svg
      className="small-yard"
      viewBox={`0 0 ${WIDE} ${shown.length * ROW + 4}`}
      role="img"
      aria-label={shown.map((r) => `${r.name} ${amps(r.asked_a)} of ${amps(r.usable_a)}`).join(", ")}
    >
      {shown.map((rail, k) => {
        const x = 4 + rail.depth * 16;
        const y = 7 + k * ROW;
        const share = rail.usable_a > 0 ? Math.min(rail.asked_a / rail.usable_a, 1) : rail.asked_a > 0 ? 1 : 0;
        return (
          <g key={rail.id}>
            <line className="small-track" x1={x} x2={x + length(rail)} y1={y} y2={y} />
            <line className={`small-load tone-${rail.tone}`} x1={x} x2={x + length(rail) * share} y1={y} y2={y} />
            <line className="small-stop" x1={x + length(rail)} x2={x + length(rail)} y1={y - 4} y2={y + 4} />
          </g>
        );
      })}
    </svg>
  );
}
