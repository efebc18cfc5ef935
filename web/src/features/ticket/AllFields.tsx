/** Every plain field of an element, to change as typed. What has a unit is read with its unit. */
import { CHOICES, FIELD_WORDS, FLAGS, UNIT_OF_SUFFIX } from "@/shared/api/constants";
import type { Edit } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanState } from "@/shared/plan/usePlan";
import { Choice } from "./Choice";
import { QuantityField } from "./QuantityField";

/** The schema whose fields an element of a sort has. */
const SCHEMA = {
  supply: "Regulator",
  board: "Board",
  device: "Device",
  inlet: "Inlet",
  cells: "Cells",
  rail: "Rail",
  pack: "Pack",
  pad: "Pad",
  pin: "Pin",
  filter: "CapacitorFilter",
  clamp: "Clamp",
} as const;

function choicesOf(what: keyof typeof SCHEMA, field: string): readonly string[] | undefined {
  const known = (CHOICES as Record<string, readonly string[]>)[`${SCHEMA[what]}.${field}`];
  // A port does not become a cell: that is made of something a port has no fields for.
  return what === "inlet" && field === "kind" ? known?.filter((one) => one !== "cell") : known;
}

/** What is no value of its own: ids, and whole parts (wires, LEDs, bursts) that have fields of their own where they are there. */
const HIDDEN = new Set(["id", "part", "way", "feed", "lead", "led", "burst", "compass", "motors", "trace", "wire"]);

const UNSAID = "";

type Plain = Record<string, unknown>;

interface Props {
  element: string;
  what: keyof typeof SCHEMA;
  value: Plain;
  /** Dotted path of `value` inside the element. */
  at?: string;
  /** Fields shown elsewhere on the ticket. */
  without?: string[];
}

function words(field: string): string {
  return FIELD_WORDS[field] ?? field.replaceAll("_", " ");
}

/** Elements a field may point at, by name; undefined for a field that points at nothing. */
function targets(view: ReturnType<typeof usePlanState>["view"], field: string): { value: string; label: string }[] | undefined {
  const named = (ids: string[]) => ids.map((id) => ({ value: id, label: elementName(view, id) }));
  const rails = view.plan.rails.map((r) => r.id);
  const devices = (view.plan.devices ?? []).map((d) => d.id);
  const boards = view.plan.boards.map((b) => b.id);
  return {
    at: named([...rails, ...devices]),
    rail: named(rails),
    output: named(rails),
    input: named([...rails, ...devices]),
    board: named([...boards, ...devices]),
  }[field];
}

export function AllFields({ element, what, value, at = "", without = [] }: Props) {
  const rows = Object.entries(value).filter(
    ([name, v]) => !HIDDEN.has(name) && !without.includes(name) && (v === null || ["string", "number", "boolean"].includes(typeof v)),
  );
  return (
    <details className="wiring">
      <summary>All fields{at ? ` of the ${words(at)}` : ""}</summary>
      <div className="fields">
        {rows.map(([name, v]) => (
          <Field key={name} element={element} what={what} name={name} path={at ? `${at}.${name}` : name} value={v} />
        ))}
      </div>
    </details>
  );
}

function Field({ element, what, name, path, value }: { element: string; what: keyof typeof SCHEMA; name: string; path: string; value: unknown }) {
  const { view } = usePlanState();
  const options = choicesOf(what, name);
  const elements = typeof value === "string" ? targets(view, name) : undefined;
  const set = (next: unknown): Edit[] => [{ op: "set", element, field: path, value: next as never }];
  const flag = FLAGS.includes(`${SCHEMA[what]}.${name}`);
  if (typeof value === "boolean" || flag) {
    return (
      <Choice
        label={words(name)}
        value={typeof value === "boolean" ? (value ? "yes" : "no") : UNSAID}
        options={[...(flag ? [{ value: UNSAID, label: "not said" }] : []), { value: "yes", label: "yes" }, { value: "no", label: "no" }]}
        edits={(next) => set(next === UNSAID ? null : next === "yes")}
      />
    );
  }
  if (options && typeof value === "string" && options.includes(value)) {
    return <Choice label={words(name)} value={value} options={options.map((one) => ({ value: one, label: one }))} edits={set} />;
  }
  if (elements && typeof value === "string") return <Choice label={words(name)} value={value} options={elements} edits={set} />;
  const unit = UNIT_OF_SUFFIX[name.split("_").at(-1) ?? ""];
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
