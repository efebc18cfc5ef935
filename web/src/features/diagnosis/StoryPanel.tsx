/** A symptom looked into: causes, answers so far, what to try next, the cure tried on the plan, and the test afterwards. */
import { Alert, Button, Input } from "antd";
import { useState } from "react";
import type { Edit, PreviewView } from "@/shared/api/types";
import { TriedChanges } from "@/shared/plan/TriedChanges";
import { usePlanActions } from "@/shared/plan/usePlan";
import { Mark } from "@/shared/ui/marks";
import { Causes, percent } from "./Causes";
import { NextTries } from "./NextTry";
import { useStoryActions, type Story } from "./useDiagnosis";

export function StoryPanel({ story }: { story: Story }) {
  const { answer, back, anew } = useStoryActions();
  const found = story.diagnosis;
  const done = found.done.map((words, index) => ({ words, tried: story.answered[index] ?? "" }));
  return (
    <section className="story" aria-label="What is looked into">
      <h2>
        {story.title}{" "}
        <span className="muted">
          · seen {new Date(story.at).toLocaleDateString("en-GB", { day: "numeric", month: "short" })}, step {story.step}
          {done.length > 0 && ` · ${done.length} tried`}
        </span>
      </h2>
      {story.text && <p className="log-text">{story.text}</p>}
      {story.state === "settled" && (
        <p className="story-settled" role="status">
          <Mark kind="ok" /> Settled. {story.how}
        </p>
      )}
      {found.cautions.map((one) => (
        <Alert key={one} type="warning" title={one} />
      ))}
      <Causes found={found} />
      {found.rests_on.length > 0 && <p className="muted">It rests on numbers nobody measured: {found.rests_on.join("; ")}.</p>}
      {done.length > 0 && (
        <ul className="story-done" aria-label="Tried so far">
          {done.map((one) => (
            <li key={one.tried}>
              {one.words}{" "}
              {story.state !== "settled" && (
                <Button size="small" type="text" onClick={() => void back(story.entry, one.tried)}>
                  Take back
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      {found.standing === "unknown" && (
        <Alert
          type="info"
          title="Nothing known fits."
          description="Measure what the plan only guesses, read a flight into the log, and look at it again; or it is something no plan knows of: software, a cracked board, a part out of the sheet."
        />
      )}
      {story.state !== "settled" && found.standing !== "named" && (
        <NextTries key={done.length} tries={found.tries} answer={(body) => answer(story.entry, body)} />
      )}
      {found.named !== "" && <Named story={story} />}
      {story.head_step !== story.step && story.state !== "settled" && (
        <p className="muted">
          The plan was changed since (step {story.step} → {story.head_step}).{" "}
          <Button size="small" onClick={() => void anew(story.entry)}>
            Weigh it anew with today’s plan
          </Button>
        </p>
      )}
    </section>
  );
}

/** What it is, what mends it, and whether it is gone. */
function Named({ story }: { story: Story }) {
  const { settle } = useStoryActions();
  const found = story.diagnosis;
  const [how, setHow] = useState("");
  return (
    <div className="story-named">
      <h3>
        It is this: {found.named} <span className="muted">{percent(found.named_chance)}</span>
      </h3>
      <p>{found.mend}</p>
      {found.second && <p>A second cause is likely: {found.second}. Mend this one first, then look again.</p>}
      {story.state !== "settled" && found.remedies.map((one) => <Remedy key={one.title} title={one.title} leaves={one.leaves} edits={one.edits} />)}
      {story.head_step !== story.step && story.after !== null && (
        <p>
          With the plan of today the chance of it is {percent(story.after)}; it was {percent(story.before)}.
        </p>
      )}
      {story.state !== "settled" && (
        <div className="story-settle">
          <Input aria-label="What was done" placeholder="what was done" value={how} maxLength={2000} onChange={(event) => setHow(event.target.value)} />
          <Button type="primary" onClick={() => void settle(story.entry, how || found.mend, true)}>
            Tested again: it is gone
          </Button>
          <Button onClick={() => void settle(story.entry, how, false)}>Still there</Button>
        </div>
      )}
    </div>
  );
}

/** A change of the plan that cures it: looked at first, then made. */
function Remedy({ title, leaves, edits }: { title: string; leaves: string; edits: Edit[] }) {
  const { preview, edit } = usePlanActions();
  const [tried, setTried] = useState<PreviewView | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const failed = (caught: unknown) => setProblem(caught instanceof Error ? caught.message : String(caught));
  return (
    <div className="remedy">
      <span>
        {title} <strong>{leaves}</strong>
      </span>{" "}
      {tried ? (
        <div className="fix-preview">
          <TriedChanges edits={edits} changes={tried.changes} />
          <Button type="primary" size="small" onClick={() => void edit(edits).then(() => setTried(null), failed)}>
            Change the plan
          </Button>{" "}
          <Button size="small" onClick={() => setTried(null)}>
            Leave it
          </Button>
        </div>
      ) : (
        <Button size="small" onClick={() => void preview(edits).then(setTried, failed)}>
          Try it
        </Button>
      )}
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
    </div>
  );
}
