/** The build card: rails, budget, wiring and cautions on paper. */
import { Button } from "antd";
import { elementName } from "@/shared/plan/look";
import { usePlan } from "@/shared/plan/usePlan";
import { amps, railTitle, volts } from "@/shared/ui/format";
import { glyph, word } from "@/shared/ui/marks";
import "./card.css";

const CAUTIONS = [
  "Props off for every powered bench step.",
  "Pack unplugged before any soldering; never work on a live pack.",
  "Before the first power: meter from plus to minus; a beep that stays is a short. First power through a current limiter.",
  "Antenna on before a transmitter gets power. Transmit power, bands and flying are subject to local law and licence.",
  "Hot iron and fumes: ventilation, eye protection. Insulate every exposed joint.",
  "Charge and store packs by the maker's instructions; a puffed or punctured pack is not used.",
  "These numbers are estimates from the data given: measure before you trust. Work on a customer's or certified aircraft belongs to licensed practice.",
];

export function CardView() {
  const { view } = usePlan();
  const { plan } = view;
  const { budget, findings } = view.analysis;
  const wire = (one: { gauge_awg?: number; length_m?: number } | undefined) => (one ? `${one.gauge_awg ?? 26} AWG, ${Math.round((one.length_m ?? 0.1) * 1000)} mm` : "on the board");
  const returns = [...plan.boards, ...(plan.devices ?? [])].flatMap((owner) => (owner.returns ?? []).map((r) => ({ owner, r })));
  return (
    <article className="card">
      <Button className="card-print" type="primary" onClick={() => window.print()}>
        Print
      </Button>
      <h1>
        {view.build.name} · {plan.name}
      </h1>
      <p>
        {plan.pack.name}: {plan.pack.series}S{plan.pack.parallel}P {plan.pack.chemistry}, {plan.pack.capacity_ah} Ah. Step {view.number} of its history. {plan.note}
      </p>
      <h2>Cautions</h2>
      <ul>
        {CAUTIONS.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      <h2>Open findings</h2>
      <ul>
        {findings
          .filter((f) => f.severity !== "note")
          .map((f) => (
            <li key={f.code + f.elements.join()}>
              {glyph(f.severity)} {word(f.severity)}: {f.title}. {f.remedy}
            </li>
          ))}
      </ul>
      <h2>Rails</h2>
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
                    {volts(s?.volts_v)}
                    <br />
                    {amps(s?.asked_a)} of {amps(s?.usable_a)}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <h2>Wiring: positive</h2>
      <table>
        <thead>
          <tr>
            <th scope="col">done</th>
            <th scope="col">from</th>
            <th scope="col">to</th>
            <th scope="col">wire</th>
            <th scope="col">never above</th>
          </tr>
        </thead>
        <tbody>
          {(plan.devices ?? []).map((d) => (
            <tr key={d.id}>
              <td className="tick">☐</td>
              <td>{d.feed ? `${elementName(view, d.feed.rail)}${d.feed.pad ? `, ${elementName(view, d.feed.pad)}` : ""}` : "not fed"}</td>
              <td>{d.name} +</td>
              <td>{wire(d.feed?.wire)}</td>
              <td>{d.max_v} V</td>
            </tr>
          ))}
          {(plan.supplies ?? [])
            .filter((s) => s.feed ?? s.lead)
            .map((s) => (
              <tr key={s.id}>
                <td className="tick">☐</td>
                <td>{elementName(view, s.input)}</td>
                <td>
                  {s.name} → {elementName(view, s.output)}
                </td>
                <td>{wire(s.feed ?? s.lead ?? undefined)}</td>
                <td>{"input_max_v" in s ? `${s.input_max_v} V` : ""}</td>
              </tr>
            ))}
        </tbody>
      </table>
      <h2>Wiring: grounds</h2>
      <table>
        <thead>
          <tr>
            <th scope="col">done</th>
            <th scope="col">from</th>
            <th scope="col">to</th>
            <th scope="col">wire</th>
          </tr>
        </thead>
        <tbody>
          {returns.map(({ owner, r }) => (
            <tr key={r.id}>
              <td className="tick">☐</td>
              <td>{owner.name} −</td>
              <td>{r.to === "pack" ? "pack negative" : elementName(view, r.to)}</td>
              <td>{wire(r.wire)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </article>
  );
}
