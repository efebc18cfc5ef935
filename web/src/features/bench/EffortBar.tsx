/** How much of the list is done, what that leaves, and what the ways of checking leave of this build's danger. */
import { Radio } from "antd";
import { percent, seconds } from "./figures";
import type { Effort } from "./useBench";

export type Level = Effort["levels"][number]["level"];

export function EffortBar({ effort, level, choose }: { effort: Effort | undefined; level: Level; choose: (level: Level) => void }) {
  const mine = effort?.levels.find((one) => one.level === level);
  return (
    <div className="effort">
      <Radio.Group
        size="small"
        optionType="button"
        aria-label="How thorough"
        value={level}
        onChange={(event) => choose(event.target.value as Level)}
        options={["quick", "usual", "thorough"]}
      />
      {mine ? (
        <span>
          {mine.steps} steps, about {seconds(mine.seconds_s)}; leaves {percent(mine.left_frac)} of the danger to the first power
        </span>
      ) : (
        <span className="muted">Working out what each leaves…</span>
      )}
    </div>
  );
}

export function Schools({ effort }: { effort: Effort }) {
  return (
    <details className="schools">
      <summary>Eyes, meter, limiter: what each would miss on this build</summary>
      <table className="plain-table">
        <caption className="muted">
          {effort.dangerous} of the {effort.faults} faults this build can have are dangerous. How often each happens is common practice, not measured.
        </caption>
        <thead>
          <tr>
            <th>way</th>
            <th>takes</th>
            <th>leaves of the danger</th>
            <th>most often</th>
          </tr>
        </thead>
        <tbody>
          {effort.schools.map((one) => (
            <tr key={one.school}>
              <th scope="row">{one.name}</th>
              <td>{seconds(one.seconds_s)}</td>
              <td>
                <strong>{percent(one.left_frac)}</strong>
              </td>
              <td>{one.left.join("; ") || "nothing that this list knows of"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
