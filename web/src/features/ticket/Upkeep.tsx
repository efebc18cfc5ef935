/** Rename, duplicate, remove: what every element can have done to it. Removing says what goes with it. */
import { Button, Popconfirm } from "antd";
import { useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { ApiError, call, client } from "@/shared/api/client";
import { elementName, storedName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { QuantityField } from "./QuantityField";

export function Upkeep({ element }: { element: string }) {
  const { view } = usePlanState();
  const { edit, select } = usePlanActions();
  const [asking, setAsking] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const gone = useQuery({
    queryKey: ["dependants", view.id, view.revision, element],
    enabled: asking,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/dependants", { params: { path: { plan_id: view.id }, query: { element } } })),
  });
  const run = (work: Promise<unknown>, after?: () => void) =>
    void work.then(
      () => {
        setProblem(null);
        after?.();
      },
      (caught: unknown) => setProblem(caught instanceof ApiError ? caught.message : String(caught)),
    );
  const words = gone.data && gone.data.length > 0 ? `With it go: ${gone.data.map((id) => elementName(view, id)).join(", ")}.` : "Nothing else goes with it.";
  return (
    <div className="fields upkeep">
      <QuantityField
        label="name"
        field={`${element}:name`}
        stored={storedName(view, element)}
        edits={(text) => [{ op: "set", element, field: "name", value: text }]}
      />
      <div className="ticket-tools">
        <Button size="small" onClick={() => run(edit([{ op: "duplicate", element }]))}>
          Duplicate
        </Button>
        <Popconfirm
          title={`Remove ${elementName(view, element)}?`}
          description={gone.isFetching ? "Looking what goes with it…" : `${words} It can be undone.`}
          onOpenChange={setAsking}
          onConfirm={() => run(edit([{ op: "remove", element }]), () => select(null))}
          okText="Remove"
        >
          <Button size="small" danger>
            Remove…
          </Button>
        </Popconfirm>
      </div>
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
    </div>
  );
}
