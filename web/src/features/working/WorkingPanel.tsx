/** The working behind a number: formula, inputs, where each came from. An input's own working is one click away. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Drawer, Spin } from "antd";
import { ApiError, call, client } from "@/shared/api/client";
import { elementName } from "@/shared/plan/elements";
import { INSTANT } from "@/shared/plan/instant";
import { type WorkingAsk, usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import "./working.css";

interface Props {
  asked: WorkingAsk | null;
  ask: (next: WorkingAsk | null) => void;
}

export function WorkingPanel({ asked, ask }: Props) {
  const { view } = usePlanState();
  const { select } = usePlanActions();
  const found = useQuery({
    queryKey: ["working", view.id, view.revision, asked],
    enabled: asked !== null && asked.condition !== INSTANT,
    queryFn: () => {
      if (!asked) throw new Error("nothing was asked");
      return call(client.GET("/api/plans/{plan_id}/working", { params: { path: { plan_id: view.id }, query: asked } }));
    },
  });
  const working = found.data;
  return (
    <Drawer open={asked !== null} onClose={() => ask(null)} size={440} title={working?.title ?? "Working"} mask={false} className="working">
      {asked?.condition === INSTANT && (
        <Alert
          type="info"
          title="At an instant of a run this number was stepped to, not solved by a formula. Keep the instant as a condition, under Run, and it shows its working."
        />
      )}
      {found.isPending && asked && asked.condition !== INSTANT && <Spin />}
      {found.error && <Alert type="error" title={found.error instanceof ApiError ? found.error.message : String(found.error)} />}
      {working && asked && (
        <>
          <p className="formula">{working.formula}</p>
          <p className="working-result">
            {working.result.label}: <strong>{working.result.text}</strong>
          </p>
          <table>
            <thead>
              <tr>
                <th scope="col">symbol</th>
                <th scope="col">value</th>
                <th scope="col">what, and where from</th>
              </tr>
            </thead>
            <tbody>
              {working.inputs.map((input, index) => (
                <tr key={index}>
                  <td className="symbol">{input.symbol}</td>
                  <td>
                    {input.element && input.quantity ? (
                      <button
                        type="button"
                        className="number"
                        onClick={() => input.element && input.quantity && ask({ element: input.element, quantity: input.quantity, condition: asked.condition })}
                      >
                        {input.text}
                      </button>
                    ) : (
                      input.text
                    )}
                  </td>
                  <td>
                    {input.label}
                    <br />
                    <span className="muted">{input.origin}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {working.note && <p>{working.note}</p>}
          {asked.element !== "pack" && (
            <Button
              onClick={() => {
                select(asked.element);
                ask(null);
              }}
            >
              Ticket of {elementName(view, asked.element)}
            </Button>
          )}
        </>
      )}
    </Drawer>
  );
}
