/** For each regulator the output volts that hold on this pack and suit what hangs on it. */
import { Button } from "antd";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { elementName } from "@/shared/plan/elements";

export function Advice() {
  const { view } = usePlanState();
  const { select } = usePlanActions();
  const { advice } = view.analysis.windows;
  if (advice.length === 0) return null;
  return (
    <section className="advice" aria-label="Output volts for this pack">
      <h2>Output volts for this pack</h2>
      <table>
        <thead>
          <tr>
            <th scope="col">regulator</th>
            <th scope="col">set</th>
            <th scope="col">good from</th>
            <th scope="col">to</th>
            <th scope="col">because</th>
          </tr>
        </thead>
        <tbody>
          {advice.map((one) => {
            const none = one.stands === "none";
            return (
              <tr key={one.supply} className={one.stands !== "inside" ? "is-off" : ""}>
                <th scope="row">
                  <Button type="link" size="small" onClick={() => select(one.supply)}>
                    {elementName(view, one.supply)}
                  </Button>
                </th>
                <td>{one.set_v.toFixed(2)} V</td>
                <td>{none ? "–" : `${one.low_v.toFixed(2)} V`}</td>
                <td>{none ? "–" : `${one.high_v.toFixed(2)} V`}</td>
                <td>
                  {none ? "▲ nothing suits both: " : one.stands === "outside" ? "▲ " : ""}
                  {view.analysis.captions.advice[one.supply]?.low}; {view.analysis.captions.advice[one.supply]?.high}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
