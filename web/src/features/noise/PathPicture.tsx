/** The way of one line from its source to the pins: a stage per rail with the millivolts after each. */
import type { NoisePath } from "@/shared/api/types";
import { usePlanActions } from "@/shared/plan/usePlan";
import { si, volts } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";

const BAR_H = 74;
/** Decades shown: from a tenth of a millivolt to a volt. */
const LOW = -4;
const HIGH = 0;

export function PathPicture({ path }: { path: NoisePath }) {
  const { select, showWorking } = usePlanActions();
  if (path.stages.length === 0) return <p className="muted">Nothing makes noise in this condition.</p>;
  const height = (v: number) => Math.max(((Math.log10(Math.max(v, 1e-5)) - LOW) / (HIGH - LOW)) * BAR_H, 2);
  const last = path.stages.at(-1);
  return (
    <section aria-label="Way of the loudest line">
      <p className="noise-lead">
        {path.words} at {si(path.hz, "Hz")}, peak to peak after each stage. Solid as planned, dashed without filters; heights are logarithmic.
      </p>
      <ol className="way">
        {path.stages.map((stage) => (
          <li key={stage.element + stage.name}>
            <div className="way-bar" aria-hidden>
              <span className="way-without" style={{ blockSize: `${height(stage.without_v)}px` }} />
              <span className="way-with" style={{ blockSize: `${height(stage.with_v)}px` }} />
            </div>
            <strong>{volts(stage.with_v)}</strong>
            {Math.abs(stage.without_v - stage.with_v) > 0.02 * stage.with_v && <span className="muted"> of {volts(stage.without_v)}</span>}
            <button type="button" className="number" onClick={() => select(stage.element)}>
              {stage.name}
            </button>
          </li>
        ))}
      </ol>
      {last && (
        <p>
          <Mark kind={last.with_v > path.tolerated_v ? "caution" : "ok"} /> It stands {volts(path.tolerated_v)} of ripple,{" "}
          <button type="button" className="number" onClick={() => showWorking({ element: path.device, quantity: "noise", condition: path.condition })}>
            all lines together
          </button>
          .
        </p>
      )}
    </section>
  );
}
