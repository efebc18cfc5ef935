/** The plan in time: a scenario as a graphic timetable, one cursor over everything, what happened and what helps. */
import { Alert, Button, Empty, Progress, Segmented, Select, Spin } from "antd";
import { useCallback, useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { INSTANT } from "@/shared/plan/instant";
import { useBackgroundRuns, useRunFindings } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { si } from "@/shared/ui/format";
import { ActsEditor } from "./ActsEditor";
import { Happened } from "./Happened";
import { Recording } from "./Recording";
import { Legend, Timetable } from "./Timetable";
import { useRun, useScenarios, useAgain, useStop, type RunSeen, type ScenarioSeen, type Stretch } from "./useRun";
import "./run.css";

const WHOLE: Stretch = { from_s: 0, to_s: null };
const NEAR_FRAC = 0.02;

export function RunView() {
  const scenarios = useScenarios();
  // Who has chosen a scenario goes on from there: the choice is drawn anew with the run it chose.
  const [choosing, setChoosing] = useState(false);
  const [search] = useSearchParams();
  if (scenarios.error) return <Alert type="error" title={scenarios.error.message} />;
  if (!scenarios.data) return <Spin className="page-wait" description="Loading the scenarios" />;
  const wanted = search.get("r");
  const seen = scenarios.data.find((one) => one.scenario.id === wanted) ?? scenarios.data[0];
  return seen ? (
    <OfScenario key={seen.scenario.id} every={scenarios.data} seen={seen} choosing={choosing} setChoosing={setChoosing} />
  ) : (
    <Empty description="This plan has no scenario." />
  );
}

interface Props {
  every: ScenarioSeen[];
  seen: ScenarioSeen;
  choosing: boolean;
  setChoosing: (choosing: boolean) => void;
}

function OfScenario({ every, seen, choosing, setChoosing }: Props) {
  const { view } = usePlanState();
  const { choose, edit, select } = usePlanActions();
  const [search, setSearch] = useSearchParams();
  const [stretch, setStretch] = useState<Stretch>(WHOLE);
  const [editing, setEditing] = useState(false);
  const id = seen.scenario.id;
  const run = useRun(id, stretch);
  // The one on screen goes first; the others are run after it, for their findings.
  useBackgroundRuns(view, run.data?.state === "done" ? 0 : null);
  const others = useRunFindings(view);
  const stop = useStop(id);
  const again = useAgain(id);
  const at = Number(search.get("t") ?? Number.NaN);

  const put = useCallback(
    (changes: Record<string, string | null>) => {
      const next = new URLSearchParams(window.location.search);
      for (const [name, value] of Object.entries(changes)) {
        if (value === null) next.delete(name);
        else next.set(name, value);
      }
      setSearch(next, { replace: true });
    },
    [setSearch],
  );
  const scrub = useCallback((time: number) => put({ r: id, t: String(Number(time.toPrecision(9))), c: INSTANT }), [id, put]);

  const found = run.data;
  const shown = found?.seen ?? null;
  const around = (time: number) => {
    const span = seen.scenario.duration_s * NEAR_FRAC;
    setStretch({ from_s: Math.max(time - span / 4, 0), to_s: Math.min(time + span, seen.scenario.duration_s) });
    scrub(time);
  };
  const options = useMemo(() => every.map((one) => ({ value: one.scenario.id, label: `${one.scenario.name}${one.own ? " (own)" : ""}` })), [every]);
  const keep = async () => {
    const { data } = await import("@/shared/api/client").then(({ client }) =>
      client.GET("/api/plans/{plan_id}/run/instant", { params: { path: { plan_id: view.id }, query: { scenario: id, at_s: at } } }),
    );
    if (!data) return;
    const after = await edit([{ op: "add", kind: "condition", value: data.condition as unknown as Record<string, never> }]).catch(() => null);
    if (after) {
      choose(data.condition.id);
      select(data.condition.id);
    }
  };
  return (
    <div className="run">
      <div className="run-bar">
        <Select
          className="run-pick"
          aria-label="scenario"
          autoFocus={choosing}
          onFocus={() => setChoosing(false)}
          value={id}
          options={options}
          onChange={(next: string) => {
            setChoosing(true);
            put({ r: next, t: null, ...(search.get("c") === INSTANT ? { c: null } : {}) });
          }}
        />
        {(others.data?.waiting ?? 0) > 0 && <span className="muted">{others.data?.waiting} more to run …</span>}
        <span className="muted">lasts {si(seen.scenario.duration_s, "s")}</span>
        {shown && <Zoom seen={shown} stretch={stretch} setStretch={setStretch} at={at} />}
        <Button size="small" onClick={() => setEditing((now) => !now)} aria-expanded={editing}>
          {editing ? "Close the acts" : "Change the acts"}
        </Button>
        <Recording show={(scenario) => put({ r: scenario, t: null })} />
        {Number.isFinite(at) && shown && (
          <Button size="small" onClick={() => void keep()} title="A condition that stands as the craft does at the cursor">
            Keep {si(at, "s")} as a condition
          </Button>
        )}
        {shown && (
          <span className="run-files">
            Take away{" "}
            {FILES.map((one) => (
              <a
                key={one.path}
                href={`/api/plans/${view.id}/run/${one.path}?scenario=${encodeURIComponent(id)}`}
                download={`${seen.scenario.name}.${one.ending}`}
              >
                {one.name}
              </a>
            ))}
          </span>
        )}
      </div>
      {editing && <ActsEditor seen={seen} />}
      {run.error && <Alert type="error" title={run.error.message} />}
      {(found?.state === "running" || found?.state === "waiting") && (
        <div className="run-wait">
          <Progress percent={Math.round(found.done_frac * 100)} size="small" aria-label="how far the run is" />
          {found.state === "waiting" && <span role="status">waits for {found.waits_for === 1 ? "another run" : `${found.waits_for} other runs`}</span>}
          <Button size="small" onClick={() => void stop()}>
            Stop
          </Button>
        </div>
      )}
      {found?.state === "stopped" && (
        <Alert
          type="info"
          title="This run was stopped."
          action={
            <Button size="small" onClick={() => void again()}>
              Run it
            </Button>
          }
        />
      )}
      {found?.state === "failed" && (
        <Alert
          type="error"
          title={found.problem || "This run broke off."}
          action={
            <Button size="small" onClick={() => void again()}>
              Run it again
            </Button>
          }
        />
      )}
      {!found && !run.error && <Spin description="Running" />}
      {shown && (
        <>
          <Verdict seen={shown} />
          <Timetable seen={shown} at={at} scrub={scrub} />
          <Legend />
          <Happened seen={shown} around={around} />
        </>
      )}
    </div>
  );
}

/** What a run is taken away as. */
const FILES = [
  { path: "timetable.svg", name: "picture", ending: "svg" },
  { path: "table.csv", name: "every step as CSV", ending: "csv" },
  { path: "netlist.cir", name: "SPICE netlist", ending: "cir" },
] as const;

/** In one line: what is wrong in this scenario. */
function Verdict({ seen }: { seen: RunSeen }) {
  const bad = seen.outcome.length > 0;
  return (
    <p className={bad ? "run-verdict run-bad" : "run-verdict run-good"} role="status">
      {bad ? `✕ ${seen.outcome.join(" · ")}` : "✓ Nothing resets, nothing is over its maximum, everything that is to run runs."}
    </p>
  );
}

function Zoom({ seen, stretch, setStretch, at }: { seen: RunSeen; stretch: Stretch; setStretch: (to: Stretch) => void; at: number }) {
  const whole = seen.scenario.duration_s;
  const centre = Number.isFinite(at) ? at : (seen.from_s + seen.to_s) / 2;
  const by = (factor: number) => {
    const span = Math.min((seen.to_s - seen.from_s) * factor, whole);
    const from = Math.min(Math.max(centre - span / 2, 0), whole - span);
    setStretch(span >= whole ? WHOLE : { from_s: from, to_s: from + span });
  };
  const choices = [
    { label: "Whole", value: "whole" },
    { label: "Closer", value: "in" },
    { label: "Wider", value: "out" },
  ];
  return (
    <Segmented
      size="small"
      aria-label="stretch of time"
      options={choices}
      value={stretch.to_s === null ? "whole" : ""}
      onChange={(what) => (what === "whole" ? setStretch(WHOLE) : by(what === "in" ? 0.2 : 5))}
    />
  );
}
