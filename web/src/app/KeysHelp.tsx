/** The list of shortcuts. */
import { Modal, Switch } from "antd";
import type { ConditionAnswer } from "@/shared/api/types";
import { VIEWS } from "./Nav";
import type { LetterKeys } from "@/shared/ui/useKeys";

/** Terms of the trade, as this program means them. */
const GLOSSARY: readonly [string, string][] = [
  ["Rail", "All copper at one voltage on a board; everything on it shares what its supply can give."],
  ["Usable", "What of a printed rating is to be counted on: less where heat or the board takes its share."],
  ["Spare", "What can be added there before anything on the way to the pack is over; what binds is named."],
  ["BEC", "A regulator that feeds the electronics, alone in a lead or part of an ESC."],
  ["Headroom", "Volts a regulator has above what it needs to hold its output; below nought it lets the volts fall."],
  ["Dropout", "A regulator without headroom: its output follows its input down."],
  ["Brown-out", "Volts so low for a moment that a device resets."],
  ["Latch", "A rail that holds, but after a dip would stay down at its regulator’s limit."],
  ["Return", "The ground wire of a device: its current goes back there and lifts its ground."],
  ["Star and chain", "Grounds that meet at one place, and grounds that run through one another."],
  ["ESR", "Resistance in a capacitor: what keeps it from holding fast edges."],
  ["Strap", "A bridge of solder that chooses what a pad carries."],
  ["Red wire", "The plus of an ESC’s BEC in its signal lead."],
  ["Overlay", "Words over the picture, by a chip the video runs through."],
  ["Measured, sheet, reported, guess", "Where a draw was taken from; each has a band of its own."],
];

interface Props {
  open: boolean;
  close: () => void;
  conditions: ConditionAnswer[];
  letters: LetterKeys;
}

export function KeysHelp({ open, close, conditions, letters }: Props) {
  const rows: [string, string][] = [
    ...conditions.slice(0, 9).map((c, index): [string, string] => [String(index + 1), c.name]),
    ["0", "The worst over all conditions"],
    ...VIEWS.map((v): [string, string] => [`g ${v.key}`, v.name]),
    ["/", "Search or do: every element, view and command"],
    ["a", "Add a part from the shelf"],
    ["m", "Move the selected device: then a rail's number, Enter"],
    ["w", "Where could the selected device live?"],
    ["f", "How to feed it quietly"],
    ["Delete", "Remove the selected device or supply"],
    ["Tab, arrows", "To the yard, then along and between its tracks"],
    ["Enter", "Open what is in focus: a ticket, or a number's working"],
    ["e", "To the first field of the ticket"],
    ["Ctrl+Z", "Undo"],
    ["Ctrl+Shift+Z", "Redo"],
    ["Esc", "Close what is open"],
    ["?", "This list"],
  ];
  return (
    <Modal open={open} onCancel={close} footer={null} title="Keys and words" className="keys">
      <p>
        <Switch size="small" checked={letters.on} onChange={letters.set} aria-labelledby="letters-name" />{" "}
        <span id="letters-name">Single letters and digits are shortcuts</span>
      </p>
      <dl>
        {rows.map(([key, what]) => (
          <div key={key} style={{ display: "contents" }}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
      <h3>Words</h3>
      <dl className="glossary">
        {GLOSSARY.map(([term, what]) => (
          <div key={term}>
            <dt>{term}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
