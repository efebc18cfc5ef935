/** Schools of feeding and protecting a device, each solved on this build. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Select, Spin } from "antd";
import { useState } from "react";
import { call, client } from "@/shared/api/client";
import { SchoolTableView } from "@/shared/plan/SchoolTableView";
import { usePlanState, useSelection } from "@/shared/plan/usePlan";

export function FeedsSheet() {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const fed = (view.plan.devices ?? []).filter((d) => d.feed && (d.throttle ?? []).length === 0);
  const first = fed.find((d) => d.kind === "sender") ?? fed.find((d) => d.kind === "digital") ?? fed.find((d) => d.kind === "camera") ?? fed[0];
  const [chosen, setChosen] = useState<string | null>(null);
  const device = chosen ?? fed.find((d) => d.id === selected)?.id ?? first?.id ?? null;
  const found = useQuery({
    queryKey: ["feed-schools", view.id, view.revision, device],
    enabled: device !== null,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/noise/schools", { params: { path: { plan_id: view.id }, query: { device: device ?? "" } } })),
  });
  return (
    <>
      <div className="picture-tools">
        <Select
          size="small"
          aria-label="device"
          value={device}
          options={fed.map((d) => ({ value: d.id, label: d.name }))}
          onChange={setChosen}
          popupMatchSelectWidth={false}
        />
      </div>
      {found.error && <Alert type="error" title={found.error.message} />}
      {found.isPending && <Spin size="small" description="Solving each way on this build, with the best parts of the shelf" />}
      {(found.data ?? []).map((table) => (
        <SchoolTableView key={table.question} table={table} />
      ))}
    </>
  );
}
