/** A recorder's table before it is kept: its first rows, and what each column is, to be confirmed. */
import { Alert, Button, Input, Modal, Select, Spin } from "antd";
import { useEffect, useState } from "react";
import { CHOICES } from "@/shared/api/constants";
import { useLogActions, type Confirmed, type TableView } from "./useLog";

type Role = Confirmed["role"];
const ROLES: readonly Role[] = CHOICES["Confirmed.role"];
const NONE = "";
const UNIT_WORDS: Record<string, string> = {
  "": "part of one", us: "1000–2000 µs", "µs": "1000–2000 µs", cv: "hundredths of a volt", dv: "tenths of a volt", ca: "hundredths of an ampere",
  da: "tenths of an ampere", ma: "mA", a: "A", v: "V", mv: "mV", mah: "mAh", ah: "Ah", c: "°C", dc: "tenths of °C",
}; // prettier-ignore

interface Choice {
  role: Role | "";
  unit: string;
  rail: string | null;
}

export function FlightReader({ file, close }: { file: File; close: (made?: number) => void }) {
  const { look, keep } = useLogActions();
  const [text, setText] = useState("");
  const [table, setTable] = useState<TableView | null>(null);
  const [choices, setChoices] = useState<Choice[]>([]);
  const [name, setName] = useState(file.name.replace(/\.[^.]*$/, "").slice(0, 80));
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    void (async () => {
      try {
        const read = await decoded(file);
        const found = await look(read);
        setText(read);
        setTable(found);
        setChoices(found.guesses.map((one) => ({ role: one.role ?? NONE, unit: one.unit, rail: one.rail ?? null })));
      } catch (caught) {
        setProblem(caught instanceof Error ? caught.message : String(caught));
      }
    })();
    // A file is read once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [file]);
  const set = (index: number, fields: Partial<Choice>) => setChoices((now) => now.map((one, at) => (at === index ? { ...one, ...fields } : one)));
  const store = async () => {
    setBusy(true);
    setProblem(null);
    try {
      const columns = choices.flatMap((one, index) => (one.role ? [{ index, role: one.role, unit: one.unit, rail: one.rail }] : []));
      close(await keep(name.trim() || "Flight", text, columns));
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal open title={`Read a flight: ${file.name}`} onCancel={() => close()} footer={null} width={980}>
      {!table && !problem && <Spin size="small" />}
      {table && (
        <div className="log-form">
          <label>
            called <Input size="small" value={name} maxLength={80} onChange={(event) => setName(event.target.value)} style={{ maxWidth: 320 }} />
          </label>
          <p className="muted">{table.rows.toLocaleString("en")} rows. Look whether each column is what it says; what is left out is not read.</p>
          <div className="wide">
            <table className="log-columns">
              <thead>
                <tr>
                  <th scope="col">column</th>
                  <th scope="col">is</th>
                  <th scope="col">in</th>
                  <th scope="col">first rows</th>
                  <th scope="col"> </th>
                </tr>
              </thead>
              <tbody>
                {table.heading.map((heading, index) => {
                  const choice = choices[index];
                  const guess = table.guesses[index];
                  if (!choice || !guess) return null;
                  return (
                    <tr key={index}>
                      <th scope="row">{heading}</th>
                      <td>
                        <Select<Role | "">
                          size="small"
                          aria-label={`what ${heading} is`}
                          value={choice.role}
                          style={{ width: 120 }}
                          options={[{ value: NONE, label: "left out" }, ...ROLES.map((value) => ({ value, label: value }))]}
                          onChange={(role) => set(index, { role, unit: table.units[role]?.[0] ?? "" })}
                        />
                      </td>
                      <td>
                        {choice.role && (
                          <Select
                            size="small"
                            aria-label={`unit of ${heading}`}
                            value={choice.unit}
                            style={{ width: 150 }}
                            options={(table.units[choice.role] ?? []).map((value) => ({ value, label: UNIT_WORDS[value] ?? value }))}
                            onChange={(unit) => set(index, { unit })}
                          />
                        )}
                        {choice.role === "rail volts" && (
                          <Select
                            size="small"
                            aria-label={`rail of ${heading}`}
                            value={choice.rail ?? NONE}
                            style={{ width: 150 }}
                            options={[{ value: NONE, label: "no rail of the plan" }, ...table.rails.map((one) => ({ value: one.id, label: one.name }))]}
                            onChange={(rail) => set(index, { rail: rail === NONE ? null : rail })}
                          />
                        )}
                      </td>
                      <td className="log-first">
                        {table.first
                          .slice(0, 5)
                          .map((row) => row[index] ?? "")
                          .join(" · ")}
                      </td>
                      <td className="log-doubt">{choice.role === (guess.role ?? NONE) && choice.unit === guess.unit ? guess.doubt : ""}</td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </div>
          <div>
            <Button type="primary" loading={busy} onClick={() => void store()}>
              Keep the flight
            </Button>
          </div>
        </div>
      )}
      {problem && <Alert type="error" title={problem} />}
    </Modal>
  );
}

/** The text of a file, in whatever it was written: by its mark, or by its zeros. */
async function decoded(file: File): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const zeros = (start: number) => bytes.slice(0, 200).filter((one, at) => at % 2 === start && one === 0).length;
  const wide = bytes[0] === 0xff || zeros(1) > 25 ? "utf-16le" : bytes[0] === 0xfe || zeros(0) > 25 ? "utf-16be" : "utf-8";
  try {
    return new TextDecoder(wide, { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder("latin1").decode(bytes);
  }
}
