/** Free pins that are usually joined, to take one by one or all at once. */
import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import type { Edit } from "@/shared/api/types";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";

export function UsualSignals() {
  const { view, busy } = usePlanState();
  const { edit } = usePlanActions();
  const [problem, setProblem] = useState<string | null>(null);
  const found = useQuery({
    queryKey: ["usual-signals", view.id, view.revision],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/signals/usual", { params: { path: { plan_id: view.id } } })),
  });
  const offers = found.data ?? [];
  if (found.error) return <p role="alert">Which pins could be joined is not known: {found.error.message}</p>;
  if (offers.length === 0) return null;
  const join = (edits: Edit[]) =>
    void edit(edits).then(
      () => setProblem(null),
      (caught: unknown) => setProblem(caught instanceof ApiError ? caught.message : String(caught)),
    );
  return (
    <section className="usual" aria-label="Pins that could be joined">
      <h2>
        Pins that could be joined{" "}
        {offers.length > 1 && (
          <Button size="small" type="primary" disabled={busy} onClick={() => join(offers.flatMap((one) => one.edits))}>
            Join all {offers.length}
          </Button>
        )}
      </h2>
      <ul>
        {offers.map((one) => (
          <li key={one.title}>
            <Button size="small" disabled={busy} onClick={() => join(one.edits)} aria-label={`Join ${one.title}`}>
              Join
            </Button>{" "}
            {one.title}
          </li>
        ))}
      </ul>
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
      <p className="muted">As such parts are usually wired; look at yours before you take it. What you join is checked like everything else.</p>
    </section>
  );
}
