/** How much of its margin a signal uses, over the length of its ground wire and the motors' amps, and where the craft stands. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Select, Spin } from "antd";
import { useState } from "react";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, percent } from "@/shared/ui/format";

type Cliff = components["schemas"]["Cliff"];
const BOX = { width: 760, height: 300, left: 84, right: 30, top: 12, bottom: 44 };
const RULER_MM = [10, 20, 50, 100, 200, 500];

export function CliffChart() {
  const { view } = usePlanState();
  const lines = (view.plan.signals ?? []).filter((s) => s.kind === "esc");
  const [asked, ask] = useState<string | null>(null);
  const signal = lines.find((s) => s.id === asked)?.id ?? lines[0]?.id;
  const found = useQuery({
    queryKey: ["cliff", view.id, view.revision, signal],
    enabled: signal !== undefined,
    placeholderData: (before) => before,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/cliff", { params: { path: { plan_id: view.id }, query: { signal: signal ?? "" } } })),
  });
  if (!signal) return null;
  return (
    <section aria-label="Where the margin ends">
      <h2>Where does the margin end?</h2>
      <div className="add-row">
        <Select size="small" aria-label="signal of the chart" value={signal} options={lines.map((s) => ({ value: s.id, label: s.name }))} onChange={ask} />
        {found.data && (
          <span className="muted">
            Shift and one edge together, for other lengths of the ground wire from {owner(view, found.data.wire)}; now {Math.round(found.data.length_m * 1000)}{" "}
            mm.
          </span>
        )}
      </div>
      {found.error && <Alert type="info" title={found.error.message} />}
      {!found.data && !found.error && <Spin size="small" />}
      {found.data && <Chart cliff={found.data} />}
    </section>
  );
}

function owner(view: ReturnType<typeof usePlanState>["view"], wire: string): string {
  const segment = view.analysis.returns.segments.find((s) => s.id === wire);
  return segment ? elementName(view, segment.owner) : "there";
}

function Chart({ cliff }: { cliff: Cliff }) {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { choose } = usePlanActions();
  const lengths = cliff.lengths_m;
  const first = lengths[0] ?? 0.01;
  const last = lengths.at(-1) ?? 1;
  const most = cliff.amps_a.at(-1) ?? 1;
  const x = (m: number) => BOX.left + ((BOX.width - BOX.left - BOX.right) * Math.log(Math.max(m, first) / first)) / Math.log(last / first);
  const y = (a: number) => BOX.height - BOX.bottom - ((BOX.height - BOX.top - BOX.bottom) * a) / most;
  const here = x(cliff.length_m);
  const worst = cliff.standing.reduce((a, b) => (b.share_frac > a.share_frac ? b : a));
  return (
    <>
      <svg
        className="cliff"
        viewBox={`0 0 ${BOX.width} ${BOX.height}`}
        role="img"
        aria-label={`At most ${percent(worst.share_frac)} of the margin is used, in ${elementName(view, worst.condition)}`}
      >
        {lengths.slice(1).map((m, k) =>
          cliff.amps_a.slice(1).map((a, j) => {
            const share = cliff.share_frac[k + 1]?.[j + 1] ?? 0;
            const left = x(lengths[k] ?? m);
            const top = y(a);
            return (
              <rect
                key={`${m}-${a}`}
                className={share > 1 ? "cliff-over" : share > 0.5 ? "cliff-near" : "cliff-sound"}
                x={left}
                y={top}
                width={x(m) - left + 0.5}
                height={y(cliff.amps_a[j] ?? 0) - top + 0.5}
              />
            );
          }),
        )}
        {RULER_MM.map((mm) => (
          <text key={mm} x={x(mm / 1000)} y={BOX.height - BOX.bottom + 16} textAnchor="middle" className="cliff-label">
            {mm} mm
          </text>
        ))}
        <text x={(BOX.left + BOX.width) / 2} y={BOX.height - 8} textAnchor="middle" className="cliff-label">
          length of the ground wire
        </text>
        <text
          x={14}
          y={(BOX.height - BOX.bottom) / 2}
          textAnchor="middle"
          transform={`rotate(-90 14 ${(BOX.height - BOX.bottom) / 2})`}
          className="cliff-label"
        >
          the motors’ amps
        </text>
        {[0, 0.25, 0.5, 0.75, 1].map((part) => (
          <text key={part} x={BOX.left - 8} y={y(part * most) + 4} textAnchor="end" className="cliff-label">
            {amps(part * most)}
          </text>
        ))}
        <line x1={here} x2={here} y1={BOX.top} y2={BOX.height - BOX.bottom} className="cliff-now" />
        {cliff.standing.map((at) => (
          <circle key={at.condition} cx={here} cy={y(at.amps_a)} r={at.condition === (condition ?? worst.condition) ? 7 : 4} className="cliff-at">
            <title>{`${elementName(view, at.condition)}: ${amps(at.amps_a)}, ${percent(at.share_frac)} of the margin`}</title>
          </circle>
        ))}
      </svg>
      <p className="cliff-key">
        <span className="cliff-swatch cliff-sound" /> under half of the margin <span className="cliff-swatch cliff-near" /> over half{" "}
        <span className="cliff-swatch cliff-over" /> misread ·{" "}
        {cliff.standing
          .filter((at) => at.amps_a > 0)
          .map((at) => (
            <button type="button" className="number" key={at.condition} onClick={() => choose(at.condition)}>
              {elementName(view, at.condition)} {percent(at.share_frac)}
            </button>
          ))}
      </p>
    </>
  );
}
