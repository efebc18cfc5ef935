/** One part: its numbers to change, where it is used, and the offer to bring plans up to date. Nothing changes silently. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Input, InputNumber, Modal, Segmented } from "antd";
import { useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { drawText } from "@/shared/ui/format";
import { BoardForm } from "./BoardForm";
import { EMPTY_BOARD } from "./boards";
import { DeviceForm, type ShelfDevice } from "./DeviceForm";
import { facts, type Part } from "./facts";

interface Props {
  part: Part | null;
  own: boolean;
  /** As it is on screen: saving over somebody else's change is refused. */
  version: number;
  close: () => void;
}

const STATES = ["idle", "typical", "peak", "boot", "off"] as const;
type Texts = Record<(typeof STATES)[number], string>;
const NEW_DEVICE: ShelfDevice = {
  id: "own",
  name: "My device",
  kind: "camera",
  nominal_v: 5,
  min_v: 4.5,
  max_v: 5.5,
  draws: { idle: { value: 0.05, unit: "A" }, typical: { value: 0.1, unit: "A" }, peak: { value: 0.15, unit: "A" } },
} as ShelfDevice;
const NEW: Part = { key: "own", name: "", kind: "device", note: "", weight_g: 0, provenance: "sheet", device: NEW_DEVICE } as Part;

function textsOf(device: ShelfDevice | null | undefined): Texts {
  return Object.fromEntries(STATES.map((state) => [state, device?.draws[state] ? drawText(device.draws[state]) : ""])) as Texts;
}

/** A draw as typed, read by the core's parser; its complaint names the state. */
function readDraw(state: string, text: string, provenance: Part["provenance"]) {
  return call(client.POST("/api/shelf/draw", { body: { text, provenance: provenance ?? "sheet" } })).catch((caught: unknown) => {
    throw new Error(`${state} draw: ${caught instanceof ApiError ? caught.message : String(caught)}`);
  });
}

/** The part with its draws as typed, under the name and key it is to be kept by. */
async function finished(draft: Part, texts: Texts, key: string): Promise<Part> {
  const common = { ...draft, key, name: draft.name.trim() };
  if (draft.board) return { ...common, board: { ...draft.board, board: { ...draft.board.board, name: common.name } } };
  if (!draft.device || draft.device.throttle?.length) return common;
  const entries = await Promise.all(
    STATES.map(
      async (state) =>
        [state, texts[state].trim() === "" && (state === "boot" || state === "off") ? null : await readDraw(state, texts[state], draft.provenance)] as const,
    ),
  );
  const draws = Object.fromEntries(entries) as ShelfDevice["draws"];
  const base = draft.device;
  return {
    ...common,
    device: { ...base, name: common.name, law: draws.peak.unit === "W" && (base.law ?? "current") === "current" ? "power" : base.law, draws },
  };
}

/** The key it has, or one made from its name. */
function keyOf(part: Part | null, draft: Part): string {
  return (
    part?.key ??
    `own-${
      draft.name
        .toLowerCase()
        .replaceAll(/[^a-z0-9]+/g, "-")
        .replaceAll(/^-|-$/g, "") || "part"
    }`.slice(0, 60)
  );
}

/** The part as a file of its own, to be read on another shelf. */
function keepFile(part: Part) {
  const address = URL.createObjectURL(new Blob([JSON.stringify(part, null, 1)], { type: "application/json" }));
  Object.assign(document.createElement("a"), { href: address, download: `${part.key}.json` }).click();
  URL.revokeObjectURL(address);
}

