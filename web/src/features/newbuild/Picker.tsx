/** Parts of the shelf to choose from: what suits the craft so far comes first, the rest says what speaks against it. */
import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { Fragment, useState } from "react";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { si } from "@/shared/ui/format";

type PartView = components["schemas"]["PartView"];
type Part = PartView["part"];
type Suited = components["schemas"]["SuitedPart"];
type Kind = components["schemas"]["SuitedBody"]["kinds"][number];
type Topology = NonNullable<components["schemas"]["SuitedBody"]["topology"]>;

interface PickerProps {
  kinds: Kind[];
  /** What is chosen before this step: parts are told by whether they suit that. */
  chosen: { topology: Topology; pack: string; boards: string[]; devices: string[] };
  hint: string;
  count: (key: string) => number;
  add: (key: string) => void;
  drop: (key: string) => void;
}

function words(part: Part): string {
  if (part.device) return `${part.device.min_v}–${part.device.max_v} V`;
  if (part.bec) return `${part.bec.set_v} V ${part.bec.rating_a} A`;
  if (part.board) return (part.board.supplies ?? []).flatMap((s) => ("set_v" in s ? [`${s.set_v} V ${s.rating_a} A`] : [])).join(", ");
  return part.pack ? `${part.pack.chemistry}, ${si((part.pack.capacity_ah ?? 0) * (part.pack.parallel ?? 1), "Ah")}` : "";
}

export function Picker({ kinds, chosen, hint, count, add, drop }: PickerProps) {
  const [text, setText] = useState("");
  const found = useQuery({
    queryKey: ["shelf-pick", kinds, text],
    placeholderData: (before) => before,
    queryFn: async () => (await Promise.all(kinds.map((kind) => call(client.GET("/api/shelf", { params: { query: { q: text, kind } } }))))).flat(),
  });
  const suited = useQuery({
    queryKey: ["suited", kinds, chosen],
    placeholderData: (before) => before,
    queryFn: () => call(client.POST("/api/builds/suited", { body: { name: "sketch", ...chosen, kinds } })),
  });
  const ordered = inOrder(found.data ?? [], suited.data ?? []);
  return (
    <section>
      <p className="muted">{hint}</p>
      <Input.Search
        allowClear
        aria-label="Search the shelf"
        placeholder="Search the shelf"
        value={text}
        onChange={(event) => setText(event.target.value)}
        style={{ maxWidth: 320 }}
      />
      <Chosen kinds={kinds} count={count} drop={drop} />
      <ul>
        {ordered.map(({ part, against }, index) => (
          <Fragment key={part.key}>
            {against && !ordered[index - 1]?.against && <li className="unsuited-head">Does not suit this pack and shape</li>}
            <Row part={part} against={against} count={count(part.key)} add={add} drop={drop} />
          </Fragment>
        ))}
      </ul>
      {found.data?.length === 0 && <p className="muted">Nothing on the shelf is called that.</p>}
    </section>
  );
}

/** What was found, in the order in which it suits the craft so far. */
function inOrder(found: PartView[], suited: Suited[]): { part: Part; against: string }[] {
  const place = new Map(suited.map((one, index) => [one.key, { index, against: one.against }]));
  return found
    .map(({ part }) => ({ part, against: place.get(part.key)?.against ?? "" }))
    .sort((a, b) => (place.get(a.part.key)?.index ?? 0) - (place.get(b.part.key)?.index ?? 0));
}

interface RowProps extends Pick<PickerProps, "add" | "drop"> {
  part: Part;
  against: string;
  count: number;
}

function Row({ part, against, count, add, drop }: RowProps) {
  return (
    <li className={count > 0 ? "is-chosen" : against ? "is-unsuited" : ""}>
      <span>
        <strong>{part.name}</strong> <span className="muted">{words(part)}</span>
        {against && <span className="against">{against}</span>}
      </span>
      <span>
        {count > 0 && (
          <Button size="small" onClick={() => drop(part.key)} aria-label={`Take ${part.name} off`}>
            −
          </Button>
        )}{" "}
        {count > 0 ? count : ""}{" "}
        <Button size="small" onClick={() => add(part.key)} aria-label={`Choose ${part.name}`}>
          +
        </Button>
      </span>
    </li>
  );
}

/** What is chosen stays in sight whatever is searched for. */
function Chosen({ kinds, count, drop }: Pick<PickerProps, "kinds" | "count" | "drop">) {
  const all = useQuery({
    queryKey: ["shelf-pick", kinds, ""],
    queryFn: async () => (await Promise.all(kinds.map((kind) => call(client.GET("/api/shelf", { params: { query: { q: "", kind } } }))))).flat(),
  });
  const chosen = (all.data ?? []).filter(({ part }) => count(part.key) > 0);
  if (chosen.length === 0) return null;
  return (
    <p className="chosen-parts">
      {chosen.map(({ part }) => (
        <Button key={part.key} size="small" onClick={() => drop(part.key)} aria-label={`Take one ${part.name} off`}>
          {count(part.key) > 1 ? `${count(part.key)} × ` : ""}
          {part.name} ×
        </Button>
      ))}
    </p>
  );
}
