/** Where could this live? Every feasible feed ranked with its numbers; one click applies it. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Drawer, InputNumber, Spin } from "antd";
import { useState } from "react";
import { call, client } from "@/shared/api/client";
import { WEIGHT_WORDS, WEIGHTS } from "@/shared/api/constants";
import type { components } from "@/shared/api/schema";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { amps, celsius, counted, volts } from "@/shared/ui/format";
import "./places.css";

type Weights = Required<components["schemas"]["Weights"]>;
const KEY = "yard-place-weights";

function stored(): Weights {
  try {
    return { ...WEIGHTS, ...(JSON.parse(window.localStorage.getItem(KEY) ?? "{}") as Partial<Weights>) };
  } catch {
    return WEIGHTS;
  }
}

interface Props {
  device: string | null;
  close: () => void;
}

export function PlacesBox({ device, close }: Props) {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const [weights, setWeights] = useState<Weights>(stored);
  const [problem, setProblem] = useState<string | null>(null);
  const found = useQuery({
    queryKey: ["places", view.id, view.revision, device, weights],
    enabled: device !== null,
    placeholderData: (before) => before,
    queryFn: () => call(client.POST("/api/plans/{plan_id}/places", { params: { path: { plan_id: view.id } }, body: { device: device ?? "", weights } })),
  });
  const change = (name: keyof Weights, value: number | null) => {
    const next = { ...weights, [name]: value ?? 0 };
    setWeights(next);
    window.localStorage.setItem(KEY, JSON.stringify(next));
  };
  const places = found.data ?? [];
  const feasible = places.filter((p) => !p.refused);
  return (
    <Drawer open={device !== null} onClose={close} size={900} title={device ? `Where could ${elementName(view, device)} live?` : ""} className="places">
      {found.isFetching && <Spin size="small" />}
      {(found.error ?? problem) && <Alert type="error" title={problem ?? found.error?.message} />}
      <p className="muted">Numbers of the worst condition on the pack.</p>
      <table>
        <thead>
          <tr>
            {["place", "spare", "headroom", "still air", "drop", "noise", "added", "if it fails short", ""].map((head) => (
              <th key={head} scope="col">
                {head || <span className="sr-only">apply</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {feasible.map((place, index) => (
            <tr key={place.title}>
              <th scope="row">
                {index + 1}. {place.title}
                {place.current ? " (now)" : ""}
                <br />
                {place.already && (
                  <>
                    already so: {place.already}
                    <br />
                  </>
                )}
                <span className="muted">{Math.round(place.score * 100)} of 100</span>
              </th>
              <td>{amps(place.spare_a)}</td>
              <td>{place.headroom_v === null || place.headroom_v === undefined ? "–" : volts(place.headroom_v)}</td>
              <td>{celsius(place.still_temp_c)}</td>
              <td>{volts(place.drop_v)}</td>
              <td>{place.noise_words}</td>
              <td>{place.added_g > 0 ? `${place.added_g.toFixed(1)} g, ${counted(place.added_wires, "wire")}` : "nothing"}</td>
              <td>{place.short_words}</td>
              <td>
                {!place.current && (
                  <Button
                    size="small"
                    type={index === 0 ? "primary" : "default"}
                    onClick={() =>
                      void edit(place.edits)
                        .then(close)
                        .catch((caught: unknown) => setProblem(caught instanceof Error ? caught.message : String(caught)))
                    }
                  >
                    Apply
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {!found.isFetching && feasible.length === 0 && <p>No place holds its volts and has the amps. Add a rail or a BEC first.</p>}
      <h3>Not here</h3>
      <ul>
        {places
          .filter((p) => p.refused)
          .map((place) => (
            <li key={place.title}>
              {place.title}
              {place.current ? " (now)" : ""}: {place.refused}
            </li>
          ))}
      </ul>
      <h3>What counts</h3>
      <div className="places-weights">
        {(Object.keys(WEIGHTS) as (keyof Weights)[]).map((name) => (
          <label key={name}>
            {WEIGHT_WORDS[name]} <InputNumber size="small" min={0} max={10} step={0.1} value={weights[name]} onChange={(value) => change(name, value)} />
          </label>
        ))}
        <Button size="small" onClick={() => setWeights(WEIGHTS)}>
          Defaults
        </Button>
      </div>
    </Drawer>
  );
}
