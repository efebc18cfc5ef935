/** Signals from pin to pin, each with what lands on it; a new one is added here. */
import { shiftMark, shownIn } from "@/shared/plan/marks";
import { Button, Empty, Input, Select } from "antd";
import { useState } from "react";
import { ApiError } from "@/shared/api/client";
import type { Edit } from "@/shared/api/types";
import { CHOICES } from "@/shared/api/constants";
import { elementName, endName, ownerOfEnd } from "@/shared/plan/elements";
import { elementMarks } from "@/shared/plan/marks";
import { kindOf, signalEnds } from "@/shared/plan/signalEnds";
import { useFindings } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { percent, volts } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";
import { UsualSignals } from "./UsualSignals";

const KINDS = CHOICES["Signal.kind"];
type Kind = (typeof KINDS)[number];

export function SignalsSheet() {
  const { view } = usePlanState();
  const { condition, selected } = useSelection();
  const { select, showWorking } = usePlanActions();
  const shown = shownIn(view.analysis.returns, condition);
  const signals = view.plan.signals ?? [];
  const marks = elementMarks(useFindings(view), condition);
  return (
    <>
      <p className="grounds-lead">
        What lands on each signal in “{elementName(view, shown)}”: the steady difference of its two grounds, and one edge of the worst device or bridge on top.
        A picture is judged by what changes, since its input clamps off the rest. Margins: 1 % of 1 Vpp for video, input thresholds for logic.
      </p>
      {signals.length === 0 ? (
        <Empty
          image={Empty.PRESENTED_IMAGE_SIMPLE}
          description="No signals yet. Join the pins below, or name your own: camera to controller, controller to sender, receiver, ESCs."
        />
      ) : (
        <div className="wide">
          <table className="signals">
            <thead>
              <tr>
                <th scope="col">signal</th>
                <th scope="col">from</th>
                <th scope="col">to</th>
                <th scope="col">steady</th>
                <th scope="col">changes</th>
                <th scope="col">edge</th>
                <th scope="col">margin</th>
                <th scope="col">used</th>
                <th scope="col">its ground</th>
              </tr>
            </thead>
            <tbody>
              {signals.map((signal) => {
                const answer = view.analysis.returns.signals.find((s) => s.id === signal.id);
                const state = answer?.states[shown];
                const part = answer?.states[shown]?.share_frac ?? 0;
                const own = shiftMark(view.analysis.findings, signal.id, shown);
                const mark = marks.get(signal.id) ?? own;
                return (
                  <tr key={signal.id} className={selected === signal.id ? "is-chosen" : ""}>
                    <th scope="row">
                      {mark !== "ok" && <Mark kind={mark} />}{" "}
                      <button type="button" className="number" onClick={() => select(signal.id)}>
                        {signal.name}
                      </button>
                    </th>
                    <td>{endName(view, signal.source)}</td>
                    <td>{endName(view, signal.sink)}</td>
                    <td>
                      <button type="button" className="number" onClick={() => showWorking({ element: signal.id, quantity: "shift", condition: shown })}>
                        {volts(Math.abs(state?.shift_v ?? 0))}
                      </button>
                    </td>
                    <td>{signal.kind === "video" ? volts(state?.changing_v ?? 0) : "–"}</td>
                    <td>{signal.kind !== "video" && state?.step_by ? volts(state.step_v) : "–"}</td>
                    <td>{volts(answer?.margin_v)}</td>
                    <td className={own === "ok" ? "" : "is-bad"}>{percent(part)}</td>
                    <td>{signal.ground ? "beside it" : "none"}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      <UsualSignals />
      <AddSignal />
    </>
  );
}

function AddSignal() {
  const { view } = usePlanState();
  const { edit, select } = usePlanActions();
  const [name, setName] = useState("");
  const [chosen, setKind] = useState<Kind | null>(null);
  const [source, setSource] = useState<string | null>(null);
  const [sink, setSink] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const add = () => {
    if (!source || !sink) return;
    const title = name.trim() || `${endName(view, source)} → ${endName(view, sink)}`.slice(0, 80);
    const pair = new Set([ownerOfEnd(view, source), ownerOfEnd(view, sink)]);
    const beside = view.analysis.returns.segments.find((s) => pair.has(s.owner) && pair.has(s.to));
    const edits: Edit[] = [{ op: "add", kind: "signal", value: { name: title, kind: kind ?? "other", source, sink, ground: beside?.id ?? null } }];
    void edit(edits).then(
      (after) => {
        setProblem(null);
        setName("");
        setKind(null);
        setSource(null);
        setSink(null);
        select(after.added[0] ?? null);
      },
      (caught: unknown) => setProblem(caught instanceof ApiError ? caught.message : String(caught)),
    );
  };
  const kind = chosen ?? KINDS.find((one) => one === kindOf(view.plan, source, sink)) ?? null;
  const choose = (next: Kind | undefined) => {
    setKind(next ?? null);
    setSource(null);
    setSink(null);
  };
  const search = { showSearch: true, optionFilterProp: "label" } as const;
  return (
    <section className="add-signal" aria-label="Add a signal">
      <h2>Add a signal</h2>
      <div className="add-row">
        <Select<Kind>
          size="small"
          allowClear
          aria-label="kind"
          placeholder="kind, as its pins say"
          value={kind}
          options={KINDS.map((value) => ({ value, label: value }))}
          onChange={choose}
        />
        <Select
          size="small"
          aria-label="from"
          placeholder="from, which drives it"
          value={source}
          options={signalEnds(view.plan, kind ?? "other", "from", source ?? undefined)}
          onChange={setSource}
          {...search}
        />
        <Select
          size="small"
          aria-label="to"
          placeholder="to, which reads it"
          value={sink}
          options={signalEnds(view.plan, kind ?? "other", "to", sink ?? undefined)}
          onChange={setSink}
          {...search}
        />
        <Input size="small" aria-label="name of the signal" placeholder="name, if you like" value={name} onChange={(event) => setName(event.target.value)} />
        <Button size="small" type="primary" disabled={!source || !sink} onClick={add}>
          Add the signal
        </Button>
      </div>
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
      <p className="muted">Pins are named in the ticket of a board or device. A ground wire that already joins both ends is taken as the signal’s own.</p>
    </section>
  );
}
