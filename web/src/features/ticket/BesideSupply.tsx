/** A second regulator side by side with what feeds a rail, straight or through a diode so that neither feeds the other. */
import { useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { ApiError, call, client } from "@/shared/api/client";
import type { PlanDocument } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";

const STRAIGHT = "";
/** Volts apart at which a regulator still belongs on a rail. */
const NEAR_V = 0.5;

export function BesideSupply({ rail }: { rail: PlanDocument["rails"][number] }) {
  const { view } = usePlanState();
  const { place } = usePlanActions();
  const [address] = useSearchParams();
  // From a finding or from the search it is asked for by name.
  const asked = address.get("beside") === rail.id;
  const [open, setOpen] = useState(asked);
  const [part, setPart] = useState<string | null>(null);
  const [from, setFrom] = useState(view.plan.pack.rail);
  const [through, setThrough] = useState(STRAIGHT);
  const [problem, setProblem] = useState<string | null>(null);
  const shelf = (kind: string) => ({
    queryKey: ["shelf-pick", kind],
    enabled: open,
    queryFn: () => call(client.GET("/api/shelf", { params: { query: { q: "", kind } } })),
  });
  const becs = useQuery(shelf("bec"));
  const diodes = useQuery(shelf("diode"));
  const volts = rail.nominal_v;
  if (!volts) return null;
  const fitting = (becs.data ?? []).filter(({ part: one }) => one.bec && Math.abs(one.bec.set_v - volts) <= NEAR_V);
  const add = async () => {
    try {
      await place({ part: part ?? "", rail: from, into: rail.id, through: through || null });
      setProblem(null);
      setPart(null);
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
    }
  };
  return (
    <details
      className="wiring"
      open={open}
      ref={(box) => (asked ? box?.scrollIntoView({ block: "nearest" }) : undefined)}
      onToggle={(event) => setOpen(event.currentTarget.open)}
    >
      <summary>A second regulator beside it</summary>
      {open && (
        <div className="fields">
          <Select
            size="small"
            aria-label="regulator to set beside it"
            placeholder={`a regulator for about ${volts} V`}
            value={part}
            onChange={setPart}
            options={fitting.map(({ part: one }) => ({ value: one.key, label: one.name }))}
            popupMatchSelectWidth={false}
          />
          <label>
            fed from{" "}
            <Select
              size="small"
              aria-label="rail it is fed from"
              value={from}
              onChange={setFrom}
              options={view.plan.rails.filter((one) => one.id !== rail.id).map((one) => ({ value: one.id, label: elementName(view, one.id) }))}
              popupMatchSelectWidth={false}
            />
          </label>
          <label>
            through{" "}
            <Select
              size="small"
              aria-label="what it goes through"
              value={through}
              onChange={setThrough}
              options={[
                { value: STRAIGHT, label: "nothing: straight on" },
                ...(diodes.data ?? []).map(({ part: one }) => ({ value: one.key, label: one.name })),
              ]}
              popupMatchSelectWidth={false}
            />
          </label>
          <Button size="small" disabled={part === null} onClick={() => void add()}>
            Set it beside
          </Button>
          {problem && (
            <p role="alert" className="quantity-problem">
              {problem}
            </p>
          )}
        </div>
      )}
    </details>
  );
}
