/** The list of shortcuts. */
import { Modal, Switch } from "antd";
import type { ConditionAnswer } from "@/shared/api/types";
import { VIEWS } from "./Nav";
import type { LetterKeys } from "./useKeys";

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
    <Modal open={open} onCancel={close} footer={null} title="Keys" className="keys">
      <p>
        <Switch size="small" checked={letters.on} onChange={letters.set} aria-labelledby="letters-name" /> <span id="letters-name">Single letters and digits are shortcuts</span>
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
    </Modal>
  );
}
