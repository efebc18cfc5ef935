/** Where noise comes from, which way it takes, and what it does to the picture. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Alert, Select, Spin } from "antd";
import { lazy, Suspense, useState } from "react";
import { call, client } from "@/shared/api/client";
import type { NoiseReview } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanState, useSelection } from "@/shared/plan/usePlan";
import { si, volts } from "@/shared/ui/format";
import { Picture } from "./Picture";
import { PathPicture } from "./PathPicture";

const SweepChart = lazy(() => import("./SweepChart"));

export function PathSheet({ review, condition }: { review: NoiseReview; condition: string }) {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const [chosen, setChosen] = useState<string | null>(null);
  const [line, setLine] = useState<string | null>(null);
  const own = review.pins.some((p) => p.device === selected) ? selected : null;
  const device = chosen ?? own ?? review.noisiest[condition];
  const pin = review.pins.find((p) => p.device === device);
  const path = useQuery({
    queryKey: ["noise-path", view.id, view.revision, device, condition, line],
    enabled: device !== null,
    queryFn: () =>
      call(
        client.GET("/api/plans/{plan_id}/noise/path", {
          params: { path: { plan_id: view.id }, query: { device: device ?? "", condition, ...(line ? { line } : {}) } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const heard = pin?.lines[condition] ?? [];
  return (
    <>
      <Picture review={review} condition={condition} />
      <h2>The way to {device ? elementName(view, device) : "a device"}</h2>
      <div className="picture-tools">
        <Select
          size="small"
          aria-label="device"
          value={device}
          options={review.pins.map((p) => ({ value: p.device, label: `${elementName(view, p.device)}, ${volts(p.total_v[condition] ?? 0)}` }))}
          onChange={(value) => {
            setChosen(value);
            setLine(null);
          }}
          popupMatchSelectWidth={false}
        />
        <Select
          size="small"
          aria-label="line"
          value={path.data?.words || null}
          placeholder="loudest line"
          options={heard.map((h) => ({ value: h.words, label: `${h.words}, ${volts(h.pp_v)} at ${si(h.hz, "Hz")}` }))}
          onChange={setLine}
          popupMatchSelectWidth={false}
        />
      </div>
      {path.error && <Alert type="error" title={path.error.message} />}
      {path.data && (
        <>
          <PathPicture path={path.data} />
          <Suspense fallback={<Spin size="small" />}>
            <SweepChart path={path.data} />
          </Suspense>
        </>
      )}
    </>
  );
}
