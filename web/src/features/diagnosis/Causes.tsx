/** What it may be: causes by chance, each with the numbers for and against it on this build. */
import type { Diagnosis } from "./useDiagnosis";

const SHOWN = 6;
const LEAST = 0.005;

export function percent(share: number): string {
  return share < 0.01 ? "< 1 %" : share > 0.99 ? "> 99 %" : `${Math.round(share * 100)} %`;
}

export function Causes({ found }: { found: Diagnosis }) {
  const shown = found.causes.filter((one) => one.chance >= LEAST).slice(0, SHOWN);
  const rest = Math.max(1 - found.unknown - shown.reduce((sum, one) => sum + one.chance, 0), 0);
  return (
    <table className="causes" aria-label="What it may be">
      <thead>
        <tr>
          <th scope="col">what it may be</th>
          <th scope="col">for it, on this build</th>
          <th scope="col">against it</th>
          <th scope="col">chance</th>
        </tr>
      </thead>
      <tbody>
        {shown.map((one, index) => (
          <tr key={one.id} className={index === 0 ? "is-first" : ""}>
            <th scope="row">{one.title}</th>
            <td className="speaks-for">{said(one.speaks_for, one.unseen ? "no plan sees it" : "–")}</td>
            <td className="speaks-against">{said(one.speaks_against, "–")}</td>
            <td className="chance">
              <Bar share={one.chance} first={index === 0} />
            </td>
          </tr>
        ))}
        <tr className="muted">
          <th scope="row">something else of this build</th>
          <td colSpan={2}>many that are each hardly likely</td>
          <td className="chance">
            <Bar share={rest} first={false} />
          </td>
        </tr>
        <tr className="muted">
          <th scope="row">nothing that is known here</th>
          <td colSpan={2}>what no plan, no list and no meter of it says</td>
          <td className="chance">
            <Bar share={found.unknown} first={false} />
          </td>
        </tr>
      </tbody>
    </table>
  );
}

function said(lines: readonly string[], none: string) {
  return lines.length === 0 ? none : lines.map((line) => <div key={line}>{line}</div>);
}

function Bar({ share, first }: { share: number; first: boolean }) {
  return (
    <>
      <span className={`chance-bar${first ? " is-first" : ""}`} style={{ width: `${Math.max(share * 60, 1)}px` }} aria-hidden /> {percent(share)}
    </>
  );
}
