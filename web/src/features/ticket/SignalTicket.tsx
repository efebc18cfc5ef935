/** Ticket of a signal: its ends, what lands on it, its ground. */
import { Button } from "antd";
import type { Signal } from "@/shared/api/types";
import { elementName, endName, ownerOfEnd } from "@/shared/plan/elements";
import { signalEnds } from "@/shared/plan/signalEnds";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { volts } from "@/shared/ui/format";
import { Choice } from "./Choice";
import { ConditionTable } from "./ConditionTable";
import { Upkeep } from "./Upkeep";
import { WireFields } from "./WireFields";

const NONE = "";

export function SignalTicket({ signal }: { signal: Signal }) {
  const { view } = usePlanState();
  const { select, showWorking } = usePlanActions();
  const answer = view.analysis.returns.signals.find((s) => s.id === signal.id);
  if (!answer) return null;
  const joined = [ownerOfEnd(view, signal.source), ownerOfEnd(view, signal.sink)];
  const grounds = view.analysis.returns.segments.filter((s) => joined.includes(s.owner) || joined.includes(s.to));
  return (
    <>
      <h2>{signal.name}</h2>
      <p className="muted">
        {signal.kind}, {endName(view, signal.source)} → {endName(view, signal.sink)}. {view.analysis.captions.margins[signal.id]}.
      </p>
      <ConditionTable
        heads={["steady", signal.kind === "video" ? "changes" : "edge", "margin"]}
        rows={(id) => {
          const state = answer.states[id];
          if (!state) return null;
          const size = state.on_signal_v;
          return {
            mark: size > answer.margin_v ? "caution" : "ok",
            cells: [
              <button key="s" type="button" className="number" onClick={() => showWorking({ element: signal.id, quantity: "shift", condition: id })}>
                {volts(Math.abs(state.shift_v))}
              </button>,
              signal.kind === "video" ? volts(state.changing_v) : state.step_by ? volts(state.step_v) : "–",
              volts(answer.margin_v),
            ],
          };
        }}
      />
      <div className="fields">
        <Choice
          label="from"
          value={signal.source}
          options={signalEnds(view.plan, signal.kind, "from", signal.source)}
          edits={(end) => [{ op: "set", element: signal.id, field: "source", value: end }]}
        />
        <Choice
          label="to"
          value={signal.sink}
          options={signalEnds(view.plan, signal.kind, "to", signal.sink)}
          edits={(end) => [{ op: "set", element: signal.id, field: "sink", value: end }]}
        />
        <Choice
          label="its ground"
          value={signal.ground ?? NONE}
          options={[
            { value: NONE, label: "none of its own" },
            ...grounds.map((s) => ({ value: s.id, label: `${elementName(view, s.owner)} to ${s.to === "pack" ? "pack" : elementName(view, s.to)}` })),
          ]}
          edits={(ground) => [{ op: "set", element: signal.id, field: "ground", value: ground === NONE ? null : ground }]}
        />
      </div>
      <WireFields element={signal.id} at="wire" wire={signal.wire} />
      <div className="ticket-tools ticket-wrap">
        {[...new Set(joined)].map((owner) => (
          <Button key={owner} size="small" onClick={() => select(owner)}>
            {elementName(view, owner)}
          </Button>
        ))}
      </div>
      <Upkeep element={signal.id} />
    </>
  );
}
