/** What to try next: the most told for each minute first, the others to choose from; its answer typed or clicked. */
import { Button, Input } from "antd";
import { useState } from "react";
import { percent } from "./Causes";
import type { Answer, NextTry as Try } from "./useDiagnosis";

interface Props {
  tries: readonly Try[];
  answer: (body: Answer) => Promise<unknown>;
  /** A craft that answers by itself, in an exercise. */
  asks?: (tried: string) => Promise<unknown>;
}

export function NextTries({ tries, answer, asks }: Props) {
  const [chosen, choose] = useState<string | null>(null);
  const [skipped, setSkipped] = useState<string[]>([]);
  const [text, setText] = useState("");
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const left = tries.filter((one) => !skipped.includes(one.id));
  const now = left.find((one) => one.id === chosen) ?? left[0];
  const give = async (work: () => Promise<unknown>) => {
    setBusy(true);
    setProblem(null);
    try {
      await work();
      setText("");
      choose(null);
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    } finally {
      setBusy(false);
    }
  };
  if (!now)
    return (
      <p className="muted">
        Nothing is left to try that would tell more.{" "}
        {skipped.length > 0 && (
          <Button size="small" onClick={() => setSkipped([])}>
            Show what was passed over
          </Button>
        )}
      </p>
    );
  return (
    <section className="next-try" aria-label="Next to try">
      <div className="next-try-main">
        <h3>
          {now === tries[0] ? "Next" : "Instead"}, {minutes(now.minutes)}: {now.title}
        </h3>
        <p>{now.how}</p>
        <Expected one={now} />
        {asks ? (
          <Button type="primary" loading={busy} onClick={() => void give(() => asks(now.id))}>
            Do it on the hidden craft
          </Button>
        ) : now.unit ? (
          <form
            className="try-answer"
            onSubmit={(event) => {
              event.preventDefault();
              if (text.trim()) void give(() => answer({ tried: now.id, text: text.trim() }));
            }}
          >
            <Input
              aria-label={`Reading in ${now.unit}`}
              placeholder={now.unit === "Ω" ? "4.7, 120k, OL" : now.unit === "V" ? "4.9" : "1.2"}
              suffix={now.unit}
              value={text}
              onChange={(event) => setText(event.target.value)}
              style={{ width: 150 }}
            />
            <Button type="primary" htmlType="submit" loading={busy} disabled={!text.trim()}>
              That is what it reads
            </Button>
          </form>
        ) : (
          <div className="try-answer">
            <Button type="primary" loading={busy} onClick={() => void give(() => answer({ tried: now.id, yes: true, text: "" }))}>
              {now.yes}
            </Button>
            <Button loading={busy} onClick={() => void give(() => answer({ tried: now.id, yes: false, text: "" }))}>
              {now.no}
            </Button>
          </div>
        )}
        <Button type="text" size="small" onClick={() => setSkipped([...skipped, now.id])}>
          Cannot do that
        </Button>
        {problem && (
          <p role="alert" className="quantity-problem">
            {problem}
          </p>
        )}
      </div>
      {left.length > 1 && (
        <div className="next-try-others">
          <h4>Others</h4>
          <ul>
            {left
              .filter((one) => one !== now)
              .map((one) => (
                <li key={one.id}>
                  <button type="button" className="plain" onClick={() => choose(one.id)}>
                    {one.title} <span className="muted">{minutes(one.minutes)}</span>
                  </button>
                </li>
              ))}
          </ul>
        </div>
      )}
    </section>
  );
}

function minutes(value: number): string {
  return value < 1 ? "under a minute" : `${Math.round(value)} min`;
}

/** What each leading cause makes of it. */
function Expected({ one }: { one: Try }) {
  return (
    <dl className="try-expect">
      {one.unit && (
        <div>
          <dt>as planned</dt>
          <dd>{one.planned}</dd>
        </div>
      )}
      {one.expect.map((expect) => (
        <div key={expect.cause}>
          <dt>{expect.title}</dt>
          <dd>{one.unit ? expect.reading : `${one.yes.toLowerCase()} ${percent(expect.yes_frac ?? 0)}`}</dd>
        </div>
      ))}
    </dl>
  );
}
