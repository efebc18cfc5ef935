/** Where one device could be fed, everything else as it is: the same numbers side by side, and one click to take one. */
import { Alert, Button, Spin } from "antd";
import { useState } from "react";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { bestAt, ROWS } from "./numbers";
import { usePlaces } from "./useLayouts";

export function Places({ device, close }: { device: string; close: () => void }) {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const found = usePlaces(device);
  const [problem, setProblem] = useState<string | null>(null);
  const name = (view.plan.devices ?? []).find((one) => one.id === device)?.name ?? device;
  return (
    <section className="layout-open" aria-label={`Places of ${name}`}>
      <h2>
        {name} <span className="muted">· every place tried, the rest as it is</span>{" "}
        <Button size="small" onClick={close}>
          Whole layouts
        </Button>
      </h2>
      {found.error && <Alert type="error" title={found.error.message} />}
      {problem && <Alert type="error" title={problem} />}
      {found.isFetching && <Spin description="Trying every place" />}
      {found.data && (
        <div className="layout-table">
          <table>
            <thead>
              <tr>
                <th scope="col">place</th>
                {found.data.places.map((place, index) => (
                  <th key={index} scope="col">
                    {place.title}
                    {place.here && <span className="muted"> · now</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {ROWS.map((row) => {
                const best = bestAt(
                  row,
                  found.data.places.map((place) => place.numbers),
                );
                return (
                  <tr key={row.label}>
                    <th scope="row">{row.label}</th>
                    {found.data.places.map((place, index) => (
                      <td key={index} className={`${best[index] ? "is-best" : ""} ${row.bad(place.numbers) ? "is-bad" : ""}`}>
                        {row.text(place.numbers)}
                      </td>
                    ))}
                  </tr>
                );
              })}
              <tr>
                <th scope="row">against it</th>
                {found.data.places.map((place, index) => (
                  <td key={index}>{place.against.join("; ") || "–"}</td>
                ))}
              </tr>
              <tr>
                <th scope="row">
                  <span className="sr-only">take it</span>
                </th>
                {found.data.places.map((place, index) => (
                  <td key={index}>
                    {!place.here && (
                      <Button
                        size="small"
                        aria-label={`Take ${place.title}`}
                        onClick={() => void edit(place.edits).catch((caught: unknown) => setProblem(caught instanceof Error ? caught.message : String(caught)))}
                      >
                        Take it
                      </Button>
                    )}
                  </td>
                ))}
              </tr>
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}
