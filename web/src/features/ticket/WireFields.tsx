/** One wire: gauge, length, insulation, how it runs, connector. */
import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { useState } from "react";
import { call, client } from "@/shared/api/client";
import { CHOICES } from "@/shared/api/constants";
import type { components } from "@/shared/api/schema";
import type { Edit } from "@/shared/api/types";
import { si } from "@/shared/ui/format";
import { usePlanActions } from "@/shared/plan/usePlan";
import { Choice } from "./Choice";
import { QuantityField } from "./QuantityField";

const COLOURS = CHOICES["Wire.colour"];
const USUAL = "";
export const GAUGES = [8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30, 32, 34, 36].map((value) => ({ value, label: `${value} AWG` }));

type InlinePart = NonNullable<components["schemas"]["Wire"]["inline"]>;

interface WireLike {
  joined?: boolean;
  gauge_awg?: number;
  length_m?: number;
  colour?: string | null;
  lay?: string;
  connector?: string;
  connector_ohm?: number;
  connector_limit_a?: number | null;
  inline?: InlinePart | null;
}

/** `at` is the dotted path of the wire inside the element. */
export function WireFields({ element, at, wire }: { element: string; at: string; wire: WireLike | undefined }) {
  const set = (field: string, value: unknown): Edit[] => [{ op: "set", element, field: `${at}.${field}`, value: value as never }];
  return (
    <div className="fields">
      <Choice
        label="joined by"
        value={wire?.joined ? "none" : "wire"}
        options={[
          { value: "wire", label: "a wire" },
          { value: "none", label: "no wire: pad on pad" },
        ]}
        edits={(value) => set("joined", value === "none")}
      />
      {!wire?.joined && <CopperFields element={element} at={at} wire={wire} set={set} />}
      <ConnectorChoice element={element} at={at} has={Boolean(wire?.connector)} />
      <QuantityField label="connector" field={`${element}:${at}.connector`} stored={wire?.connector ?? ""} edits={(text) => set("connector", text)} />
      <QuantityField
        label="its resistance"
        field={`${element}:${at}.connector_ohm`}
        stored={`${Number(((wire?.connector_ohm ?? 0) * 1000).toPrecision(4))}mΩ`}
        edits={(text) => [{ op: "set_quantity", element, field: `${at}.connector_ohm`, text }]}
      />
      <QuantityField
        label="it stands"
        field={`${element}:${at}.connector_limit_a`}
        stored={wire?.connector_limit_a ? `${wire.connector_limit_a}A` : ""}
        edits={(text) => (text.trim() === "" ? set("connector_limit_a", null) : [{ op: "set_quantity", element, field: `${at}.connector_limit_a`, text }])}
      />
      {wire?.inline && (
        <div className="quantity">
          <span>in line</span>
          <span>{inlineWords(wire.inline)}</span>
        </div>
      )}
    </div>
  );
}

/** What reacts in the wire, in a few words. */
function inlineWords(part: InlinePart): string {
  switch (part.kind) {
    case "fuse":
      return `fuse, a short melts it at ${Number(part.melts_a2s.toPrecision(3))} A²s`;
    case "ntc":
      return `NTC, ${si(part.cold_ohm, "Ω")} cold`;
    case "spark":
      return `anti-spark contact, ${si(part.ohm, "Ω")} for ${si(part.for_s ?? 0.005, "s")}`;
  }
}

const NONE = "none";

/** Connectors, fuses and anti-spark plugs of the shelf; choosing one fills in its name, milliohms and amps. */
function ConnectorChoice({ element, at, has }: { element: string; at: string; has: boolean }) {
  const { edit } = usePlanActions();
  const [asked, setAsked] = useState(false);
  const found = useQuery({
    queryKey: ["shelf-pick", "connector"],
    enabled: asked,
    queryFn: () => call(client.GET("/api/shelf", { params: { query: { q: "", kind: "connector" } } })),
  });
  const parts = (found.data ?? []).map(({ part }) => part);
  const set = (field: string, value: unknown): Edit => ({ op: "set", element, field: `${at}.${field}`, value: value as never });
  /** What reacts goes first and comes last: it needs the numbers of its own connector. */
  const fill = (name: string, ohm: number, limit: number | null, inline: InlinePart | null): Edit[] => [
    set("inline", null),
    set("connector", name),
    set("connector_ohm", ohm),
    set("connector_limit_a", limit),
    ...(inline ? [set("inline", inline)] : []),
  ];
  const choose = (key: string) => {
    const part = parts.find((one) => one.key === key);
    const inline = part?.connector?.inline ?? null;
    // The contact that comes first is worth something in the pack's plug alone; elsewhere it is a plain connector.
    const reacts = inline?.kind === "spark" && !(element === "pack" && at === "lead") ? null : inline;
    void edit(part?.connector ? fill(part.name, part.connector.ohm ?? 0, part.connector.limit_a, reacts) : fill("", 0, null, null)).catch(() => undefined);
  };
  return (
    <div className="quantity">
      <span>from the shelf</span>
      <Select
        size="small"
        aria-label="connector from the shelf"
        value={null}
        placeholder="choose a connector, a fuse …"
        showSearch={{ optionFilterProp: "label" }}
        popupMatchSelectWidth={false}
        loading={found.isFetching}
        onOpenChange={setAsked}
        options={[...(has ? [{ value: NONE, label: "none" }] : []), ...parts.map((part) => ({ value: part.key, label: part.name }))]}
        onChange={choose}
      />
    </div>
  );
}

interface CopperProps {
  element: string;
  at: string;
  wire: WireLike | undefined;
  set: (field: string, value: unknown) => Edit[];
}

function CopperFields({ element, at, wire, set }: CopperProps) {
  return (
    <>
      <Choice
        label="gauge"
        value={String(wire?.gauge_awg ?? 26)}
        options={GAUGES.map((g) => ({ value: String(g.value), label: g.label }))}
        edits={(value) => set("gauge_awg", Number(value))}
      />
      <QuantityField
        label="length"
        field={`${element}:${at}.length`}
        stored={`${Math.round((wire?.length_m ?? 0.1) * 1000)}mm`}
        edits={(text) => [{ op: "set_quantity", element, field: `${at}.length_m`, text }]}
      />
      <Choice
        label="runs"
        value={wire?.lay ?? "beside"}
        options={CHOICES["Wire.lay"].map((value) => ({ value, label: value === "beside" ? "beside its partner" : value }))}
        edits={(value) => set("lay", value)}
      />
      <Choice
        label="colour"
        value={wire?.colour ?? USUAL}
        options={[{ value: USUAL, label: "the usual" }, ...COLOURS.map((value) => ({ value, label: value }))]}
        edits={(value) => set("colour", value === USUAL ? null : value)}
      />
    </>
  );
}
