/** The tolerance run: how likely each rail is overloaded and each device resets, and what to measure next. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Spin } from "antd";
import { call, client } from "@/shared/api/client";
import { elementName } from "@/shared/plan/look";
import { usePlan } from "@/shared/plan/usePlan";
import { amps, percent, volts } from "@/shared/ui/format";

const SAMPLES = 2000;

export function Chances() {
  const { view, select } = usePlan();
  const run = useQuery({
    queryKey: ["spread", view.id, view.revision],
    queryFn: ({ signal }) => call(client.POST("/api/plans/{plan_id}/spread", { params: { path: { plan_id: view.id } }, body: { samples: SAMPLES, seed: 1 }, signal })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (run.isFetching)
    return (
      <p>
        <Spin size="small" /> Solving {SAMPLES.toLocaleString("en")} samples in every condition…{" "}
        <Button size="small" onClick={() => void run.refetch({ cancelRefetch: true })}>
          Start again
        </Button>
      </p>
    );
  if (run.error) return <Alert type="error" title={run.error.message} action={<Button onClick={() => void run.refetch()}>Try again</Button>} />;
  if (!run.data) return null;
  const { rails, devices, measure_next: next } = run.data;
  const bar = (share: number) => <span className="chance" style={{ inlineSize: `${Math.max(share * 100, 0.5)}px` }} aria-hidden />;
  return (
    <section aria-label="Chances">
      <p className="windows-lead">
        {SAMPLES.toLocaleString("en")} samples: every draw anywhere in its band, every set point in its tolerance, the pack's resistance in its own.
      </p>
      <h2>Measure next</h2>
      {next.length === 0 ? (
        <p>No single number stands out.</p>
      ) : (
        <ol>
          {next.map((one) => (
            <li key={one.element + one.what}>
              <button type="button" className="number" onClick={() => select(one.element)}>
                {one.name}
              </button>
              , {one.what} (±{percent(one.band_frac)}): {percent(one.share_frac)} of what is unsure about {run.data.worst_rail ? elementName(view, run.data.worst_rail) : "the worst rail"}{" "}
              {bar(one.share_frac)}
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
