/** The craft so far: its rails with what is asked of them, and the worst that can be said of it. */
import { useQuery } from "@tanstack/react-query";
import { Alert } from "antd";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { amps, volts } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";

type Sketch = components["schemas"]["Sketch"];
type Chosen = Omit<components["schemas"]["SketchBody"], "name">;

export function SketchPanel({ chosen }: { chosen: Chosen }) {
  const found = useQuery({
    queryKey: ["sketch", chosen],
    placeholderData: (before) => before,
    queryFn: () => call(client.POST("/api/builds/sketch", { body: { name: "sketch", ...chosen } })),
  });
  const so = found.data;
  return (
    <aside className="sketch" aria-label="The craft so far">
      <h2>The craft so far</h2>
      {found.error && <Alert type="error" title={found.error.message} />}
      {so?.waiting ? <p className="muted">{so.waiting}</p> : so && <Body so={so} />}
    </aside>
  );
}

function Body({ so }: { so: Sketch }) {
  const most = Math.max(...so.rails.map((rail) => Math.max(rail.asked_a, Math.min(rail.usable_a, 10))), 0.1);
  return (
    <>
      <p>
        The pack gives <strong>{volts(so.full_v)}</strong> full, <strong>{volts(so.floor_v)}</strong> at its floor. {so.boards.join(", ")}.
      </p>
      <ul className="sketch-rails">
        {so.rails.map((rail) => (
          <li key={rail.id} style={{ marginLeft: rail.depth * 18 }}>
            <span className="sketch-head">
              <strong>{rail.name}</strong> <span className="muted">{volts(rail.volts_v)}</span>
              <span className={`sketch-sum tone-${rail.tone}`}>
                {amps(rail.asked_a)} {rail.usable_a > 0 && `of ${amps(rail.usable_a)}`}
              </span>
            </span>
            <span className="sketch-bar">
              <span
                className={`tone-${rail.tone}`}
                style={{ width: `${Math.min((100 * rail.asked_a) / (rail.usable_a > 0 ? Math.max(rail.usable_a, rail.asked_a) : most), 100)}%` }}
              />
            </span>
            <span className="muted">{rail.feeds.join(", ") || "nothing on it"}</span>
          </li>
        ))}
      </ul>
      {so.findings.length > 0 ? (
        <ul className="sketch-findings">
          {so.findings.map((finding) => (
            <li key={finding.title}>
              <Mark kind={finding.severity} /> {finding.title}
              <span className="muted"> {finding.remedy}</span>
            </li>
          ))}
          {so.more > 0 && <li className="muted">and {so.more} more</li>}
        </ul>
      ) : (
        <p>
          <Mark kind="ok" /> Nothing to warn of so far.
        </p>
      )}
    </>
  );
}
