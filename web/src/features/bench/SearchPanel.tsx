/** After a step that failed: what it may be, what to do next, and, when it is found, what to mend and what to do again. */
import { Alert, Button, Checkbox, Input, Spin, type InputRef } from "antd";
import { counted } from "@/shared/ui/format";
import { useRef, useState } from "react";
import { Mark } from "@/shared/ui/marks";
import { percent, seconds } from "./figures";
import { Reading } from "./Reading";
import type { Bench, Recording, NextTrial, SearchView } from "./useBench";
import { useSearch } from "./useBench";
import { useSample } from "./useMeter";

interface Asked {
  bench: Bench;
  step: string;
  training: number | null;
  supply: boolean;
}

interface Props extends Asked {
  setSupply: (there: boolean) => void;
  recording: Recording;
  metered: boolean;
  trial: NextTrial | null;
  setTrial: (trial: NextTrial | null) => void;
  repaired: () => void;
}

/** What it may be, below what was read. */
export function Suspects({ bench, step, training, supply }: Asked) {
  const found = useSearch(step, supply, training, bench.entries);
  if (found.error) return <Alert type="error" title={found.error.message} />;
  if (!found.data) return <Spin size="small" description="Asking what it may be" />;
  return <Meanings meanings={found.data.meanings} none={found.data.none_frac} />;
}

/** What to do next, beside it. */
export function SearchPanel({ bench, step, training, supply, setSupply, recording, metered, trial, setTrial, repaired }: Props) {
  const found = useSearch(step, supply, training, bench.entries);
  if (!found.data) return null;
  const { meanings, options, found: named, nothing } = found.data;
  // What is named has its own button; it may still have been something else.
  const others = meanings.filter((one) => one.fault !== named?.fault);
  const mend = async (fault: string, note: string) => {
    const answer = await recording.repair(fault, note);
    setTrial(null);
    if (answer?.entry.outcome === "repaired") repaired();
  };
  return (
    <section className="bench-search" aria-label="The search">
      {bench.tried.length > 0 && <p className="muted">Tried: {bench.tried.map((one) => `${one.title}: ${one.text}`).join(" · ")}</p>}
      {nothing && (
        <Alert type="info" title="What was read points to nothing any more." description="Read the step that failed again: a probe may have slipped." />
      )}
      {named && <Named found={named} busy={recording.busy} mend={mend} />}
      {!named && options.length > 0 && (
        <div className="next-best">
          <h3>Next best</h3>
          {options.map((one, k) => (
            <Option key={one.id} option={one} best={k === 0} chosen={trial?.id === one.id} choose={() => setTrial(trial?.id === one.id ? null : one)}>
              <TrialReading key={one.id} option={one} step={step} recording={recording} training={training} metered={metered} done={() => setTrial(null)} />
            </Option>
          ))}
          <Checkbox checked={supply} onChange={(event) => setSupply(event.target.checked)}>
            I have a supply with a current limit
          </Checkbox>
        </div>
      )}
      {!named && options.length === 0 && !nothing && (
        <p>
          {found.data.none_frac > 0.5
            ? "What was read fits no fault known here. Read the last ones again, one by one; then look at the places they are at under a loupe."
            : "Nothing that can be read tells more. Look at what is likeliest under a loupe."}
        </p>
      )}
      {others.length > 0 && (
        <details>
          <summary>{named ? "It was something else" : "I have found it myself"}</summary>
          <ul className="plain-list">
            {others.map((one) => (
              <li key={one.fault}>
                <Button size="small" disabled={recording.busy} onClick={() => void mend(one.fault, "")}>
                  It was: {one.what}
                </Button>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

function Meanings({ meanings, none }: { meanings: SearchView["meanings"]; none: number }) {
  const dangerous = meanings.some((one) => one.dangerous);
  return (
    <section aria-label="What it may be">
      <h3>What it may be</h3>
      <table className="meanings">
        <thead className="sr-only">
          <tr>
            <th scope="col">what it may be</th>
            <th scope="col">chance, drawn</th>
            <th scope="col">chance</th>
          </tr>
        </thead>
        <tbody>
          {meanings.map((one) => (
            <tr key={one.fault}>
              <td>
                <Mark kind={one.dangerous ? "danger" : "caution"} /> {one.what}
                <div className="muted">under power: {one.under_power}</div>
              </td>
              <td className="chance">
                <span className="bar" style={{ width: `${Math.max(100 * one.chance_frac, 1)}%` }} />
              </td>
              <td className="figure">{percent(one.chance_frac)}</td>
            </tr>
          ))}
          <tr>
            <td>
              <Mark kind="note" /> none of these
              <div className="muted">
                {none > 0.5 ? "What was read fits nothing known here: read the last ones again, and look under a loupe." : "Something this list does not know."}
              </div>
            </td>
            <td className="chance">
              <span className="bar" style={{ width: `${Math.max(100 * none, 1)}%` }} />
            </td>
            <td className="figure">{percent(none)}</td>
          </tr>
        </tbody>
      </table>
      {dangerous && <p className="bench-caution">Do not connect the pack before it is found.</p>}
    </section>
  );
}

function Named({ found, busy, mend }: { found: NonNullable<SearchView["found"]>; busy: boolean; mend: (fault: string, note: string) => Promise<void> }) {
  const [note, setNote] = useState("");
  return (
    <div className="next-best is-found">
      <h3>
        {found.sure ? "It is" : "Most likely"}: {found.what} <span className="muted">{percent(found.chance_frac)}</span>
      </h3>
      <p>{found.repair}</p>
      <div className="bench-answer">
        <Input aria-label="what was done" placeholder="what was done (optional)" value={note} onChange={(event) => setNote(event.target.value)} />
        <Button size="large" type="primary" disabled={busy} onClick={() => void mend(found.fault, note)}>
          Mended: do {counted(found.again, "step")} again
        </Button>
      </div>
    </div>
  );
}

function Option({
  option,
  best,
  chosen,
  choose,
  children,
}: {
  option: NextTrial;
  best: boolean;
  chosen: boolean;
  choose: () => void;
  children: React.ReactNode;
}) {
  return (
    <div className={best ? "option is-best" : "option"}>
      <button type="button" className="plain option-title" aria-expanded={chosen} onClick={choose}>
        {option.title}
      </button>
      <span className="muted">
        {" "}
        {option.doing} · {seconds(option.seconds_s)} · {option.bits.toFixed(1)} bit
      </span>
      {(best || chosen) && (
        <ul className="outcomes">
          {option.outcomes.map((one) => (
            <li key={`${one.reads}${one.then}`}>
              {one.reads} ({percent(one.chance_frac)}): {one.then}
            </li>
          ))}
        </ul>
      )}
      {chosen && (
        <>
          <p>{option.how}</p>
          {children}
        </>
      )}
    </div>
  );
}

function TrialReading({
  option,
  step,
  recording,
  training,
  metered,
  done,
}: {
  option: NextTrial;
  step: string;
  recording: Recording;
  training: number | null;
  metered: boolean;
  done: () => void;
}) {
  const [text, setText] = useState("");
  const field = useRef<InputRef>(null);
  const { sample, problem } = useSample(step, option.id, training, metered);
  const read = async (said: string, instrument = "typed") => {
    if (await recording.trial(step, option.id, said, instrument)) done();
  };
  return (
    <Reading
      unit={option.unit}
      beeps={option.unit === "Ω"}
      busy={recording.busy}
      text={text}
      setText={setText}
      field={field}
      read={(said, instrument) => void read(said, instrument)}
      sample={sample}
      trouble={problem}
    />
  );
}
