/** A flight opened: laid over by the plan, what it settles, and what of that goes into the plan. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Checkbox, Select, Spin } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { call, client } from "@/shared/api/client";
import type { Edit, PreviewView } from "@/shared/api/types";
import { TriedChanges } from "@/shared/plan/TriedChanges";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { counted, si } from "@/shared/ui/format";
import { FlightChart } from "./FlightChart";
import type { FlightView, LogLine } from "./useLog";

type Fit = FlightView["fits"][number];
/** The stretch of time that is drawn; all of it where it has no end. */
interface Stretch {
  from_s: number;
  to_s?: number;
}
const WHOLE: Stretch = { from_s: 0 };
const LEAST_S = 0.5;
const TAKEN = ["pack.cell_ohm", "motors.full_a"];

export function FlightPanel({ entry, others }: { entry: LogLine; others: LogLine[] }) {
  const { view } = usePlanState();
  const path = { plan_id: view.id, entry: entry.id };
  const [stretch, setStretch] = useState<Stretch>(WHOLE);
  const found = useQuery({
    queryKey: ["flight", view.id, view.revision, entry.id, stretch],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/log/flights/{entry}", { params: { path, query: stretch } })),
    placeholderData: (before) => before,
  });
  const flight = found.data;
  if (found.error) return <Alert type="error" title={found.error.message} />;
  if (!flight) return <Spin size="small" />;
  return (
    <section className="flight" aria-label={`Flight ${entry.title}`}>
      <p className="muted">
        {si(flight.duration_s / 60, "min")}, {flight.rows.toLocaleString("en")} rows.{" "}
        {flight.run_by ? `Dashed: this plan, flown by the recorded ${flight.run_by}.` : `The plan is not laid over it: ${flight.problem}`}
      </p>
      {flight.notes.map((note) => (
        <p key={note} className="log-doubt">
          {note}
        </p>
      ))}
      {flight.run_by && <RunIt entry={entry.id} />}
      <Zoom flight={flight} stretch={stretch} set={setStretch} />
      <FlightChart flight={flight} />
      <div className="flight-tables">
        <Fits flight={flight} entry={entry.id} />
        <div>
          <Draws flight={flight} />
          <Against entry={entry} others={others} />
        </div>
      </div>
    </section>
  );
}

/** The flight as a scenario of the plan, to be run, dragged and tried with remedies like any other. */
function RunIt({ entry }: { entry: number }) {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<string | null>(null);
  const run = async () => {
    try {
      const path = { plan_id: view.id, entry };
      const scenario = await call(client.POST("/api/plans/{plan_id}/log/flights/{entry}/scenario", { params: { path }, body: {} }));
      await edit([{ op: "add", kind: "scenario", value: scenario as unknown as Record<string, never> }]);
      void navigate(`/plans/${view.id}/run?r=${scenario.id}`);
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    }
  };
  return (
    <p>
      <Button size="small" onClick={() => void run()}>
        Run it as a timetable
      </Button>{" "}
      {problem && <span role="alert">{problem}</span>}
    </p>
  );
}

/** Closer, wider, along: the server thins every stretch anew, so that nothing is lost on the way. */
function Zoom({ flight, stretch, set }: { flight: FlightView; stretch: Stretch; set: (next: Stretch) => void }) {
  const from = stretch.from_s;
  const to = stretch.to_s ?? flight.duration_s;
  const span = to - from;
  const show = (middle: number, wide: number) => {
    if (wide >= flight.duration_s) return set(WHOLE);
    const begin = Math.min(Math.max(middle - wide / 2, 0), flight.duration_s - wide);
    return set({ from_s: begin, to_s: begin + wide });
  };
  const middle = (from + to) / 2;
  const punches = flight.phases.filter((one) => one.kind === "punch");
  const hardest = punches.length > 0 ? punches.reduce((a, b) => ((b.amps_a ?? 0) > (a.amps_a ?? 0) ? b : a)) : null;
  return (
    <div className="flight-zoom" role="group" aria-label="Stretch that is shown">
      <Button size="small" onClick={() => show(middle, Math.max(span / 3, LEAST_S))}>
        Closer
      </Button>
      <Button size="small" disabled={span >= flight.duration_s} onClick={() => show(middle, span * 3)}>
        Wider
      </Button>
      <Button size="small" disabled={from <= 0} aria-label="Earlier" onClick={() => show(middle - span / 2, span)}>
        ◀
      </Button>
      <Button size="small" disabled={to >= flight.duration_s} aria-label="Later" onClick={() => show(middle + span / 2, span)}>
        ▶
      </Button>
      {hardest && (
        <Button size="small" onClick={() => show((hardest.from_s + hardest.to_s) / 2, 3 * (hardest.to_s - hardest.from_s) + 2)}>
          The hardest punch
        </Button>
      )}
      <Button size="small" disabled={span >= flight.duration_s} onClick={() => set(WHOLE)}>
        Whole flight
      </Button>
      <span className="muted">
        {si(from, "s")} to {si(to, "s")}
      </span>
    </div>
  );
}

function within(value: number | null | undefined, error: number | null | undefined, unit: string): string {
  if (value === null || value === undefined) return "–";
  return error ? `${si(value, unit)} ± ${si(error, unit)}` : si(value, unit);
}

