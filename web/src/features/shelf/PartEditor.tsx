/** One part: its numbers to change, where it is used, and the offer to bring plans up to date. Nothing changes silently. */
import { CHOICES } from "@/shared/api/constants";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Input, Modal, Select } from "antd";
import { useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { drawText } from "@/shared/ui/format";
import { facts, type Part } from "./ShelfView";

interface Props {
  part: Part | null;
  own: boolean;
  /** As it is on screen: saving over somebody else's change is refused. */
  version: number;
  close: () => void;
}

type Form = Record<"name" | "note" | "weight" | "kind" | "nominal" | "min" | "max" | "brownout" | "idle" | "typical" | "peak" | "set" | "rating" | "input", string>;
const DEVICE_KINDS = CHOICES["Device.kind"].filter((one) => one !== "motor");
type DeviceKind = (typeof DEVICE_KINDS)[number];

function start(part: Part | null): Form {
  const d = part?.device;
  return {
    name: part?.name ?? "",
    note: part?.note ?? "",
    weight: String(part?.weight_g ?? 0),
    kind: d?.kind ?? "camera",
    nominal: String(d?.nominal_v ?? 5),
    min: String(d?.min_v ?? 4.5),
    max: String(d?.max_v ?? 5.5),
    brownout: d?.brownout_v ? String(d.brownout_v) : "",
    idle: d ? drawText(d.draws.idle) : "50mA",
    typical: d ? drawText(d.draws.typical) : "100mA",
    peak: d ? drawText(d.draws.peak) : "150mA",
    set: String(part?.bec?.set_v ?? ""),
    rating: String(part?.bec?.rating_a ?? ""),
    input: String(part?.bec?.input_max_v ?? ""),
  };
}

/** A draw as typed, read by the core's parser; its complaint names the state. */
function readDraw(state: string, text: string, provenance: Part["provenance"]) {
  return call(client.POST("/api/shelf/draw", { body: { text, provenance: provenance ?? "sheet" } })).catch((caught: unknown) => {
    throw new Error(`${state} draw: ${caught instanceof ApiError ? caught.message : String(caught)}`);
  });
}

export function PartEditor({ part, own, version, close }: Props) {
  const { view } = usePlanState();
  const { reload } = usePlanActions();
  const queries = useQueryClient();
  const [form, setForm] = useState<Form>(() => start(part));
  const [problem, setProblem] = useState<string | null>(null);
  const [saved, setSaved] = useState(false);
  const used = useQuery({
    queryKey: ["used", part?.key, view.revision],
    enabled: part !== null,
    queryFn: () => call(client.GET("/api/shelf/{key}/used", { params: { path: { key: part?.key ?? "" } } })),
  });
  const device = part === null || part.device;
  const field = (name: keyof Form, label: string) => (
    <label key={name}>
      {label} <Input size="small" value={form[name]} onChange={(event) => setForm({ ...form, [name]: event.target.value })} />
    </label>
  );
  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setProblem(null);
      void queries.invalidateQueries({ queryKey: ["shelf"] });
      return true;
    } catch (caught) {
      setProblem(caught instanceof ApiError ? [caught.body.where ? `${caught.body.where}:` : "", caught.body.what, caught.body.remedy].filter(Boolean).join(" ") : String((caught as Error).message));
      return false;
    }
  };
  const body = async (): Promise<Part> => {
    const number = (text: string, what: string) => {
      const value = Number(text.replace(",", "."));
      if (text.trim() === "" || Number.isNaN(value)) throw new Error(`${what}: “${text}” is not a number.`);
      return value;
    };
    const key = part?.key ?? `own-${form.name.toLowerCase().replaceAll(/[^a-z0-9]+/g, "-").replaceAll(/^-|-$/g, "") || "part"}`.slice(0, 60);
    const common = { key, name: form.name, note: form.note, weight_g: number(form.weight, "weight"), provenance: part?.provenance ?? ("sheet" as const) };
    if (part && !part.device) {
      const bec = part.bec && { ...part.bec, set_v: number(form.set, "output"), rating_a: number(form.rating, "rating"), input_max_v: number(form.input, "input") };
      return { ...part, ...common, ...(bec ? { bec } : {}) };
    }
    const base = part?.device ?? { id: key, law: "current" as const };
    const [idle, typical, peak] = await Promise.all(CHOICES["SetDraw.state"].map((state) => readDraw(state, form[state], common.provenance)));
    if (!idle || !typical || !peak) throw new Error("A device needs its three draws.");
    const draws = { idle, typical, peak };
    return {
      ...part,
      ...common,
      kind: "device",
      device: {
        ...base,
        name: form.name,
        kind: form.kind as DeviceKind,
        law: draws.peak.unit === "W" && base.law === "current" ? "power" : base.law,
        nominal_v: number(form.nominal, "nominal volts"),
        min_v: number(form.min, "least volts"),
        max_v: number(form.max, "most volts"),
        brownout_v: form.brownout.trim() ? number(form.brownout, "resets below") : null,
        draws,
      },
    } as Part;
  };
  const save = async () => {
    const done = await attempt(async () => {
      const wanted = await body();
      await (part
        ? call(client.PUT("/api/shelf/{key}", { params: { path: { key: part.key } }, body: { part: wanted, version } }))
        : call(client.POST("/api/shelf", { body: wanted })));
    });
    if (done) {
      if (part && (used.data ?? []).length > 0) setSaved(true);
      else close();
    }
  };
  return (
    <Modal
      open
      onCancel={close}
      title={part ? part.name : "New part"}
      footer={[
        part && own ? (
          <Button key="remove" danger onClick={() => void attempt(() => call(client.DELETE("/api/shelf/{key}", { params: { path: { key: part.key } } }))).then((done) => done && close())}>
            Remove from the shelf
          </Button>
        ) : null,
        <Button key="close" onClick={close}>
          Close
        </Button>,
        <Button key="save" type="primary" onClick={() => void save()}>
          {part && !own ? "Save as my own" : "Save"}
        </Button>,
      ]}
    >
      {problem && <Alert type="error" title={problem} />}
      {part && <p className="muted">{facts(part)}</p>}
      <div className="part-form">
        {field("name", "name")}
        {field("weight", "weight, g")}
        {device && !part?.device?.throttle?.length && (
          <>
            <label>
              kind{" "}
              <Select size="small" value={form.kind} options={DEVICE_KINDS.map((value) => ({ value, label: value }))} onChange={(kind) => setForm({ ...form, kind })} />
            </label>
            {field("nominal", "nominal, V")}
            {field("min", "from, V")}
            {field("max", "to, V")}
            {field("brownout", "resets below, V")}
            {field("idle", "idle draw")}
            {field("typical", "typical draw")}
            {field("peak", "peak draw")}
          </>
        )}
        {part?.bec && (
          <>
            {field("set", "output, V")}
            {field("rating", "printed rating, A")}
            {field("input", "most input, V")}
          </>
        )}
        {field("note", "note")}
      </div>
      {part && (
        <>
          <h3>Used in</h3>
          {(used.data ?? []).length === 0 && <p>No plan uses it.</p>}
          <ul>
            {(used.data ?? []).map((use) => (
              <li key={use.plan}>
                {use.build}, {use.name}{" "}
                {saved && (
                  <Button
                    size="small"
                    onClick={() => void attempt(() => call(client.POST("/api/shelf/{key}/update/{plan_id}", { params: { path: { key: part.key, plan_id: use.plan } } }))).then((done) => done && reload())}
                  >
                    Bring this plan up to date
                  </Button>
                )}
              </li>
            ))}
          </ul>
          {saved && <p>The part is saved. Plans keep their old numbers until you bring them up to date; that can be undone there.</p>}
        </>
      )}
    </Modal>
  );
}
