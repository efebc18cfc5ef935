/** What stands between pack and craft at first power: a lamp or a current limiter, with the condition that uses it. */
import { Button } from "antd";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { AllFields } from "./AllFields";

export function Limiters() {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const { plan } = view;
  const fitted = (plan.inlets ?? []).filter((inlet) => inlet.kind === "lamp" || inlet.kind === "fuse");
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  const add = (kind: "lamp" | "fuse") => quietly(edit([{ op: "add_source", kind }]));
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
