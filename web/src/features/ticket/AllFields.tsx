/** Every plain field of an element, to change as typed. What has a unit is read with its unit. */
import type { Edit } from "@/shared/api/types";
import { Choice } from "./Choice";
import { QuantityField } from "./QuantityField";

const UNITS: Record<string, string> = { v: "V", a: "A", ohm: "Ω", m: "m", f: "F", s: "s", g: "g" };
const CHOICES: Record<string, string[]> = {
  "supply.kind": ["linear", "buck", "boost", "buckboost"],
  place: ["board", "esc", "alone", "device"],
  fails: ["open", "short"],
  provenance: ["measured", "sheet", "reported", "guess"],
  law: ["current", "power", "resistance", "led"],
  chemistry: ["lipo", "lihv", "liion"],
  "board.kind": ["power", "controller", "esc", "regulator", "other"],
  "device.kind": ["camera", "sender", "digital", "receiver", "gnss", "led", "servo", "recorder", "computer", "sensor", "motor", "logic", "other"],
  "inlet.kind": ["usb", "bench", "lamp", "fuse"],
  direction: ["out", "in"],
  dielectric: ["electrolytic", "polymer", "tantalum", "c0g", "x7r", "x5r"],
  pinout: ["unverified", "document", "print", "measured"],
  input_levels: ["ttl", "cmos"],
};
const HIDDEN = new Set(["id", "part"]);

type Plain = Record<string, unknown>;

interface Props {
  element: string;
  what: "supply" | "board" | "device" | "inlet" | "rail" | "pack" | "pad" | "pin" | "filter";
  value: Plain;
  /** Dotted path of `value` inside the element. */
  at?: string;
  /** Fields shown elsewhere on the ticket. */
  without?: string[];
}

function words(field: string): string {
  const parts = field.split("_");
  if (parts.length > 1 && UNITS[parts.at(-1) ?? ""]) parts.pop();
  return parts.join(" ");
}

export function AllFields({ element, what, value, at = "", without = [] }: Props) {
  const rows = Object.entries(value).filter(([name, v]) => !HIDDEN.has(name) && !without.includes(name) && (v === null || ["string", "number", "boolean"].includes(typeof v)));
  return (
    <details className="wiring">
      <summary>All fields{at ? ` of ${at}` : ""}</summary>
      <div className="fields">
        {rows.map(([name, v]) => (
          <Field key={name} element={element} what={what} name={name} path={at ? `${at}.${name}` : name} value={v} />
        ))}
      </div>
    </details>
  );
}

function Field({ element, what, name, path, value }: { element: string; what: string; name: string; path: string; value: unknown }) {
  const options = CHOICES[`${what}.${name}`] ?? CHOICES[name];
  const set = (next: unknown): Edit[] => [{ op: "set", element, field: path, value: next as never }];
  if (typeof value === "boolean") {
    return (
      <Choice
        label={words(name)}
        value={value ? "yes" : "no"}
        options={[
          { value: "yes", label: "yes" },
          { value: "no", label: "no" },
        ]}
        edits={(next) => set(next === "yes")}
      />
    );
  }
  if (options && typeof value === "string" && options.includes(value)) {
    return <Choice label={words(name)} value={value} options={options.map((one) => ({ value: one, label: one }))} edits={set} />;
  }
  const unit = UNITS[name.split("_").at(-1) ?? ""];
  const stored = value === null ? "" : unit && typeof value === "number" ? `${Number(value.toPrecision(6))}${unit}` : String(value);
  const edits = (text: string): Edit[] => {
    if (text.trim() === "") return set(null);
    if (unit && typeof value !== "string") return [{ op: "set_quantity", element, field: path, text }];
    if (typeof value === "number") {
      const typed = Number(text.replace(",", "."));
      return set(Number.isNaN(typed) ? text : typed);
    }
    return set(text);
  };
  return <QuantityField label={words(name)} field={`${element}:${path}`} stored={stored} edits={edits} />;
}
