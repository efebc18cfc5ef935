/** An exercise: a cause hidden in this plan, told by how it shows; the craft answers what is tried on it. */
import { Alert, Button } from "antd";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";
import { Causes } from "./Causes";
import { NextTries } from "./NextTry";
import { useLookInto, type Answer, type Complaint } from "./useDiagnosis";

type Hidden = components["schemas"]["ExerciseView"];
type Mark = components["schemas"]["ExerciseMark"];

export function Exercise({ close }: { close: () => void }) {
  const { view } = usePlanState();
  const path = { plan_id: view.id };
  const [params] = useSearchParams();
  const [hidden, setHidden] = useState<Hidden | null>(null);
  const [answers, setAnswers] = useState<Answer[]>([]);
  const [mark, setMark] = useState<Mark | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const asked: Complaint | null = hidden ? { symptom: hidden.symptom, where: hidden.where, since: [], evidence: answers, text: "", who: "" } : null;
  const found = useLookInto(asked);
  const run = async (work: () => Promise<void>) => {
    try {
      setProblem(null);
      await work();
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    }
  };
  const begin = () =>
    run(async () => {
      // One that is named in the address is the same for whoever follows it.
      const named = Number(params.get("seed"));
      const seed = hidden === null && named > 0 ? named * 2 : (crypto.getRandomValues(new Uint32Array(1))[0] ?? 2);
      setHidden(await call(client.POST("/api/plans/{plan_id}/diagnosis/exercise", { params: { path }, body: { seed: seed >>> 1 } })));
      setAnswers([]);
      setMark(null);
    });
  const asks = async (tried: string) => {
    if (!hidden) return;
    const said = await call(client.POST("/api/plans/{plan_id}/diagnosis/exercise/try", { params: { path }, body: { seed: hidden.seed, tried } }));
    setAnswers((before) => [...before, { tried: said.tried, yes: said.yes, value: said.value, text: "" }]);
  };
  const name = (cause: string) =>
    run(async () => {
      if (!hidden) return;
      setMark(await call(client.POST("/api/plans/{plan_id}/diagnosis/exercise/name", { params: { path }, body: { seed: hidden.seed, cause } })));
    });
  return (
    <section className="story" aria-label="Exercise">
      <h2>
        Exercise{hidden && `: ${hidden.title}`}{" "}
        <Button size="small" onClick={close}>
          Leave it
        </Button>
      </h2>
      {!hidden && (
        <p>
          Something is hidden in this plan: a joint, a worn part, a number that is not so, a setting. You are told how it shows. Try things on it, and name what
          it is; nothing of it goes into the log.{" "}
          <Button type="primary" onClick={() => void begin()}>
            Hide something
          </Button>
        </p>
      )}
      {found.error && <Alert type="error" title={found.error.message} />}
      {problem && <Alert type="error" title={problem} />}
      {found.data && !mark && (
        <>
          <Causes found={found.data} />
          {found.data.done.length > 0 && (
            <ul className="story-done" aria-label="Tried so far">
              {found.data.done.map((one) => (
                <li key={one}>{one}</li>
              ))}
            </ul>
          )}
          <NextTries key={answers.length} tries={found.data.tries} answer={() => Promise.resolve()} asks={asks} />
          <p>
            It is:{" "}
            {found.data.causes.slice(0, 5).map((one) => (
              <Button key={one.id} size="small" onClick={() => void name(one.id)}>
                {one.title}
              </Button>
            ))}
          </p>
        </>
      )}
      {mark && (
        <p role="status">
          <strong>{mark.right ? "Right." : "No."}</strong> It was: {mark.what}. You tried {answers.length}; the best way takes {mark.best_tries},{" "}
          {Math.round(mark.best_minutes)} min.{" "}
          <Button size="small" type="primary" onClick={() => void begin()}>
            Another
          </Button>
        </p>
      )}
    </section>
  );
}
