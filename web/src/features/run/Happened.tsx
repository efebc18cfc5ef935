/** What happened, why each device reset, what the plug and the wires took, and what helps. */
import { Button, Progress, Spin } from "antd";
import { useState } from "react";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { amps, celsius, percent, si, volts } from "@/shared/ui/format";
import { useChances, useHelps, useStop, type RunSeen, type Station } from "./useRun";

const QUIET = new Set(["under", "back", "free"]);
const SHOWN = 40;
type Around = (time: number) => void;

export function Happened({ seen, around }: { seen: RunSeen; around: Around }) {
  const [asked, ask] = useState<string | null>(null);
  const over = seen.report.devices.filter((one) => one.over_s > 0 && !seen.whys.some((why) => why.device === one.id));
  const { view } = usePlanState();
  const name = (id: string) => elementName(view, id);
  return (
    <div className="run-below">
      <section aria-label="Why">
        <h2>Why</h2>
        {seen.whys.length === 0 && over.length === 0 && <p className="muted">Nothing to explain: no device resets and none is over its maximum.</p>}
        {seen.whys.map((one) => (
          <article key={one.device} className="run-why">
            <h3>
              {one.name} resets at{" "}
              <button type="button" className="number" onClick={() => around(one.at_s)} title="Show this moment">
                {si(one.at_s, "s")}
              </button>
            </h3>
            <ol className="run-chain">
              {one.links.map((link) => (
                <li key={link}>{link}</li>
              ))}
            </ol>
            <p>{one.help}</p>
            <Button size="small" type={asked === one.device ? "default" : "primary"} onClick={() => ask(asked === one.device ? null : one.device)}>
              {asked === one.device ? "Close" : "What helps?"}
            </Button>
            {asked === one.device && <Helps scenario={seen.scenario.id} device={one.device} />}
          </article>
        ))}
        {over.map((one) => (
          <article key={one.id} className="run-why">
            <h3>
              {name(one.id)} sees {volts(one.most_v)} at{" "}
              <button type="button" className="number" onClick={() => around(one.most_at_s)} title="Show this moment">
                {si(one.most_at_s, "s")}
              </button>
            </h3>
            <p>It is over its maximum for {si(one.over_s, "s")}.</p>
            <Button size="small" type={asked === one.id ? "default" : "primary"} onClick={() => ask(asked === one.id ? null : one.id)}>
              {asked === one.id ? "Close" : "What helps?"}
            </Button>
            {asked === one.id && <Helps scenario={seen.scenario.id} device={one.id} />}
          </article>
        ))}
      </section>
      <Facts seen={seen} />
      <Stations seen={seen} around={around} />
    </div>
  );
}

