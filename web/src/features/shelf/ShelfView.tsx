/** The shelf: search, filter, put into the plan, parts of one's own, CSV in and out. */
import { CHOICES } from "@/shared/api/constants";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Input, InputNumber, Segmented, Select, Spin } from "antd";
import { useDeferredValue, useRef, useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { counted, railTitle } from "@/shared/ui/format";
import { facts, type Part } from "./facts";
import { PartEditor } from "./PartEditor";
import "./shelf.css";

const KINDS = ["all", ...CHOICES["Part.kind"]] as const;
type Kind = (typeof KINDS)[number];
const PLACED = ["device", "bec", "board", "pack", "clamp", "diode"];
const ON_A_RAIL = new Set<Kind>(["device", "clamp", "diode"]);

/** One part as its file holds it; the server judges what is in it. */
function partOf(text: string, name: string): Part {
  try {
    return JSON.parse(text) as Part;
  } catch {
    throw new Error(`${name} is no JSON: nothing was read. Choose a file that was saved as a part, or a CSV of parts.`);
  }
}

export function ShelfView() {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const { place: putIn } = usePlanActions();
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const [kind, setKind] = useState<Kind>("all");
  const [rail, setRail] = useState<string>(
    view.plan.rails.some((r) => r.id === selected) ? (selected ?? "") : (view.plan.rails.find((r) => r.nominal_v)?.id ?? view.plan.pack.rail),
  );
  const [editing, setEditing] = useState<Part | "new" | null>(null);
  const [said, setSaid] = useState<{ kind: "success" | "error"; title: string; lines: string[] } | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const q = useDeferredValue(text);
  const found = useQuery({
    queryKey: ["shelf", q, kind],
    placeholderData: (before) => before,
    queryFn: () => call(client.GET("/api/shelf", { params: { query: { q, kind: kind === "all" ? undefined : kind } } })),
  });
  const problem = (caught: unknown) => {
    const body = caught instanceof ApiError ? caught.body : null;
    const lines = (body?.problems ?? []).slice(0, 8).map((p) => `${p.where}: ${p.what} ${p.remedy}`);
    setSaid({ kind: "error", title: body ? `${body.what} ${lines.length > 0 ? "" : body.remedy}` : (caught as Error).message, lines });
  };
  const place = async (part: Part) => {
    try {
      await putIn({ part: part.key, rail: ON_A_RAIL.has(part.kind) ? rail : null });
      setSaid({ kind: "success", title: `${part.name} is in the plan.`, lines: [] });
    } catch (caught) {
      problem(caught);
    }
  };
  const read = async (picked: File | undefined) => {
    if (!picked) return;
    try {
      const text = await picked.text();
      if (picked.name.toLowerCase().endsWith(".json")) {
        const part = await call(client.POST("/api/shelf", { body: partOf(text, picked.name) }));
        setSaid({ kind: "success", title: `${part.part.name} read from ${picked.name}.`, lines: [] });
      } else {
        const { count } = await call(client.POST("/api/shelf/csv", { body: { text } }));
        setSaid({ kind: "success", title: `${counted(count, "part")} read from ${picked.name}.`, lines: [] });
      }
      // A search that was asked before the part was there is asked again, also where it is still on its way.
      void queries.cancelQueries({ queryKey: ["shelf"] }).then(() => queries.invalidateQueries({ queryKey: ["shelf"] }));
    } catch (caught) {
      problem(caught);
    }
    if (file.current) file.current.value = "";
  };
  const shown = found.data?.find((p) => editing !== null && editing !== "new" && p.part.key === editing.key);
  return (
    <div className="shelf">
      <div className="shelf-tools">
        <Input.Search
          allowClear
          placeholder="Search parts: words, volts, amps"
          aria-label="Search parts"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Button onClick={() => setEditing("new")}>New part</Button>
        <Button href="/api/shelf/csv">Parts as CSV</Button>
        <Button onClick={() => file.current?.click()}>Read parts…</Button>
        <input
          ref={file}
          type="file"
          accept=".csv,.json,text/csv,application/json"
          hidden
          aria-label="Parts file"
          onChange={(event) => void read(event.target.files?.[0])}
        />
      </div>
      <div className="shelf-tools">
        <div className="wide">
          <Segmented<Kind> options={[...KINDS]} value={kind} onChange={setKind} aria-label="Kind" />
        </div>
        <label>
          put what is added on{" "}
          <Select
            size="small"
            aria-label="Rail for new devices"
            value={rail}
            onChange={setRail}
            options={view.plan.rails.map((r) => ({ value: r.id, label: railTitle(r.name) }))}
            popupMatchSelectWidth={false}
          />
        </label>
      </div>
      {said && (
        <Alert
          type={said.kind}
          title={said.title}
          description={
            said.lines.length > 0 ? (
              <ul>
                {said.lines.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
            ) : undefined
          }
          closable={{ onClose: () => setSaid(null) }}
        />
      )}
      {found.isPending && <Spin />}
      {found.error && <Alert type="error" title={found.error.message} />}
      <p className="muted" role="status">
        {found.data ? `${found.data.length} ${found.data.length === 1 ? "part" : "parts"}` : ""}
      </p>
      <div className="wide">
        <table>
          <tbody>
            {(found.data ?? []).map(({ part, own, owned }) => (
              <tr key={part.key}>
                <th scope="row">
                  {part.name} {own && <span className="own">own</span>}
                </th>
                <td>{facts(part)}</td>
                <td>{part.weight_g ? `${part.weight_g} g` : ""}</td>
                <td>{part.provenance}</td>
                <td>{DRAWER.includes(part.kind) && <Drawer part={part} owned={owned} />}</td>
                <td className="shelf-actions">
                  {PLACED.includes(part.kind) && (
                    <Button
                      size="small"
                      onClick={() => void place(part)}
                      aria-label={part.kind === "pack" ? `Use ${part.name} in the plan` : `Add ${part.name} to the plan`}
                    >
                      {part.kind === "pack" ? "Use" : "Add"}
                    </Button>
                  )}
                  <Button size="small" onClick={() => setEditing(part)} aria-label={`Open ${part.name}`}>
                    Open
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {found.data?.length === 0 && <p>Nothing on the shelf has all these words. Use fewer, or make a part of your own.</p>}
      {editing && (
        <PartEditor part={editing === "new" ? null : editing} own={shown?.own ?? true} version={shown?.version ?? 1} close={() => setEditing(null)} />
      )}
    </div>
  );
}

const DRAWER: readonly Part["kind"][] = ["bec", "capacitor", "filter"];

/** How many of a part are there already: layouts use those first. */
function Drawer({ part, owned }: { part: Part; owned: number }) {
  const queries = useQueryClient();
  const keep = async (count: number | null) => {
    await call(client.PUT("/api/shelf/{key}/drawer", { params: { path: { key: part.key } }, body: { count: count ?? 0 } }));
    await queries.invalidateQueries({ queryKey: ["shelf"] });
  };
  return (
    <label className="muted">
      in my drawer{" "}
      <InputNumber<number>
        size="small"
        min={0}
        max={10000}
        value={owned}
        onChange={(count) => void keep(count)}
        aria-label={`${part.name} in my drawer`}
        style={{ width: 60 }}
      />
    </label>
  );
}
