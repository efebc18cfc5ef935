/** Where a reading comes from: typed, said with a button, or shown by the instrument. */
import { Alert, Button, Input, type InputRef } from "antd";
import type { RefObject } from "react";
import type { Sample } from "./useMeter";

interface Props {
  unit: string;
  /** Whether it is only asked if it beeps. */
  beeps: boolean;
  busy: boolean;
  text: string;
  setText: (text: string) => void;
  field: RefObject<InputRef | null>;
  read: (text: string, instrument?: string) => void;
  sample: Sample | null;
  trouble: string | null;
}

const TROUBLE: Record<string, string> = {
  unreachable: "The instrument is gone: look at its cable and its power. Readings can be typed meanwhile.",
  silent: "The instrument says nothing: it may be busy, or set to another interface. Readings can be typed meanwhile.",
  nonsense: "What the instrument says is no reading. Readings can be typed meanwhile.",
};

export function Reading({ unit, beeps, busy, text, setText, field, read, sample, trouble }: Props) {
  const shown = sample && (sample.state === "ok" || sample.state === "open");
  return (
    <>
      {sample && (
        <div className={shown ? "display" : "display is-dark"} role="status" aria-label="The instrument shows">
          <strong>{shown ? display(sample, unit) : "– – –"}</strong>
          <span>{sample.waits || (sample.steady ? "steady" : "")}</span>
        </div>
      )}
      {sample && !shown && <Alert type="warning" title={TROUBLE[sample.state] ?? sample.state} description={sample.said && `It said “${sample.said}”.`} />}
      {trouble && <Alert type="warning" title={trouble} />}
      <div className="bench-answer">
        {shown && (
          <Button size="large" type="primary" disabled={busy || !sample.kept} onClick={() => read(sample.text, sample.instrument)}>
            Keep {display(sample, unit)}
          </Button>
        )}
        <Input
          ref={field}
          size="large"
          aria-label="reading"
          placeholder={unit === "Ω" ? "0.3, 1.2k, OL, beep" : unit}
          suffix={unit}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onPressEnter={() => read(text)}
        />
        <Button size="large" type={sample?.kept ? "default" : "primary"} disabled={busy || !text.trim()} onClick={() => read(text)}>
          Enter
        </Button>
        {beeps && (
          <>
            <Button size="large" disabled={busy} onClick={() => read("beep")} title="Y">
              It beeps
            </Button>
            <Button size="large" disabled={busy} onClick={() => read("silent")} title="N">
              Silent
            </Button>
          </>
        )}
      </div>
    </>
  );
}

function display(sample: Sample, unit: string): string {
  return sample.value === null ? "OL" : `${sample.text} ${unit}`;
}
