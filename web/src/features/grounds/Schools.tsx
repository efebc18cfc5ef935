/** Ways to ground, side by side on this build. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Spin } from "antd";
import { call, client } from "@/shared/api/client";
import { SchoolTableView } from "@/shared/plan/SchoolTableView";
import { usePlanState } from "@/shared/plan/usePlan";
import { CliffChart } from "./CliffChart";

export function Schools() {
  const { view } = usePlanState();
  const found = useQuery({
    queryKey: ["schools", view.id, view.revision],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/schools", { params: { path: { plan_id: view.id } } })),
    placeholderData: (before) => before,
  });
  if (found.error) return <Alert type="error" title={found.error.message} />;
  if (!found.data) return <Spin size="small" description="Solving the other ways to ground this build" />;
  if (found.data.length === 0) return <p className="grounds-lead">No video parts and no ESC signals here: the ways to ground do not differ on this build.</p>;
  return (
    <div className="schools">
      {found.data.map((table) => (
        <SchoolTableView key={table.question} table={table} />
      ))}
      <CliffChart />
    </div>
  );
}
