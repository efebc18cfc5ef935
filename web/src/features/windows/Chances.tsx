/** The tolerance run: how likely each rail is overloaded and each device resets, and what to measure next. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Progress } from "antd";
import { useState } from "react";
import { call, client } from "@/shared/api/client";
import type { Spread } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { amps, percent, volts } from "@/shared/ui/format";

/** Runs of growing size: the first answers at once, each next one makes the numbers finer, and all can be stopped. */
const STAGES = [250, 500, 1000, 2000] as const;
const ALL = STAGES[STAGES.length - 1] ?? 2000;

export function Chances() {
  const { view } = usePlanState();
  return <Run key={view.revision} />;
}

function Run() {
  const { view } = usePlanState();
  const { select } = usePlanActions();
  const queries = useQueryClient();
  const [stopped, setStopped] = useState(false);
  const key = (samples: number) => ["spread", view.id, view.revision, samples];
  const reached = STAGES.filter((samples) => queries.getQueryData(key(samples)) !== undefined);
  const data = queries.getQueryData<Spread>(key(reached.at(-1) ?? 0));
  const next = STAGES[reached.length];
  const finished = next === undefined;
  const run = useQuery({
    queryKey: key(next ?? ALL),
    queryFn: ({ signal }) =>
      call(client.POST("/api/plans/{plan_id}/spread", { params: { path: { plan_id: view.id } }, body: { samples: next ?? ALL, seed: 1 }, signal })),
    enabled: !stopped && !finished,
    staleTime: Number.POSITIVE_INFINITY,
    notifyOnChangeProps: "all", // what has arrived is read from the cache, of every stage
  });
  const solved = data?.samples ?? 0;
  const stop = () => {
    setStopped(true);
    void queries.cancelQueries({ queryKey: key(next ?? ALL) });
  };
  const progress = (
    <p className="chances-progress" role="status">
      <Progress percent={Math.round((solved / ALL) * 100)} size="small" showInfo={false} aria-label="samples solved" />
      {solved.toLocaleString("en")} of {ALL.toLocaleString("en")} samples in every condition{stopped && !finished ? ", stopped" : ""}{" "}
      {!finished && (
        <Button size="small" onClick={stopped ? () => setStopped(false) : stop}>
          {stopped ? "Go on" : "Stop"}
        </Button>
      )}
    </p>
  );
  const failed = run.error && <Alert type="error" title={run.error.message} action={<Button onClick={() => void run.refetch()}>Try again</Button>} />;
  if (!data) return failed ?? progress;
  const { rails, devices, measure_next: ranked } = data;
  const bar = (share: number) => <span className="chance" style={{ inlineSize: `${Math.max(share * 100, 0.5)}px` }} aria-hidden />;
  return (
    <section className="wide" aria-label="Chances">
      {progress}
      {failed}
      <p className="windows-lead">Every draw anywhere in its band, every set point in its tolerance, the pack's resistance in its own.</p>
      <h2>Measure next</h2>
      {ranked.length === 0 ? (
        <p>No single number stands out.</p>
      ) : (
        <ol>
          {ranked.map((one) => (
            <li key={one.element + one.what}>
              <button type="button" className="number" onClick={() => select(one.element)}>
                {one.name}
              </button>
              , {one.what} (±{percent(one.band_frac)}): {percent(one.share_frac)} of what is unsure about{" "}
              {data.worst_rail ? elementName(view, data.worst_rail) : "the worst rail"} {bar(one.share_frac)}
            </li>
          ))}
        </ol>
      )}
      <h2>Rails asked for more than they give</h2>
      <table className="sources">
        <thead>
          <tr>
            <th scope="col">rail</th>
            <th scope="col">worst in</th>
            <th scope="col">asked, 5 to 95 %</th>
            <th scope="col">usable</th>
            <th scope="col">chance</th>
          </tr>
        </thead>
        <tbody>
          {[...rails]
            .sort((a, b) => b.chance_frac - a.chance_frac)
            .map((rail) => (
              <tr key={rail.rail}>
                <th scope="row">{elementName(view, rail.rail)}</th>
                <td>{elementName(view, rail.condition)}</td>
                <td>
                  {amps(rail.asked_low_a)} to {amps(rail.asked_high_a)}
                </td>
                <td>{amps(rail.usable_a)}</td>
                <td>
                  {percent(rail.chance_frac)} {bar(rail.chance_frac)}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
      <h2>Devices that reset</h2>
      <table className="sources">
        <thead>
          <tr>
            <th scope="col">device</th>
            <th scope="col">worst in</th>
            <th scope="col">at its pins, 5 to 95 %</th>
            <th scope="col">resets below</th>
            <th scope="col">chance</th>
          </tr>
        </thead>
        <tbody>
          {[...devices]
            .sort((a, b) => b.chance_frac - a.chance_frac)
            .map((device) => (
              <tr key={device.device}>
                <th scope="row">{elementName(view, device.device)}</th>
                <td>{elementName(view, device.condition)}</td>
                <td>
                  {volts(device.pin_low_v)} to {volts(device.pin_high_v)}
                </td>
                <td>{device.reset_v} V</td>
                <td>
                  {percent(device.chance_frac)} {bar(device.chance_frac)}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
    </section>
  );
}
