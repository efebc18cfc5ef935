/** Search or do: every element, view, condition and command by a few letters. */
import { Input, Modal, type InputRef } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useLayoutEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { call, client } from "@/shared/api/client";
import { besideLink, regulatedRails } from "@/shared/plan/beside";
import { useFindings } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { SAME_WORDS, TOOLS } from "@/shared/api/constants";
import "./seek.css";

export interface Doing {
  name: string;
  group: string;
  /** Words it is found by beside its name. */
  also?: string;
  run: () => void;
}

interface Props {
  open: boolean;
  close: () => void;
  /** Views and commands; elements and conditions are added here. */
  doings: Doing[];
}

const SHOWN = 12;
const PLACED = new Set(["device", "bec", "board", "clamp", "diode"]);

const ALIKE = new Map(SAME_WORDS.flatMap((line) => line.map((word) => [word, line] as const)));

/** How well a name answers what is typed: −1 where a word of it is missing, by itself or by one that means the same. */
export function rank(name: string, typed: string): number {
  const text = name.toLowerCase();
  const whole = typed.toLowerCase().trim();
  const same = ALIKE.get(whole);
  const words = same ? [whole] : whole.split(/\s+/).filter(Boolean);
  if (!words.every((word) => text.includes(word) || (ALIKE.get(word) ?? []).some((other) => holds(text, other)))) return -1;
  const first = words[0] ?? "";
  return text.startsWith(first) ? 2 : text.split(/\s+/).some((piece) => piece.startsWith(first)) ? 1 : 0;
}

/** Whether a text has a word: short ones only as they are, or “rx” would find a fox. */
function holds(text: string, word: string): boolean {
  return word.length > 3 ? text.includes(word) : text.split(/[\s,()/]+/).includes(word);
}

