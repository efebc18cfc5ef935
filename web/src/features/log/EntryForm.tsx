/** An entry written, or corrected: what was measured, seen, changed, or noted; a picture beside it. */
import { Button, Input, Modal } from "antd";
import { useState } from "react";
import { useLogActions, type EntryBody, type EntryKind, type LogLine } from "./useLog";

export const HEADS: Record<EntryKind, string> = {
  measurement: "Measured",
  symptom: "Seen",
  change: "Changed",
  note: "Note",
  evidence: "Evidence",
  flight: "Flight",
};
const ASKED: Record<EntryKind, string> = {
  measurement: "What was measured",
  symptom: "What was seen",
  change: "What was changed",
  note: "What is to be kept",
  evidence: "What is known to be so: board revision, pin-out, parts that work together",
  flight: "What it is called",
};

interface Props {
  kind: EntryKind;
  /** The entry that is corrected. */
  of?: LogLine;
  close: (made?: number) => void;
}

export function EntryForm({ kind, of, close }: Props) {
  const { add, correct, picture } = useLogActions();
  const [body, setBody] = useState<EntryBody>({
    kind,
    title: of?.title ?? "",
    text: of?.text ?? "",
    value: of?.value ?? null,
    unit: of?.unit ?? (kind === "measurement" ? "V" : ""),
    place: of?.place ?? "",
    condition: of?.condition ?? "",
    instrument: of?.instrument ?? "",
    who: of?.who ?? "",
  });
  const [typed, setTyped] = useState(of?.value !== null && of?.value !== undefined ? String(of.value) : "");
  const [file, setFile] = useState<File | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const set = (fields: Partial<EntryBody>) => setBody((now) => ({ ...now, ...fields }));
  const keep = async () => {
    const value = typed.trim() === "" ? null : Number(typed.replace(",", "."));
    if (value !== null && !Number.isFinite(value)) {
      setProblem(`“${typed}” is no number.`);
      return;
    }
    setBusy(true);
    try {
      const entry = of ? of.id : await add({ ...body, value });
      if (of) await correct(of.id, { ...body, value });
      if (file) await picture(entry, file);
      close(entry);
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    } finally {
      setBusy(false);
    }
  };
  const strike = async (entry: LogLine) => {
    setBusy(true);
    try {
      await correct(entry.id, { ...body, title: "", value: null });
      close();
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    } finally {
      setBusy(false);
    }
  };
  const line = (name: "place" | "condition" | "instrument", label: string) => (
    <label>
      {label} <Input size="small" value={body[name] ?? ""} maxLength={120} onChange={(event) => set({ [name]: event.target.value })} />
    </label>
  );
  return (
    <Modal open title={of ? `Correct: ${of.title}` : HEADS[kind]} onCancel={() => close()} footer={null}>
      <div className="log-form">
        <label>
          {ASKED[kind]} <Input autoFocus value={body.title} maxLength={200} onChange={(event) => set({ title: event.target.value })} />
        </label>
        {kind === "measurement" && (
          <>
            <div className="log-value">
              <label>
                value <Input size="small" value={typed} inputMode="decimal" maxLength={24} onChange={(event) => setTyped(event.target.value)} />
              </label>
              <label>
                unit <Input size="small" value={body.unit ?? ""} maxLength={12} onChange={(event) => set({ unit: event.target.value })} />
              </label>
            </div>
            {line("place", "where")}
            {line("condition", "in which condition")}
            {line("instrument", "with which instrument")}
          </>
        )}
        <label>
          more <Input.TextArea rows={3} value={body.text ?? ""} maxLength={8000} onChange={(event) => set({ text: event.target.value })} />
        </label>
        <label>
          picture <input type="file" accept="image/png,image/jpeg" onChange={(event) => setFile(event.target.files?.[0] ?? null)} />
        </label>
        {problem && (
          <p role="alert" className="quantity-problem">
            {problem}
          </p>
        )}
        <div>
          <Button type="primary" loading={busy} disabled={body.title.trim() === ""} onClick={() => void keep()}>
            Keep it
          </Button>{" "}
          {of && (
            <Button loading={busy} onClick={() => void strike(of)} title="It leaves the log, and stays in the file as it was first written">
              Strike it out
            </Button>
          )}
        </div>
      </div>
    </Modal>
  );
}
