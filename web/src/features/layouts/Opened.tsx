/** One layout opened: what to do, in the order of soldering, why, and what would be next best. */
import { Button, Input } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { call, client } from "@/shared/api/client";
import { usePlanState } from "@/shared/plan/usePlan";
import { useQuery } from "@tanstack/react-query";
import { useMake, type Layout, type Line, type Wishes } from "./useLayouts";

interface Props {
  layout: Layout;
  number: number;
  wishes: Wishes;
  turnDown: (line: Line) => void;
}

export function titleOf(layout: Layout, number: number): string {
  return layout.best_at[0] ?? `between them ${number + 1}`;
}

export function Opened({ layout, number, wishes, turnDown }: Props) {
  const { view } = usePlanState();
  const make = useMake();
  const [name, setName] = useState(`${view.plan.name}, ${titleOf(layout, number)}`.slice(0, 80));
  const [made, setMade] = useState<{ id: number; name: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const go = async () => {
    setBusy(true);
    setProblem(null);
    try {
      setMade(await make(wishes, number, name));
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    } finally {
      setBusy(false);
    }
  };
  const bought = layout.lines.filter((line) => line.do === "add");
  return (
    <section className="layout-open" aria-label="Opened layout">
      <h2>
        {titleOf(layout, number)} <span className="muted">· in the order of soldering</span>
      </h2>
      {layout.lines.length === 0 ? (
        <p>Nothing is to be done: it is the plan as it stands.</p>
      ) : (
        <table>
          <thead>
            <tr>
              <th scope="col">what</th>
              <th scope="col">why</th>
              <th scope="col">next best</th>
              <th scope="col">
                <span className="sr-only">turn down</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {layout.lines.map((line, index) => (
              <tr key={index}>
                <th scope="row">
                  <strong className="layout-do">{line.do}</strong> {line.title}
                </th>
                <td>{line.why}</td>
                <td>{line.next_best}</td>
                <td>
                  {line.devices.length > 0 && (
                    <Button size="small" onClick={() => turnDown(line)} aria-label={`Not this: ${line.title}`}>
                      not this
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="muted">
        {layout.stays} {layout.stays === 1 ? "device stays" : "devices stay"} where {layout.stays === 1 ? "it is" : "they are"}.{" "}
        {bought.length > 0 && `Parts: ${bought.map((line) => `${line.title.replace(" on the pack", "")}${line.owned ? " (in your drawer)" : ""}`).join(", ")}.`}
      </p>
      {made ? (
        <p role="status">
          “{made.name}” stands beside today’s plan: <Link to={`/plans/${made.id}/hookup`}>its hook-up list</Link>,{" "}
          <Link to={`/plans/${made.id}/card`}>its parts</Link>, <Link to={`/plans/${made.id}/compare`}>compared</Link>.
        </p>
      ) : (
        <div className="layout-make">
          <Input aria-label="Name of the new plan" value={name} maxLength={80} onChange={(event) => setName(event.target.value)} />
          <Button type="primary" loading={busy} disabled={!name.trim()} onClick={() => void go()}>
            Make this a plan
          </Button>
        </div>
      )}
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
      <Difference layout={layout} />
    </section>
  );
}

/** What it changes against today's plan, as any edit tells it. */
function Difference({ layout }: { layout: Layout }) {
  const { view } = usePlanState();
  const found = useQuery({
    queryKey: ["layout-difference", view.id, view.revision, layout.edits],
    enabled: layout.edits.length > 0,
    queryFn: ({ signal }) =>
      call(
        client.POST("/api/plans/{plan_id}/preview", { params: { path: { plan_id: view.id } }, body: { revision: view.revision, edits: layout.edits }, signal }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  if (!found.data) return null;
  return (
    <details>
      <summary>What changes against today’s plan: {found.data.changes.length}</summary>
      <ul className="tried">
        {found.data.changes.slice(0, 30).map((change, index) => (
          <li key={index} className={`change-${change.direction}`}>
            <span className="change-sign">{change.direction}</span> {change.text}
          </li>
        ))}
      </ul>
    </details>
  );
}
