/** Which source feeds which device in each condition, which are dead, and where current flows backwards. */
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";

const WORDS = { off: "off", dead: "dead", low: "low", reset: "resets", high: "too high", unknown: "unknown", ok: "" } as const;

export function Sources() {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { select, choose } = usePlanActions();
  const { budget } = view.analysis;
  const flows = budget.conditions.flatMap((c) => c.back_flows.map((flow) => ({ ...flow, condition: c })));
  return (
    <section className="wide" aria-label="Who feeds whom">
      <table className="sources">
        <thead>
          <tr>
            <th scope="col">device</th>
            {budget.conditions.map((c) => (
              <th key={c.id} scope="col" className={c.id === condition ? "is-chosen" : ""}>
                <button type="button" className="plain" onClick={() => choose(c.id)}>
                  {c.name}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {budget.devices.map((device) => (
            <tr key={device.id}>
              <th scope="row">
                <button type="button" className="plain" onClick={() => select(device.id)}>
                  {device.name}
                </button>
              </th>
              {budget.conditions.map((c) => {
                const state = device.states[c.id];
                if (!state) return <td key={c.id}>–</td>;
                const mark = state.weight;
                return (
                  <td
                    key={c.id}
                    className={`${c.id === condition ? "is-chosen" : ""} ${mark ? `mark-${mark}` : state.verdict === "dead" || state.verdict === "off" ? "muted" : ""}`}
                  >
                    {mark && <Mark kind={mark} />}{" "}
                    {state.sources.length > 0 && state.verdict !== "off" ? state.sources.map((s) => elementName(view, s)).join(" + ") : ""}{" "}
                    {WORDS[state.verdict]}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <h2>Backwards</h2>
      {flows.length === 0 ? (
        <p>In no condition does current flow into a supply at its output.</p>
      ) : (
        <ul>
          {flows.map((flow) => (
            <li key={flow.condition.id + flow.supply + flow.to}>
              {flow.condition.name}: {amps(flow.amps_a)} through{" "}
              <button type="button" className="number" onClick={() => select(flow.supply)}>
                {elementName(view, flow.supply)}
              </button>
              , from {elementName(view, flow.from_rail)} to {elementName(view, flow.to)}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