export function SeekBox({ open, close, doings }: Props) {
  const { view } = usePlanState();
  const { select, choose, place } = usePlanActions();
  const navigate = useNavigate();
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const field = useRef<InputRef>(null);
  /** What is typed by now; the state may be a key behind. */
  const latest = useRef("");
  const { plan } = view;
  const elements: Doing[] = [
    { name: plan.pack.name ?? "Pack", group: "pack", run: () => select("pack") },
    ...(plan.devices ?? []).map((d) => ({ name: d.name, group: "device", run: () => select(d.id) })),
    ...plan.boards.map((b) => ({ name: b.name, group: "board", run: () => select(b.id) })),
    ...plan.rails.map((r) => ({ name: r.name, group: "rail", run: () => select(r.id) })),
    ...regulatedRails(plan).map((r) => ({
      name: `A second regulator beside ${r.name}`,
      group: "do",
      also: "bec parallel side by side more amps",
      run: () => void navigate(besideLink(view.id, r.id, window.location.search)),
    })),
    ...(plan.signals ?? []).map((s) => ({ name: s.name, group: "signal", run: () => select(s.id) })),
    ...(plan.filters ?? []).map((f) => ({ name: f.name, group: "filter", run: () => select(f.id) })),
    ...(plan.clamps ?? []).map((c) => ({ name: c.name, group: "clamp", run: () => select(c.id) })),
    ...(plan.supplies ?? []).map((s) => ({ name: s.name, group: "supply", run: () => select(s.id) })),
    ...(plan.conditions ?? []).map((c) => ({ name: c.name, group: "condition", run: () => choose(c.id) })),
  ];
  const findings: Doing[] = useFindings(view).map((f) => ({
    name: f.title,
    group: f.severity,
    run: () => {
      if (f.worst) choose(f.worst);
      if (f.elements[0]) select(f.elements[0]);
    },
  }));
  const tools: Doing[] = TOOLS.map((tool) => ({
    name: tool.name,
    group: "tool",
    also: tool.also,
    run: () => (tool.view === "policy" ? select("policy") : go(tool.view, tool.sheet)),
  }));
  const shelf = useQuery({
    queryKey: ["seek-shelf", typed],
    enabled: open && typed.trim().length > 1,
    placeholderData: (before) => before,
    queryFn: () => call(client.GET("/api/shelf", { params: { query: { q: typed.trim() } } })),
  });
  const parts: Doing[] =
    typed.trim().length > 1
      ? (shelf.data ?? [])
          .filter(({ part }) => PLACED.has(part.kind))
          .map(({ part }) => ({ name: part.name, group: "add from the shelf", run: () => void add(part.key) }))
      : [];
  // What refuses it is told beside the plan, like a refused edit.
  const add = (part: string) =>
    place({ part }).then(
      (after) => select(after.added[0] ?? null),
      () => undefined,
    );
  const go = (path: string, sheet?: string) => {
    const next = new URLSearchParams(window.location.search);
    next.delete("sheet");
    if (sheet) next.set("sheet", sheet);
    void navigate({ pathname: `/plans/${view.id}/${path}`, search: next.toString() });
  };
  const search = (text: string) =>
    [...doings, ...elements, ...tools, ...findings, ...parts]
      .map((doing) => ({ doing, score: rank(`${doing.name} ${doing.group} ${doing.also ?? ""}`, text) }))
      .filter((one) => one.score >= 0)
      .sort((a, b) => b.score - a.score)
      .slice(0, SHOWN);
  const found = search(typed);
  const write = (text: string) => {
    latest.current = text;
    setTyped(text);
    setAt(0);
  };
  const leave = () => {
    write("");
    close();
  };
  const finish = (doing: Doing | undefined) => {
    if (!doing) return;
    leave();
    doing.run();
  };
  /** Whether the key is one of the list's own. */
  const steer = (key: string): boolean => {
    if (key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
    else if (key === "ArrowUp") setAt(Math.max(at - 1, 0));
    else if (key === "Enter") finish(search(latest.current)[at]?.doing);
    else return false;
    return true;
  };
  // The dialog takes a moment to open, a builder types on at once: until the field has the focus its keys are caught here.
  const catchKey = (event: KeyboardEvent) => {
    const held = event.ctrlKey || event.metaKey || event.altKey;
    // On the dialog's close button Enter and space close it, as everywhere.
    const pressed = event.target instanceof HTMLButtonElement && field.current && [" ", "Enter"].includes(event.key);
    if (held || pressed || event.target === field.current?.input) return;
    if (event.key.length === 1) write(latest.current + event.key);
    else if (event.key === "Backspace") write(latest.current.slice(0, -1));
    else if (!steer(event.key)) return;
    field.current?.focus();
    event.preventDefault();
    event.stopPropagation();
  };
  // Listened to once for as long as it is open: between two keys there may be no time to listen anew.
  const caught = useRef(catchKey);
  useLayoutEffect(() => {
    caught.current = catchKey;
  });
  useLayoutEffect(() => {
    if (!open) return;
    const early = (event: KeyboardEvent) => caught.current(event);
    window.addEventListener("keydown", early, { capture: true });
    return () => window.removeEventListener("keydown", early, { capture: true });
  }, [open]);
  return (
    <Modal
      open={open}
      onCancel={leave}
      afterOpenChange={(now) => now && field.current?.focus()}
      footer={null}
      destroyOnHidden
      title="Search or do"
      className="seek"
    >
      <Input
        ref={field}
        autoFocus
        aria-label="Search or do"
        role="combobox"
        aria-expanded
        aria-controls="seek-list"
        aria-activedescendant={found[at] ? `seek-${at}` : undefined}
        value={typed}
        placeholder="A device, a part, a tool, a finding, a view…"
        onChange={(event) => write(event.target.value)}
        onKeyDown={(event) => steer(event.key) && event.preventDefault()}
      />
      <ul id="seek-list" role="listbox" aria-label="Found">
        {found.map(({ doing }, index) => (
          <li
            key={doing.group + doing.name + String(index)}
            id={`seek-${index}`}
            role="option"
            aria-selected={index === at}
            onMouseEnter={() => setAt(index)}
            onClick={() => finish(doing)}
            onKeyDown={() => undefined}
          >
            <span>{doing.name}</span> <span className="muted">{doing.group}</span>
          </li>
        ))}
      </ul>
      {found.length === 0 && <p>Nothing is called that, in the plan or on the shelf. Try fewer letters, or add a part of your own under Shelf.</p>}
    </Modal>
  );
}
