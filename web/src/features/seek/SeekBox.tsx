/** Search or do: every element, view, condition and command by a few letters. */
import { Input, Modal, type InputRef } from "antd";
import { useEffect, useRef, useState } from "react";
import { usePlan } from "@/shared/plan/usePlan";
import "./seek.css";

export interface Doing {
  name: string;
  group: string;
  run: () => void;
}

interface Props {
  open: boolean;
  close: () => void;
  /** Views and commands; elements and conditions are added here. */
  doings: Doing[];
}

const SHOWN = 12;

export function rank(name: string, typed: string): number {
  const text = name.toLowerCase();
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.every((word) => text.includes(word))) return -1;
  const first = words[0] ?? "";
  return text.startsWith(first) ? 2 : text.split(/\s+/).some((piece) => piece.startsWith(first)) ? 1 : 0;
}

export function SeekBox({ open, close, doings }: Props) {
  const { view, select, choose } = usePlan();
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const field = useRef<InputRef>(null);
  const { plan } = view;
  const elements: Doing[] = [
    { name: plan.pack.name ?? "Pack", group: "pack", run: () => select("pack") },
    ...(plan.devices ?? []).map((d) => ({ name: d.name, group: "device", run: () => select(d.id) })),
    ...plan.boards.map((b) => ({ name: b.name, group: "board", run: () => select(b.id) })),
    ...plan.rails.map((r) => ({ name: r.name, group: "rail", run: () => select(r.id) })),
    ...(plan.signals ?? []).map((s) => ({ name: s.name, group: "signal", run: () => select(s.id) })),
    ...(plan.filters ?? []).map((f) => ({ name: f.name, group: "filter", run: () => select(f.id) })),
    ...(plan.supplies ?? []).map((s) => ({ name: s.name, group: "supply", run: () => select(s.id) })),
    ...(plan.conditions ?? []).map((c) => ({ name: c.name, group: "condition", run: () => choose(c.id) })),
  ];
  const found = [...doings, ...elements]
    .map((doing) => ({ doing, score: rank(`${doing.name} ${doing.group}`, typed) }))
    .filter((one) => one.score >= 0)
    .sort((a, b) => b.score - a.score)
    .slice(0, SHOWN);
  const write = (text: string) => {
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
    else if (key === "Enter") finish(found[at]?.doing);
    else return false;
    return true;
  };
  // The dialog takes a moment to open, a builder types on at once: until the field has the focus its keys are caught here.
  useEffect(() => {
    if (!open) return;
    const early = (event: KeyboardEvent) => {
      const held = event.ctrlKey || event.metaKey || event.altKey;
      // On the dialog's close button Enter and space close it, as everywhere.
      const pressed = event.target instanceof HTMLButtonElement && field.current && [" ", "Enter"].includes(event.key);
      if (held || pressed || event.target === field.current?.input) return;
      if (event.key.length === 1) write(typed + event.key);
      else if (event.key === "Backspace") write(typed.slice(0, -1));
      else if (!steer(event.key)) return;
      field.current?.focus();
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener("keydown", early, { capture: true });
    return () => window.removeEventListener("keydown", early, { capture: true });
  });
  return (
    <Modal open={open} onCancel={leave} footer={null} destroyOnHidden title="Search or do" className="seek">
      <Input
        ref={field}
        autoFocus
        aria-label="Search or do"
        role="combobox"
        aria-expanded
        aria-controls="seek-list"
        aria-activedescendant={found[at] ? `seek-${at}` : undefined}
        value={typed}
        placeholder="A device, a rail, a view, a command…"
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
      {found.length === 0 && <p>Nothing is called that here. Parts that are not in the plan are on the shelf.</p>}
    </Modal>
  );
}
