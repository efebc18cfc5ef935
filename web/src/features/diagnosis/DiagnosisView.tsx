/** Something is wrong: the symptom, what may be behind it, what to try; every story is kept in the log. */
import { Alert, Button, Spin } from "antd";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { Causes } from "./Causes";
import { Exercise } from "./Exercise";
import { StoryPanel } from "./StoryPanel";
import { SymptomPicker } from "./SymptomPicker";
import { useLookInto, useStory, useStoryActions, useSymptoms, type Complaint } from "./useDiagnosis";
import "./diagnosis.css";

export function DiagnosisView() {
  const [params, setParams] = useSearchParams();
  const symptoms = useSymptoms();
  const { begin } = useStoryActions();
  const entry = Number(params.get("story")) || null;
  const story = useStory(entry);
  const first = params.get("symptom");
  const [asked, ask] = useState<Complaint | null>(first ? { symptom: first, where: params.get("where"), since: [], evidence: [], text: "", who: "" } : null);
  const [exercising, setExercising] = useState(false);
  const has = symptoms.data?.symptoms.find((one) => one.id === asked?.symptom)?.places.length;
  const found = useLookInto(has ? asked : null);
  const open = (id: number | null) => {
    const next = new URLSearchParams(params);
    next.delete("symptom");
    next.delete("where");
    if (id) next.set("story", String(id));
    else next.delete("story");
    setParams(next);
  };
  if (symptoms.error) return <Alert type="error" title={symptoms.error.message} />;
  if (entry !== null)
    return (
      <div className="wrong">
        <div className="wrong-tools">
          <Button
            onClick={() => {
              ask(null);
              open(null);
            }}
          >
            Something else is wrong…
          </Button>
        </div>
        {story.error && <Alert type="error" title={story.error.message} />}
        {story.data?.entry === entry ? <StoryPanel story={story.data} /> : !story.error && <Spin description="Weighing every cause" />}
      </div>
    );
  if (!symptoms.data) return <Spin description="Working out how this build can fail" className="page-wait" />;
  if (exercising)
    return (
      <div className="wrong">
        <Exercise close={() => setExercising(false)} />
      </div>
    );
  return (
    <div className="wrong">
      <SymptomPicker
        symptoms={symptoms.data.symptoms}
        changed={symptoms.data.changed}
        asked={asked}
        ask={ask}
        begin={async (complaint) => {
          open(await begin(complaint));
        }}
      />
      {found.error && <Alert type="error" title={found.error.message} />}
      {found.isFetching && <Spin description="Weighing every cause" />}
      {found.data && (
        <section className="story" aria-label="What it may be">
          {found.data.cautions.map((one) => (
            <Alert key={one} type="warning" title={one} />
          ))}
          <Causes found={found.data} />
          <p className="muted">
            {found.data.standing === "named"
              ? `This is it with ${Math.round(found.data.named_chance * 100)} %: ${found.data.named}.`
              : found.data.tries[0]
                ? `Next: ${found.data.tries[0].title}.`
                : ""}{" "}
            Look into it, and it is kept in the log.
          </p>
        </section>
      )}
      {!asked && (
        <p className="muted">
          Every cause this build can have is weighed by its own numbers: what it draws, how warm it gets, what every joint and part would make of it. Then the
          test that tells most for each minute.{" "}
          <Button size="small" onClick={() => setExercising(true)}>
            Exercise on a hidden cause
          </Button>
        </p>
      )}
    </div>
  );
}
