/** What stands between pack and craft at first power: a lamp or a current limiter, with the condition that uses it. */
import { Button } from "antd";
import type { Edit } from "@/shared/api/types";
import { freshId } from "@/shared/plan/ids";
import { usePlan } from "@/shared/plan/usePlan";
import { AllFields } from "./AllFields";

const KINDS = { lamp: { name: "Test lamp", limit_a: 1.7 }, fuse: { name: "Current limiter", limit_a: 1 } } as const;

export function Limiters() {
  const { view, edit } = usePlan();
  const { plan } = view;
  const fitted = (plan.inlets ?? []).filter((inlet) => inlet.kind === "lamp" || inlet.kind === "fuse");
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  const add = (kind: keyof typeof KINDS) => {
    const id = freshId(plan, kind);
    const { name, limit_a } = KINDS[kind];
    const volts = Number((plan.pack.series ?? 4) * 3.7).toFixed(1);
    const edits: Edit[] = [
      { op: "add", kind: "inlet", value: { id, name, kind, rail: plan.pack.rail, volts: Number(volts), limit_a } },
      { op: "add", kind: "condition", value: { id: freshId(plan, `first-power-${kind}`), name: `First power, ${name.toLowerCase()}`, energy: ["pack", id], pack_state: "full", air: "still", default_state: "idle" } },
    ];
    quietly(edit(edits));
  };
  return (
    <details className="wiring">
      <summary>First power: {fitted.length === 0 ? "no limiter" : fitted.map((one) => one.name).join(", ")}</summary>
      <p className="muted">In line with the pack when power is first applied, so that a short lights a lamp instead of burning a trace. Props off.</p>
      {fitted.map((inlet) => (
        <div key={inlet.id}>
          <AllFields element={inlet.id} what="inlet" value={inlet} />
          <Button size="small" onClick={() => quietly(edit([{ op: "remove", element: inlet.id }]))}>
            Remove {inlet.name}
          </Button>
        </div>
      ))}
      <div className="ticket-tools ticket-wrap">
        <Button size="small" onClick={() => add("lamp")}>
          Add a test lamp
        </Button>
        <Button size="small" onClick={() => add("fuse")}>
          Add a current limiter
        </Button>
      </div>
    </details>
  );
}
