/** What edits would do: the preview's changes at once, those of the noise as soon as they are worked out. */
import { useQuery } from "@tanstack/react-query";
import { call, client } from "@/shared/api/client";
import type { Change, Edit } from "@/shared/api/types";
import { usePlanState } from "./usePlan";
import "./tried.css";

const SHOWN = 8;

interface Props {
  edits: Edit[];
  changes: Change[];
}

export function TriedChanges({ edits, changes }: Props) {
  const { view } = usePlanState();
  const noise = useQuery({
    queryKey: ["noise-preview", view.id, view.revision, edits],
    queryFn: ({ signal }) =>
      call(client.POST("/api/plans/{plan_id}/noise/preview", { params: { path: { plan_id: view.id } }, body: { revision: view.revision, edits }, signal })),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  // Half of the room is kept for the noise, so that what is worked out later is not what falls off.
  const heard = (noise.data ?? []).slice(0, SHOWN / 2);
  const shown = [...changes.slice(0, SHOWN - heard.length), ...heard];
  return (
    <ul className="tried" aria-busy={noise.isFetching}>
      {shown.length === 0 && !noise.error && <li>{noise.isFetching ? "Working out the noise…" : "Nothing that is checked moves."}</li>}
      {noise.error && <li role="alert">What it does to the noise is not known: {noise.error.message}</li>}
      {shown.map((change, index) => (
        <li key={index} className={`change-${change.direction}`}>
          <span className="change-sign">{change.direction}</span> {change.text}
        </li>
      ))}
    </ul>
  );
}