function Helps({ scenario, device }: { scenario: string; device: string }) {
  const { edit } = usePlanActions();
  const { busy } = usePlanState();
  const found = useHelps(scenario, device);
  if (found.error) return <p className="muted">{found.error.message}</p>;
  if (!found.data) return <Spin size="small" description="Each remedy is run" />;
  const { hold_up, helps } = found.data;
  return (
    <div className="run-helps">
      {hold_up && (
        <p>
          {hold_up.words} <span className="muted">{hold_up.working}</span>
        </p>
      )}
      {helps.length === 0 && <p className="muted">Nothing that could be tried by itself.</p>}
      <ul>
        {helps.map((one) => (
          <li key={one.title}>
            <Overlaid before={found.data.before_v} after={one.pin_v} resetV={found.data.reset_v} maxV={found.data.max_v} />
            <span className={one.cured ? "run-cured" : "run-not"}>{one.cured ? "✓" : "✕"}</span> <b>{one.title}</b>: {one.outcome}
            {one.cured && (
              <Button size="small" disabled={busy} onClick={() => void edit(one.edits as Parameters<typeof edit>[0]).catch(() => undefined)}>
                Fit it
              </Button>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}

const CHART = { width: 180, height: 40 };

/** The device's volts without the remedy, dotted, and with it, over each other. */
function Overlaid({ before, after, resetV, maxV }: { before: number[]; after: number[]; resetV: number; maxV: number }) {
  const every = [...before, ...after];
  const most = Math.max(...every, Math.max(...every) > 0.8 * maxV ? maxV : 0);
  const least = Math.min(...every, resetV);
  const y = (value: number) => CHART.height - 3 - ((CHART.height - 6) * (value - least)) / Math.max(most - least, 0.1);
  const path = (values: number[]) =>
    values.map((value, k) => `${k ? "L" : "M"}${((CHART.width * k) / Math.max(values.length - 1, 1)).toFixed(1)},${y(value).toFixed(1)}`).join("");
  return (
    <svg
      className="run-overlaid"
      viewBox={`0 0 ${CHART.width} ${CHART.height}`}
      role="img"
      aria-label={`Before: ${volts(Math.min(...before))} to ${volts(Math.max(...before))}; after: ${volts(Math.min(...after))} to ${volts(Math.max(...after))}`}
    >
      <line className="timetable-reset" x1={0} x2={CHART.width} y1={y(resetV)} y2={y(resetV)} />
      {maxV <= most && <line className="timetable-max" x1={0} x2={CHART.width} y1={y(maxV)} y2={y(maxV)} />}
      <path className="run-before" d={path(before)} />
      <path className="run-after" d={path(after)} />
    </svg>
  );
}

function Facts({ seen }: { seen: RunSeen }) {
  const { report } = seen;
  const { view } = usePlanState();
  const hot = report.supplies.filter((one) => one.hottest_c !== null).sort((a, b) => (b.hottest_c ?? 0) - (a.hottest_c ?? 0));
  const name = (id: string) => elementName(view, id);
  return (
    <section aria-label="In numbers">
      <h2>In numbers</h2>
      <dl className="run-facts">
        <dt>Most from the pack</dt>
        <dd>
          {amps(report.inrush_a)} at {si(report.inrush_at_s, "s")}
        </dd>
        <dt>Charge used</dt>
        <dd>{si(report.charge_ah, "Ah")}</dd>
        {report.left_min !== null && (
          <>
            <dt>Left at this pace</dt>
            <dd>{report.left_min > 600 ? "over ten hours" : `${Math.round(report.left_min)} min`}</dd>
          </>
        )}
        {hot.slice(0, 4).map((one) => (
          <FactRow key={one.id} name={name(one.id)} value={`${celsius(one.hottest_c)}, trips at ${celsius(one.trip_c)}; at most ${amps(one.most_a)}`} />
        ))}
        {report.clamps.map((one) => (
          <FactRow
            key={one.id}
            name={elementName(view, one.id)}
            value={`${volts(one.most_v)}, ${amps(one.most_a)}, swallows ${si(one.energy_j * 1000, "")} mJ`}
          />
        ))}
      </dl>
      <Likely scenario={seen.scenario.id} />
    </section>
  );
}

function Likely({ scenario }: { scenario: string }) {
  const { view } = usePlanState();
  const [asked, ask] = useState(false);
  const found = useChances(scenario, asked);
  const stop = useStop(scenario);
  const name = (id: string) => elementName(view, id);
  if (!asked)
    return (
      <Button
        size="small"
        className="run-likely"
        onClick={() => ask(true)}
        title="Two hundred runs with draws, set points and the pack's resistance within their bands"
      >
        How likely are resets?
      </Button>
    );
  if (found.error) return <p className="muted">{found.error.message}</p>;
  const { state, chances } = found.data ?? { state: "waiting" as const, chances: null };
  if (!chances && (state === "running" || state === "waiting"))
    return (
      <div className="run-wait run-likely">
        <Progress percent={Math.round(100 * (found.data?.done_frac ?? 0))} size="small" aria-label="how far the 200 runs are" />
        <span role="status">
          {found.data?.waits_for ? `waits for ${found.data.waits_for === 1 ? "another run" : `${found.data.waits_for} other runs`}` : "200 runs"}
        </span>
        <Button size="small" onClick={() => void stop()}>
          Stop
        </Button>
      </div>
    );
  if (!chances)
    return (
      <p className="run-likely">
        {found.data?.problem || "The 200 runs were stopped."}{" "}
        <Button size="small" onClick={() => void found.again()}>
          Run them
        </Button>
      </p>
    );
  const some = chances.devices.filter((one) => one.chance_frac > 0);
  return (
    <div className="run-likely">
      <b>Within the bands, {chances.samples} runs</b>
      {some.length === 0 && <p>No device resets in any of them.</p>}
      <ul>
        {some.map((one) => (
          <li key={one.device}>
            {name(one.device)} resets in {percent(one.chance_frac)} of them; least {volts(one.least_low_v)} to {volts(one.least_high_v)}
          </li>
        ))}
      </ul>
      {chances.stuck > 0 && <p className="muted">{chances.stuck} found no way to their end.</p>}
    </div>
  );
}

function FactRow({ name, value }: { name: string; value: string }) {
  return (
    <>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </>
  );
}

function Stations({ seen, around }: { seen: RunSeen; around: Around }) {
  const [all, showAll] = useState(false);
  const told: Station[] = seen.stations.filter((one) => !QUIET.has(one.code));
  return (
    <section aria-label="What happened">
      <h2>What happened</h2>
      <ol className="run-stations">
        {(all ? told : told.slice(0, SHOWN)).map((one, k) => (
          <li key={`${one.at_s}-${one.element}-${one.code}-${k}`}>
            <button type="button" className="number" onClick={() => around(one.at_s)}>
              {one.at_s === 0 ? "0" : si(one.at_s, "s")}
            </button>{" "}
            <span className={["reset", "loops", "trips", "hiccups", "latches", "retries"].includes(one.code) ? "run-not" : ""}>{one.words}</span>
          </li>
        ))}
      </ol>
      {told.length > SHOWN && (
        <Button size="small" onClick={() => showAll((now) => !now)}>
          {all ? "Fewer" : `All ${told.length}`}
        </Button>
      )}
    </section>
  );
}
