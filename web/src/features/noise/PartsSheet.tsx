/** Parts of the shelf tried at a place, each with what it takes off and what it costs; and the filters of the plan. */
import { useMutation } from "@tanstack/react-query";
import { Alert, Button, Input, Progress, Segmented, Select } from "antd";
import { useEffect, useRef, useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import type { Edit, FilterTrial, NoiseReview, TrialsAnswer } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { amps, si, volts } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";

const PURPOSES = [
  { value: "bulk", label: "Bulk capacitor on a rail" },
  { value: "feed", label: "LC or ferrite in a feed" },
  { value: "local", label: "Ceramic at a device" },
] as const;
type Purpose = (typeof PURPOSES)[number]["value"];

interface Typed {
  value: number | null;
  problem?: string;
}

function typed(text: string, least: number, most: number, what: string, unit: string, example: string): Typed {
  const value = Number(text.trim().replace(",", "."));
  if (text.trim() !== "" && value >= least && value <= most) return { value };
  return { value: null, problem: `${what}: “${text}” is not a number of ${unit} from ${least} to ${most}. Write for example ${example}.` };
}

export function PartsSheet({ review }: { review: NoiseReview }) {
  const { view } = usePlanState();
  const { edit, select } = usePlanActions();
  const esc = view.plan.rails.find((r) => view.plan.boards.find((b) => b.id === r.board)?.kind === "esc")?.id ?? view.plan.pack.rail;
  const fed = (view.plan.devices ?? []).filter((d) => d.feed && (d.throttle ?? []).length === 0);
  const sender = fed.find((d) => d.kind === "sender") ?? fed.find((d) => d.kind === "camera") ?? fed[0];
  const [purpose, setPurpose] = useState<Purpose>("bulk");
  const [place, setPlace] = useState<Record<Purpose, string | null>>({ bulk: esc, feed: sender?.id ?? null, local: sender?.id ?? null });
  const [legs, setLegs] = useState("10");
  const [wanted, setWanted] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const at = place[purpose];
  const trials = useMutation({
    mutationFn: (body: { at: string; purpose: Purpose; lead_m: number; wanted_db: number | null }) =>
      call(client.POST("/api/plans/{plan_id}/noise/trials", { params: { path: { plan_id: view.id } }, body })),
  });
  const options =
    purpose === "bulk" ? view.plan.rails.map((r) => ({ value: r.id, label: elementName(view, r.id) })) : fed.map((d) => ({ value: d.id, label: d.name }));
  // What was typed stays typed; a number that makes no sense is told instead of tried.
  const tryAt = (place: string) => {
    const length = typed(legs, 0, 200, "legs", "millimetres", "10");
    const decibels: Typed = wanted.trim() === "" ? { value: null } : typed(wanted, 1, 80, "wanted off", "decibels", "20, or leave it empty for the most");
    setProblem(length.problem ?? decibels.problem ?? null);
    if (length.value !== null && (decibels.value !== null || wanted.trim() === ""))
      trials.mutate({ at: place, purpose, lead_m: length.value / 1000, wanted_db: decibels.value });
  };
  // The best parts for the place shown stand there without being asked for.
  const first = useRef(false);
  useEffect(() => {
    if (first.current || !at) return;
    first.current = true;
    tryAt(at);
  });
  const run = (edits: Edit[]) =>
    void edit(edits).then(
      () => {
        setProblem(null);
        if (at) tryAt(at);
      },
      (caught: unknown) => setProblem(caught instanceof ApiError ? caught.message : String(caught)),
    );
  return (
    <>
      <h2>Filters of this plan</h2>
      {(view.plan.filters ?? []).length === 0 ? (
        <p className="muted">None yet. Try parts below: each is solved on this plan before you choose.</p>
      ) : (
        <div className="wide">
          <table className="trials">
            <thead>
              <tr>
                <th scope="col">filter</th>
                <th scope="col">at</th>
                <th scope="col">ripple there</th>
                <th scope="col">off the loudest</th>
                <th scope="col">peak</th>
                <th scope="col">left of it</th>
                <th scope="col">ripple current</th>
                <th scope="col">drop</th>
                <th scope="col">
                  <span className="sr-only">try, apply or open</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {(view.plan.filters ?? []).map((filter) => {
                const answer = review.filters.find((f) => f.filter === filter.id);
                return (
                  <tr key={filter.id}>
                    <th scope="row">
                      <button type="button" className="number" onClick={() => select(filter.id)}>
                        {filter.name}
                      </button>
                    </th>
                    <td>{elementName(view, filter.at)}</td>
                    {answer ? (
                      <>
                        <td>
                          {volts(answer.with_v)} of {volts(answer.without_v)}
                        </td>
                        <td>
                          {answer.loudest_db.toFixed(1).replace("-", "−")} dB, {si(answer.loudest_hz, "Hz")}
                        </td>
                        <td>{answer.peak_db > 0.5 ? `+${answer.peak_db.toFixed(1)} dB at ${si(answer.peak_hz, "Hz")}` : "none"}</td>
                        <td>{[answer.left_h ? si(answer.left_h, "H") : "", answer.left_f ? si(answer.left_f, "F") : ""].filter(Boolean).join(", ") || "–"}</td>
                        <td>{answer.ripple_a > 1e-3 ? amps(answer.ripple_a) : "–"}</td>
                        <td>{answer.drop_v > 1e-4 ? volts(answer.drop_v) : "–"}</td>
                      </>
                    ) : (
                      <td colSpan={6}>
                        <Mark kind="note" /> claimed, not fitted: not counted
                      </td>
                    )}
                    <td>
                      <Button size="small" onClick={() => run([{ op: "remove", element: filter.id }])} aria-label={`Take out ${filter.name}`}>
                        Take out
                      </Button>
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      <h2>Try parts of the shelf</h2>
      <div className="picture-tools">
        <div className="wide">
          <Segmented<Purpose> size="small" aria-label="kind of filter" options={[...PURPOSES]} value={purpose} onChange={setPurpose} />
        </div>
        <Select
          size="small"
          aria-label="place"
          value={at}
          options={options}
          onChange={(value) => setPlace({ ...place, [purpose]: value })}
          popupMatchSelectWidth={false}
        />
        {purpose === "bulk" && (
          <label>
            legs{" "}
            <Input
              size="small"
              aria-label="length of the legs in millimetres"
              value={legs}
              onChange={(event) => setLegs(event.target.value)}
              suffix="mm"
              style={{ width: 76 }}
            />
          </label>
        )}
        <label>
          wanted off{" "}
          <Input
            size="small"
            aria-label="decibels wanted off the loudest line"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
            onPressEnter={() => at && tryAt(at)}
            suffix="dB"
            placeholder="most"
            style={{ width: 84 }}
          />
        </label>
        <Button size="small" type="primary" disabled={!at} onClick={() => at && tryAt(at)}>
          Try them
        </Button>
      </div>
      {trials.isPending && <Progress percent={99} status="active" size="small" showInfo={false} aria-label="Solving every part on this plan" />}
      {trials.error && <Alert type="error" title={trials.error.message} />}
      {problem && <Alert type="error" title={problem} />}
      {trials.data && <Needed found={trials.data} wanted={trials.variables.wanted_db} />}
      {trials.data && <Trials trials={trials.data.trials} fit={(trial) => run(trial.edits)} />}
    </>
  );
}

/** What the trials are judged by, and what an ideal section would have to be. */
function Needed({ found, wanted }: { found: TrialsAnswer; wanted: number | null }) {
  if (!found.loudest) return null;
  const sections = found.sections.map((one) => `${si(one.henry, "H")} with ${si(one.farad, "F")}`);
  const enough = found.trials.some((t) => t.enough && !t.refused);
  return (
    <p className="noise-lead" role="status">
      Loudest there: {found.loudest} at {si(found.loudest_hz, "Hz")}.
      {wanted !== null &&
        (enough ? ` The lightest part that takes ${wanted} dB off stands first.` : ` No part of the shelf takes ${wanted} dB off; the best stands first.`)}
      {found.corner_hz && ` An ideal section needs its corner at ${si(found.corner_hz, "Hz")} or below: ${sections.join(", or ")}.`}
    </p>
  );
}

const BEST = 3;

function Trials({ trials, fit }: { trials: FilterTrial[]; fit: (trial: FilterTrial) => void }) {
  const [all, setAll] = useState(false);
  if (trials.length === 0) return <p className="muted">The shelf has no part for this place. Add one of your own there.</p>;
  const db = (value: number) => `${value.toFixed(1).replace("-", "−")} dB`;
  return (
    <>
      <div className="wide">
        <table className="trials">
          <thead>
            <tr>
              <th scope="col">part</th>
              <th scope="col">ripple there</th>
              <th scope="col">off the loudest</th>
              <th scope="col">picture, worst</th>
              <th scope="col">peak</th>
              <th scope="col">drop</th>
              <th scope="col">weight</th>
              <th scope="col">parts</th>
              <th scope="col">
                <span className="sr-only">try, apply or open</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {(all ? trials : trials.slice(0, BEST)).map((trial) => (
              <tr key={trial.title} className={trial.best ? "is-best" : trial.refused ? "is-refused" : ""}>
                <th scope="row">
                  {trial.best ? "✓ " : trial.refused ? "■ " : ""}
                  {trial.title}
                  {trial.refused && <div className="hookup-warning">{trial.refused}</div>}
                </th>
                <td>
                  {volts(trial.with_v)} of {volts(trial.without_v)}
                </td>
                <td className={trial.enough ? "" : "is-short"}>{db(trial.gain_db)}</td>
                <td>{trial.worst_picture_db === null || trial.worst_picture_db === undefined ? "–" : db(trial.worst_picture_db)}</td>
                <td>{trial.peak_db > 0.5 ? `+${db(trial.peak_db)}` : "none"}</td>
                <td>{trial.drop_v > 1e-4 ? volts(trial.drop_v) : "–"}</td>
                <td>{trial.weight_g.toFixed(1)} g</td>
                <td>{trial.parts}</td>
                <td>
                  <Button size="small" disabled={Boolean(trial.refused)} onClick={() => fit(trial)} aria-label={`Fit ${trial.title}`}>
                    Fit
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {trials.length > BEST && (
        <Button size="small" onClick={() => setAll(!all)} aria-expanded={all}>
          {all ? "Only the best three" : `All ${trials.length} that were tried`}
        </Button>
      )}
    </>
  );
}
