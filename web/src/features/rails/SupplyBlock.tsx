/** The block where a track leaves its parent. Its numbers open their working, the block its ticket. */
import type { KeyboardEvent } from "react";
import type { RailAnswer } from "@/shared/api/types";
import { focusSoon } from "@/shared/ui/focus";
import { usePlanActions, useSelection } from "@/shared/plan/usePlan";
import { glyph, word, type MarkKind } from "@/shared/ui/marks";
import type { BlockText } from "./blockText";
import { BLOCK_W } from "./geometry";

interface Props {
  x: number;
  y: number;
  text: BlockText;
  rail: RailAnswer;
  condition: string;
  marks: Map<string, MarkKind>;
  /** Its track, counted from the top. */
  row: number;
}

export function onEnter(action: () => void) {
  return (event: KeyboardEvent) => {
    if (event.key === "Enter" || event.key === " ") {
      event.preventDefault();
      event.stopPropagation();
      action();
    }
  };
}

function clip(text: string, room: number): string {
  const most = Math.floor(room / 6.9);
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
}

export function SupplyBlock({ x, y, text, rail, condition, marks, row }: Props) {
  const { selected } = useSelection();
  const { select, showWorking } = usePlanActions();
  const mark = marks.get(text.element) ?? marks.get(rail.id) ?? "ok";
  const chosen = selected === text.element || selected === rail.id;
  const open = () => select(text.element);
  const enter = () => {
    open();
    focusSoon(".ticket h2");
  };
  return (
    <g className={`block block-${mark} ${chosen ? "is-selected" : ""}`} transform={`translate(${x} ${y})`}>
      <g role="button" tabIndex={-1} data-row={row} data-element={text.element} aria-label={`${text.title}, ticket`} onClick={open} onKeyDown={onEnter(enter)}>
        <title>{text.title}</title>
        <rect width={BLOCK_W} height={text.height} />
        <text x={9} y={18} className="block-title">
          {clip(text.title, BLOCK_W - 30)}
        </text>
        {mark !== "ok" && (
          <text x={BLOCK_W - 18} y={18} className={`block-mark mark-${mark}`}>
            <title>{word(mark)}</title>
            {glyph(mark)}
          </text>
        )}
      </g>
      {text.lines.map((line, index) => {
        const { ask } = line;
        const show = ask ? () => showWorking({ ...ask, condition }) : undefined;
        const seen = `${line.mark && line.mark !== "ok" ? `${glyph(line.mark)} ` : ""}${clip(line.text, BLOCK_W - 16)}`;
        // The name begins with what is seen, and goes on with what did not fit.
        const name = seen.endsWith("…") ? `${seen}, ${line.text}, working` : `${seen}, working`;
        return (
          <text
            key={index}
            x={9}
            y={35 + index * 16}
            className={`block-line ${line.mark && line.mark !== "ok" ? `mark-${line.mark}` : ""} ${show ? "has-working" : ""}`}
            {...(show ? { role: "button", tabIndex: -1, "data-row": row, "aria-label": name, onClick: show, onKeyDown: onEnter(show) } : {})}
          >
            {seen}
          </text>
        );
      })}
    </g>
  );
}
