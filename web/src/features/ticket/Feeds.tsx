/** Another way to feed a rail: a plain wire, a diode or a strap from other rails, a port or bench supply of its own. */
import { Button, Select } from "antd";
import { useState } from "react";
import type { Edit, PlanDocument } from "@/shared/api/types";
import { ApiError } from "@/shared/api/client";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";

type Rail = PlanDocument["rails"][number];
const KINDS = [
  { value: "link", label: "a plain wire" },
  { value: "diode", label: "a diode" },
  { value: "strap", label: "a strap" },
  { value: "usb", label: "a USB port" },
  { value: "bench", label: "a bench supply" },
] as const;
type Kind = (typeof KINDS)[number]["value"];

export function Feeds({ rail }: { rail: Rail }) {
  const { view } = usePlanState();
  const { edit, select } = usePlanActions();
  const [kind, setKind] = useState<Kind>("link");
  const [from, setFrom] = useState<string[]>([]);
  const [problem, setProblem] = useState<string | null>(null);
  const others = view.plan.rails.filter((r) => r.id !== rail.id);
  const wired = kind === "link" || kind === "diode" || kind === "strap";
  const needed = kind === "strap" ? 2 : wired ? 1 : 0;
  const chosen = kind === "strap" ? from : from.slice(0, 1);
  const add = () => {
    const edits: Edit[] = wired ? supplyEdits(rail, kind, chosen) : [{ op: "add_source", kind, rail: rail.id }];
    void edit(edits).then(
      (after) => {
        setProblem(null);
        setFrom([]);
        if (wired) select(after.added[0] ?? null);
      },
      (caught: unknown) => setProblem(caught instanceof ApiError ? caught.message : String(caught)),
    );
  };
  return (
    <details className="wiring">
      <summary>Feed it another way</summary>
      <div className="fields">
        <label>
          by <Select size="small" aria-label="kind of feed" value={kind} options={[...KINDS]} onChange={setKind} popupMatchSelectWidth={false} />
        </label>
        {wired && (
          <label>
            from{" "}
            <Select
              size="small"
              aria-label="rails it comes from"
              {...(kind === "strap" ? { mode: "multiple" as const } : {})}
              value={kind === "strap" ? from : (from[0] ?? null)}
              placeholder={kind === "strap" ? "two rails or more" : "a rail"}
              options={others.map((r) => ({ value: r.id, label: elementName(view, r.id) }))}
              onChange={(value: string | string[]) => setFrom(Array.isArray(value) ? value : [value])}
              popupMatchSelectWidth={false}
            />
          </label>
        )}
        <Button size="small" disabled={chosen.length < needed} onClick={add}>
          Add {KINDS.find((one) => one.value === kind)?.label}
        </Button>
        {problem && (
          <p role="alert" className="quantity-problem">
            {problem}
          </p>
        )}
      </div>
    </details>
  );
}

function supplyEdits(rail: Rail, kind: "link" | "diode" | "strap", from: string[]): Edit[] {
  const first = from[0] ?? "";
  const name = { link: "wire", diode: "diode", strap: "strap" }[kind];
  const own = kind === "strap" ? { choices: from, selected: [first] } : kind === "link" ? { feed: { gauge_awg: 24, length_m: 0.06 } } : {};
  return [{ op: "add", kind: "supply", value: { kind, name: `${rail.name} ${name}`, input: first, output: rail.id, board: rail.board, ...own } }];
}
