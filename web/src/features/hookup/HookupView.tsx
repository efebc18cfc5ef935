/** The hook-up list on screen, to tick off while soldering. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Spin } from "antd";
import { call, client } from "@/shared/api/client";
import { HookupTable } from "@/shared/plan/HookupTable";
import { useTicks } from "@/shared/plan/useTicks";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import "./hookup.css";

export function HookupView() {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const { select } = usePlanActions();
  const ticks = useTicks(view.id);
  const list = useQuery({
    queryKey: ["hookup", view.id, view.revision],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/hookup", { params: { path: { plan_id: view.id } } })),
    placeholderData: (before) => before,
  });
  if (list.error) return <Alert type="error" title={list.error.message} />;
  if (!list.data) return <Spin size="small" />;
  const done = list.data.order.filter((id) => ticks.has(id)).length;
  return (
    <div className="hookup-view">
      <h2 className="sr-only">Hook-up list</h2>
      <p className="hookup-lead">
        Pack unplugged before any soldering. {done} of {list.data.order.length} wires and parts done.{" "}
        <span className="hookup-more">Rises are estimates for one wire in still air; bundles run hotter. </span>
        <Button size="small" disabled={done === 0} onClick={ticks.clear}>
          Clear the ticks
        </Button>
      </p>
      <HookupTable list={list.data} ticks={ticks} select={select} selected={selected} />
    </div>
  );
}
