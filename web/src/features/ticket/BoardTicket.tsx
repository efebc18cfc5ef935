/** Ticket of a board: its ground wires, its rails, and what can be added to it. */
import { Button } from "antd";
import { useState } from "react";
import type { Edit, PlanDocument } from "@/shared/api/types";
import { ApiError } from "@/shared/api/client";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { railTitle } from "@/shared/ui/format";
import { AllFields } from "./AllFields";
import { Pins } from "./Pins";
import { Grounds } from "./Grounds";
import { Upkeep } from "./Upkeep";

type Board = PlanDocument["boards"][number];

export function BoardTicket({ board }: { board: Board }) {
  const { view } = usePlanState();
  const { edit, select } = usePlanActions();
  const [problem, setProblem] = useState<string | null>(null);
  const { plan } = view;
  const rails = plan.rails.filter((r) => r.board === board.id);
  const run = (edits: Edit[], show?: string) =>
    void edit(edits).then(
      () => {
        setProblem(null);
        if (show) select(show);
      },
      (caught: unknown) => setProblem(caught instanceof ApiError ? caught.message : String(caught)),
    );
  const number = plan.rails.length + 1;
  const fresh = `${board.id}-rail-${number}`.slice(0, 60);
  const source = rails.find((r) => r.nominal_v === null || r.nominal_v === undefined)?.id ?? plan.pack.rail;
  const regulated: Edit[] = [
    { op: "add", kind: "rail", value: { id: fresh, name: "5 V", board: board.id, nominal_v: 5 } },
    {
      op: "add",
      kind: "supply",
      value: {
        kind: "buck",
        id: `${fresh}-reg`,
        name: "5 V buck",
        input: source,
        output: fresh,
        board: board.id,
        set_v: 5,
        rating_a: 2,
        efficiency: [{ amps: 1, efficiency_frac: 0.88 }],
        start_v: 6,
        stop_v: 5.5,
      },
    },
  ];
  const wired: Edit[] = [
    { op: "add", kind: "rail", value: { id: fresh, name: `${board.name} pack in`, board: board.id } },
    {
      op: "add",
      kind: "supply",
      value: {
        kind: "link",
        id: `${fresh}-wire`,
        name: `${board.name} cable`,
        input: plan.pack.rail,
        output: fresh,
        board: board.id,
        feed: { gauge_awg: 22, length_m: 0.06 },
      },
    },
  ];
  const port: Edit[] = [{ op: "add", kind: "inlet", value: { name: "USB port", kind: "usb", rail: rails.find((r) => r.nominal_v)?.id ?? rails[0]?.id ?? "" } }];
  return (
    <>
      <h2>{board.name}</h2>
      <p className="muted">
        Rails:{" "}
        {rails.length === 0
          ? "none"
          : rails.map((r) => (
              <button key={r.id} type="button" className="number ticket-link" onClick={() => select(r.id)}>
                {railTitle(r.name)}
              </button>
            ))}
      </p>
      <div className="ticket-tools ticket-wrap">
        <Button size="small" onClick={() => run(regulated, fresh)}>
          Add a regulated rail
        </Button>
        <Button size="small" onClick={() => run(wired, fresh)}>
          Add a pack wire
        </Button>
        <Button size="small" disabled={rails.length === 0} onClick={() => run(port)}>
          Add a USB port
        </Button>
      </div>
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
      <Grounds owner={board} />
      <Pins owner={board} />
      <AllFields element={board.id} what="board" value={board} without={["name"]} />
      <Upkeep element={board.id} />
    </>
  );
}