export function PartEditor({ part, own, version, close }: Props) {
  const { view } = usePlanState();
  const { reload } = usePlanActions();
  const queries = useQueryClient();
  const [draft, setDraft] = useState<Part>(() => part ?? NEW);
  const [texts, setTexts] = useState<Texts>(() => textsOf((part ?? NEW).device));
  const [problem, setProblem] = useState<string | null>(null);
  const [saved, setSaved] = useState(false);
  const used = useQuery({
    queryKey: ["used", part?.key, view.revision],
    enabled: part !== null,
    queryFn: () => call(client.GET("/api/shelf/{key}/used", { params: { path: { key: part?.key ?? "" } } })),
  });
  const change = (fields: Partial<Part>) => setDraft({ ...draft, ...fields });
  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setProblem(null);
      // A search that was asked before the part was there is asked again, also where it is still on its way.
      void queries.cancelQueries({ queryKey: ["shelf"] }).then(() => queries.invalidateQueries({ queryKey: ["shelf"] }));
      return true;
    } catch (caught) {
      setProblem(
        caught instanceof ApiError
          ? [caught.body.where ? `${caught.body.where}:` : "", caught.body.what, caught.body.remedy].filter(Boolean).join(" ")
          : String((caught as Error).message),
      );
      return false;
    }
  };
  const save = async () => {
    const done = await attempt(async () => {
      if (draft.name.trim() === "") throw new Error("name: a part needs one, to be found by.");
      const wanted = await finished(draft, texts, keyOf(part, draft));
      await (part
        ? call(client.PUT("/api/shelf/{key}", { params: { path: { key: part.key } }, body: { part: wanted, version } }))
        : call(client.POST("/api/shelf", { body: wanted })));
    });
    if (done) {
      if (part && (used.data ?? []).length > 0) setSaved(true);
      else close();
    }
  };
  const becNumber = (field: "set_v" | "rating_a" | "input_max_v", label: string) => (
    <label>
      {label}{" "}
      <InputNumber
        size="small"
        aria-label={label}
        controls={false}
        value={draft.bec?.[field] ?? null}
        onChange={(value) => draft.bec && value !== null && change({ bec: { ...draft.bec, [field]: value } })}
      />
    </label>
  );
  return (
    <Modal
      open
      width={draft.board || draft.device ? 720 : 520}
      onCancel={close}
      title={part ? part.name : "New part"}
      footer={[
        part && own ? (
          <Button
            key="remove"
            danger
            onClick={() => void attempt(() => call(client.DELETE("/api/shelf/{key}", { params: { path: { key: part.key } } }))).then((done) => done && close())}
          >
            Remove from the shelf
          </Button>
        ) : null,
        <Button key="file" onClick={() => void attempt(async () => keepFile(await finished(draft, texts, keyOf(part, draft))))}>
          Part as a file
        </Button>,
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
      {!part && (
        <Segmented
          aria-label="What it is"
          options={[
            { value: "device", label: "A device" },
            { value: "board", label: "A board" },
          ]}
          value={draft.kind}
          onChange={(kind) =>
            setDraft(
              kind === "board"
                ? { ...draft, kind: "board", device: null, board: EMPTY_BOARD, outputs: [] }
                : { ...draft, kind: "device", board: null, device: NEW_DEVICE },
            )
          }
        />
      )}
      <div className="part-form">
        <label>
          name <Input size="small" value={draft.name} onChange={(event) => change({ name: event.target.value })} />
        </label>
        <label>
          weight, g{" "}
          <InputNumber
            size="small"
            aria-label="weight, g"
            controls={false}
            value={draft.weight_g ?? 0}
            onChange={(weight) => change({ weight_g: weight ?? 0 })}
          />
        </label>
        <label>
          note <Input size="small" value={draft.note ?? ""} onChange={(event) => change({ note: event.target.value })} />
        </label>
        {draft.bec && (
          <>
            {becNumber("set_v", "output, V")}
            {becNumber("rating_a", "printed rating, A")}
            {becNumber("input_max_v", "most input, V")}
          </>
        )}
      </div>
      {draft.board && (
        <BoardForm part={{ ...draft.board, board: { ...draft.board.board, name: draft.name || "My board" } }} change={(board) => change({ board })} />
      )}
      {draft.device && !draft.device.throttle?.length && (
        <DeviceForm
          device={draft.device}
          change={(fields) => draft.device && change({ device: { ...draft.device, ...fields } })}
          draws={texts}
          setDraws={setTexts}
          outputs={draft.outputs ?? []}
          setOutputs={(outputs) => change({ outputs })}
        />
      )}
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
                    onClick={() =>
                      void attempt(() =>
                        call(client.POST("/api/shelf/{key}/update/{plan_id}", { params: { path: { key: part.key, plan_id: use.plan } } })),
                      ).then((done) => done && reload())
                    }
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
