/** What a device's ticket begins with: good volts, the best places, how it may be fed, and what is not certain of it. */
import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { call, client } from "@/shared/api/client";
import type { Device } from "@/shared/api/types";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { amps, volts } from "@/shared/ui/format";
import { Choice } from "./Choice";

/** Devices up to which every rail is tried at once. */
const AT_ONCE = 60;

export function DeviceLead({ device }: { device: Device }) {
  const { view } = usePlanState();
  const { edit, move, findPlace } = usePlanActions();
  const navigate = useNavigate();
  // Every rail is tried with the device on it: on a very large plan that is asked for, not done at every step.
  const [wanted, setWanted] = useState((view.plan.devices ?? []).length <= AT_ONCE);
  const found = useQuery({
    queryKey: ["lead", view.id, view.revision, device.id],
    enabled: wanted,
    placeholderData: (before, query) => (query?.queryKey[3] === device.id ? before : undefined),
    queryFn: () => call(client.GET("/api/plans/{plan_id}/lead", { params: { path: { plan_id: view.id }, query: { device: device.id } } })),
  });
  const so = found.data;
  const elsewhere = (so?.places ?? []).filter((place) => !place.current);
  // The peak decides most; what is left of the other states is beside their fields.
  const unsure = so?.unsure.at(-1);
  const now = (so?.places ?? []).find((place) => place.current);
  return (
    <section className="lead" aria-label="Best answers" aria-busy={wanted && !so}>
      <dl>
        <dt>good volts</dt>
        <dd>
          {so
            ? `${volts(so.good_low_v)} to ${volts(so.good_high_v)}${so.good_pack_v ? `, a full pack up to ${volts(so.good_pack_v)}` : ""}`
            : wanted
              ? "…"
              : "–"}
        </dd>
        <dt>could live</dt>
        <dd>
          {!so && wanted && "…"}
          {!wanted && (
            <Button size="small" onClick={() => setWanted(true)}>
              Try every rail
            </Button>
          )}
          {so && so.fitting === 0 && "on no rail that is there"}
          {now && <span>where it is{now.already ? ` (${now.already})` : ""}</span>}
          {so?.not_here && <span className="lead-against">not where it is: {so.not_here}</span>}
          {elsewhere.map((place) => (
            <Button
              key={place.title}
              size="small"
              onClick={() => void edit(place.edits).catch(() => undefined)}
              title={`${Math.round(place.score * 100)} of 100, ${amps(place.spare_a)} left`}
            >
              {place.title}
            </Button>
          ))}
        </dd>
        {unsure && (
          <>
            <dt>measure</dt>
            <dd>
              {unsure.state} draw, now {unsure.provenance === "guess" ? "a guess" : "reported"}: {amps(unsure.low_a)} to {amps(unsure.high_a)}
            </dd>
          </>
        )}
      </dl>
      {(device.ways ?? []).length > 0 && (
        <Choice
          label="powered by"
          value={device.way ?? ""}
          options={(device.ways ?? []).map((way) => ({ value: way.name, label: `${way.name} (${way.min_v}–${way.max_v} V)` }))}
          edits={(way) => [{ op: "choose_way", device: device.id, way }]}
        />
      )}
      <div className="ticket-tools ticket-wrap">
        <Button size="small" onClick={() => findPlace(device.id)} title="w">
          {(device.ways ?? []).length > 0 ? "All ways and places" : "Where could this live?"}
        </Button>{" "}
        <Link to={`/plans/${view.id}/layouts?device=${device.id}`}>Places side by side</Link>
        <Button size="small" onClick={() => move(device.id)} title="m">
          Move…
        </Button>
        {device.feed && (device.throttle ?? []).length === 0 && (
          <Button size="small" onClick={() => void navigate(`/plans/${view.id}/noise?sheet=Feeds&s=${device.id}`)} title="f">
            How to feed it quietly
          </Button>
        )}
      </div>
    </section>
  );
}