function Fits({ flight, entry }: { flight: FlightView; entry: number }) {
  const { view } = usePlanState();
  const { preview, edit } = usePlanActions();
  const [chosen, setChosen] = useState<string[]>([]);
  const [tried, setTried] = useState<{ edits: Edit[]; found: PreviewView } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const failed = (caught: unknown) => setProblem(caught instanceof Error ? caught.message : String(caught));
  const choose = (key: string, on: boolean) => {
    setTried(null);
    setChosen(on ? [...chosen, key] : chosen.filter((one) => one !== key));
  };
  const look = async () => {
    setProblem(null);
    try {
      const path = { plan_id: view.id, entry };
      const edits = await call(client.POST("/api/plans/{plan_id}/log/flights/{entry}/take", { params: { path }, body: { keys: chosen } }));
      setTried({ edits, found: await preview(edits) });
    } catch (caught) {
      failed(caught);
    }
  };
  const can = (fit: Fit) => fit.told === "fitted" && TAKEN.includes(fit.key);
  return (
    <section aria-label="What the flight says">
      <h3>What the flight says</h3>
      <table>
        <thead>
          <tr>
            <th scope="col">number</th>
            <th scope="col">plan</th>
            <th scope="col">fitted</th>
          </tr>
        </thead>
        <tbody>
          {flight.fits.map((fit) => (
            <tr key={fit.key}>
              <th scope="row">
                {can(fit) ? (
                  <Checkbox checked={chosen.includes(fit.key)} onChange={(event) => choose(fit.key, event.target.checked)}>
                    {fit.name}
                  </Checkbox>
                ) : (
                  fit.name
                )}
              </th>
              <td>{fit.planned === null ? "–" : si(fit.planned, fit.unit)}</td>
              <td>{fit.told === "fitted" ? <strong>{within(fit.fitted, fit.error, fit.unit)}</strong> : <span title={fit.why}>{fit.told}</span>}</td>
            </tr>
          ))}
          {flight.residuals.map((one) => (
            <tr key={one.series}>
              <th scope="row">{flight.lines.find((line) => line.series === one.series)?.name ?? one.series}, recorded less plan</th>
              <td>–</td>
              <td>
                {si(one.mean_v, "V")}, {si(one.rms_v, "V")} rms
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {flight.fits
        .filter((fit) => fit.told !== "fitted")
        .map((fit) => (
          <p key={fit.key} className="muted">
            {fit.name}: {fit.why}
          </p>
        ))}
      {tried ? (
        <div className="fix-preview">
          <TriedChanges edits={tried.edits} changes={tried.found.changes} />
          <Button
            type="primary"
            size="small"
            onClick={() =>
              void edit(tried.edits).then(() => {
                setTried(null);
                setChosen([]);
              }, failed)
            }
          >
            Take {chosen.length} into the plan
          </Button>{" "}
          <Button size="small" onClick={() => setTried(null)}>
            Leave it
          </Button>
        </div>
      ) : (
        <Button size="small" type="primary" disabled={chosen.length === 0} onClick={() => void look()}>
          Take {chosen.length || ""} over…
        </Button>
      )}
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
    </section>
  );
}

function Draws({ flight }: { flight: FlightView }) {
  if (flight.draws.length === 0) return null;
  return (
    <section aria-label="By phase">
      <h3>By phase</h3>
      <table>
        <thead>
          <tr>
            <th scope="col">phase</th>
            <th scope="col">lasts</th>
            <th scope="col">from the pack</th>
            <th scope="col">least</th>
          </tr>
        </thead>
        <tbody>
          {flight.draws.map((one) => (
            <tr key={one.kind}>
              <th scope="row">{one.kind}</th>
              <td>{si(one.seconds, "s")}</td>
              <td>{within(one.amps_a, one.error_a, "A")}</td>
              <td>{si(one.least_v, "V")}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Against({ entry, others }: { entry: LogLine; others: LogLine[] }) {
  const { view } = usePlanState();
  const [other, setOther] = useState<number | null>(null);
  const [before, after] = other !== null && others.some((one) => one.id === other && one.at > entry.at) ? [entry.id, other] : [other, entry.id];
  const found = useQuery({
    queryKey: ["against", view.id, before, after],
    enabled: other !== null,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/log/against", { params: { path: { plan_id: view.id }, query: { before: before ?? 0, after } } })),
  });
  if (others.length === 0) return null;
  return (
    <section aria-label="Before and after">
      <h3>Before and after</h3>
      <Select
        size="small"
        aria-label="compare with"
        placeholder="compare with another flight"
        style={{ minWidth: 220 }}
        value={other}
        options={others.map((one) => ({ value: one.id, label: `${one.title}, step ${one.step}` }))}
        onChange={setOther}
      />
      {found.error && <p role="alert">{found.error.message}</p>}
      {found.data && (
        <>
          <ul>
            {found.data.differences.map((one) => (
              <li key={one.name}>
                {one.name}:{" "}
                {one.verdict === "not comparable" ? (
                  one.why
                ) : (
                  <strong>
                    {one.verdict === "difference" ? `${(one.by ?? 0) > 0 ? "+" : ""}${si(one.by, one.unit)}` : "no difference shown"} ±{" "}
                    {si(one.error, one.unit)}
                  </strong>
                )}
              </li>
            ))}
          </ul>
          {found.data.warning && <p className="log-doubt">{found.data.warning}</p>}
          {found.data.changes.length > 0 && (
            <p className="muted">
              {counted(found.data.changes.length, "change")} between them: {found.data.changes.join("; ")}.
            </p>
          )}
        </>
      )}
    </section>
  );
}
