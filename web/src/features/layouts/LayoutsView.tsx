/** Layouts: whole wirings proposed, each better than the others at something; one opened, turned down line by line, made a plan. */
import { Alert, Button, Progress } from "antd";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { useQueryClient } from "@tanstack/react-query";
import { usePlanState } from "@/shared/plan/usePlan";
import { bestAt, ROWS } from "./numbers";
import { Opened, titleOf } from "./Opened";
import { Places } from "./Places";
import { SmallYard } from "./SmallYard";
import { NOTHING_WISHED, useLayouts, useProgress, type Layouts, type Line, type Wishes } from "./useLayouts";
import { WishesBar } from "./WishesBar";
import "./layouts.css";

export function LayoutsView() {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const [params, setParams] = useSearchParams();
  const [wishes, wish] = useState<Wishes>(NOTHING_WISHED);
  // From a new build it begins at once.
  const [asked, ask] = useState<Wishes | null>(params.has("now") ? NOTHING_WISHED : null);
  const [opened, open] = useState(0);
  const device = params.get("device");
  const found = useLayouts(device ? null : asked);
  const progress = useProgress(found.isFetching);
  const down = wishes.turned_down ?? [];
  const turnDown = (line: Line) => {
    const next = { ...wishes, turned_down: [...down, ...line.devices.map((one) => ({ device: one, place: line.place }))] };
    wish(next);
    ask(next);
    open(0);
  };
  if (device)
    return (
      <div className="layouts">
        <Places
          device={device}
          close={() => {
            params.delete("device");
            setParams(params);
          }}
        />
      </div>
    );
  return (
    <div className="layouts">
      <WishesBar wishes={wishes} wish={wish} />
      <div className="layout-make">
        <Button
          type="primary"
          disabled={found.isFetching}
          onClick={() => {
            open(0);
            ask(wishes);
          }}
        >
          Propose the wiring
        </Button>
        {found.isFetching && (
          <>
            <Progress percent={Math.round(100 * (progress.data?.share ?? 0))} size="small" style={{ width: 180 }} aria-label="How far the search is" />
            <Button
              onClick={() => {
                void queries.cancelQueries({ queryKey: ["layouts", view.id] });
                ask(null);
              }}
            >
              Stop
            </Button>
          </>
        )}
        {down.length > 0 && (
          <Button
            onClick={() => {
              const next = { ...wishes, turned_down: [] };
              wish(next);
              ask(next);
            }}
          >
            Allow what was turned down ({down.length})
          </Button>
        )}
      </div>
      {found.error && !found.isFetching && <Alert type="error" title={found.error.message} />}
      {asked === null && (
        <p className="muted">
          From the devices, boards and pack of this plan: three to six ways to wire them, each solved in every condition, each better than the others at
          something, with its reasons. Nothing changes until you make one a plan.
        </p>
      )}
      {found.data && asked && !found.isFetching && <Found found={found.data} opened={opened} open={open} />}
      {found.data && asked && !found.isFetching && found.data.layouts[opened] && (
        <Opened key={`${opened} ${JSON.stringify(asked)}`} layout={found.data.layouts[opened]} number={opened} wishes={asked} turnDown={turnDown} />
      )}
    </div>
  );
}

function Found({ found, opened, open }: { found: Layouts; opened: number; open: (number: number) => void }) {
  const { view } = usePlanState();
  const columns = [found.today, ...found.layouts.map((one) => one.numbers)];
  return (
    <>
      {found.impossible.length > 0 && (
        <section className="layout-not" aria-label="Not possible">
          <h2>Not possible</h2>
          <ul>
            {found.impossible.map((one, index) => (
              <li key={index}>
                {one.why} <strong>{one.least_change}</strong>
              </li>
            ))}
          </ul>
        </section>
      )}
      {found.layouts.length > 0 && (
        <div className="layout-table">
          <table aria-label="Layouts">
            <thead>
              <tr>
                <td />
                <th scope="col">{view.plan.name}</th>
                {found.layouts.map((one, index) => (
                  <th key={index} scope="col" className={index === opened ? "is-open" : ""}>
                    <button type="button" className="plain" aria-pressed={index === opened} onClick={() => open(index)} title={one.best_at.join(", ")}>
                      {titleOf(one, index)}
                    </button>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              <tr>
                <th scope="row">yard</th>
                <td>
                  <SmallYard rails={found.rails} />
                </td>
                {found.layouts.map((one, index) => (
                  <td key={index} className={index === opened ? "is-open" : ""}>
                    <SmallYard rails={one.rails} />
                  </td>
                ))}
              </tr>
              {ROWS.map((row) => {
                const best = bestAt(row, columns.slice(1));
                return (
                  <tr key={row.label}>
                    <th scope="row">{row.label}</th>
                    {columns.map((one, index) => (
                      <td
                        key={index}
                        className={`${index > 0 && best[index - 1] ? "is-best" : ""} ${row.bad(one) ? "is-bad" : ""} ${index === opened + 1 ? "is-open" : ""}`}
                      >
                        {index === 0 && (row.label.startsWith("parts") || row.label.startsWith("wires")) ? "–" : row.text(one)}
                      </td>
                    ))}
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      <p className="muted">
        {found.tried} {found.tried === 1 ? "wiring" : "wirings"} made and solved in every condition, {found.cut} given up on; shown is what no other beats in
        every number.
      </p>
    </>
  );
}
