/** The build card: rails, budget, wiring and cautions on paper. */
import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { call, client } from "@/shared/api/client";
import { CAUTIONS } from "@/shared/api/constants";
import { useFindings } from "@/shared/plan/useNoise";
import { elementName } from "@/shared/plan/elements";
import { shownIn } from "@/shared/plan/marks";
import { usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, railTitle, volts } from "@/shared/ui/format";
import { glyph, word } from "@/shared/ui/marks";
import { WireLines } from "./WireLines";
import "./card.css";

export function CardView() {
  const { view } = usePlanState();
  const { standing: condition } = useSelection();
  const { plan } = view;
  const { budget } = view.analysis;
  const findings = useFindings(view);
  const list = useQuery({
    queryKey: ["hookup", view.id, view.revision],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/hookup", { params: { path: { plan_id: view.id } } })),
  });
  const shown = shownIn(view.analysis.returns, condition);
  const foot = `${view.build.name} · ${plan.name} · step ${view.number}`.replaceAll('"', "”").replaceAll("\\", "");
  return (
    <article className="card">
      <style>{`@page { @bottom-left { content: "${foot}"; font-size: 8pt } @bottom-right { content: counter(page) " / " counter(pages); font-size: 8pt } }`}</style>
      <Button className="card-print" type="primary" onClick={() => window.print()}>
        Print
      </Button>
      <h1>
        {view.build.name} · {plan.name}
      </h1>
      <p>
        {plan.pack.name}: {plan.pack.series}S{plan.pack.parallel}P {plan.pack.chemistry},{" "}
        {Number(((plan.pack.capacity_ah ?? 0) * (plan.pack.parallel ?? 1)).toPrecision(4))} Ah. Step {view.number} of its history. {plan.note}
      </p>
      <img
        className="card-yard"
        src={`/api/plans/${view.id}/rails.svg?condition=${shown}&revision=${view.revision}`}
        alt={`The rails in ${elementName(view, shown)}`}
      />
      <h2>Cautions</h2>
      <ul className="card-lines">
        {CAUTIONS.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      <h2>Open findings</h2>
      <ul className="card-lines">
        {findings
          .filter((f) => f.severity !== "note")
          .map((f) => (
            <li key={f.code + f.elements.join()}>
              {glyph(f.severity)} {word(f.severity)}: {f.title}. {f.remedy}
            </li>
          ))}
      </ul>
      <h2>Rails</h2>
      <div className="wide" role="region" aria-label="Rails in every condition" tabIndex={0}>
        <table>
          <thead>
            <tr>
              <th scope="col">rail</th>
              {budget.conditions.map((c) => (
                <th key={c.id} scope="col">
                  {c.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {budget.rails.map((rail) => (
              <tr key={rail.id}>
                <th scope="row">{railTitle(rail.name)}</th>
                {budget.conditions.map((c) => {
                  const s = rail.states[c.id];
                  return (
                    <td key={c.id}>
                      {volts(s?.volts_v)} · {amps(s?.asked_a)} <span className="of">of {amps(s?.usable_a)}</span>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <h2>Hook-up list</h2>
      {list.data ? <WireLines list={list.data} /> : <p className="muted">The list is being made.</p>}
    </article>
  );
}
