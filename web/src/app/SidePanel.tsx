/** What changed, the ticket and the findings: beside the view where there is room, else a sheet over its lower edge. */
import { Alert, Button } from "antd";
import { useState } from "react";
import { ChangesStrip, FindingsList } from "@/features/findings";
import { Ticket } from "@/features/ticket";
import { conditionMark } from "@/shared/plan/marks";
import { useFindings } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { glyph, word } from "@/shared/ui/marks";
import { NARROW, useMedia } from "@/shared/ui/useMedia";

interface Props {
  elsewhere: string | null;
}

export function SidePanel({ elsewhere }: Props) {
  const narrow = useMedia(NARROW);
  const { selected } = useSelection();
  const [{ open, of }, setSheet] = useState({ open: selected !== null, of: selected });
  // What is chosen wants to be seen.
  if (of !== selected) setSheet({ open: open || selected !== null, of: selected });
  return (
    <aside className={`shell-side ${narrow ? "is-sheet" : ""} ${narrow && !open ? "is-low" : ""}`} aria-label="Findings and ticket" id="side">
      {narrow && <SheetHandle open={open} toggle={() => setSheet({ open: !open, of })} />}
      {(!narrow || open) && (
        <>
          <Notices elsewhere={elsewhere} />
          <ChangesStrip />
          <Ticket />
          <FindingsList />
        </>
      )}
    </aside>
  );
}

function SheetHandle({ open, toggle }: { open: boolean; toggle: () => void }) {
  const { view } = usePlanState();
  const { condition, selected } = useSelection();
  const mark = conditionMark(useFindings(view), condition);
  const what = selected ? "Ticket and findings" : "Findings";
  return (
    <button type="button" className="sheet-handle" aria-expanded={open} onClick={toggle}>
      <span className={`mark-${mark}`} aria-label={word(mark)}>
        {glyph(mark)}
      </span>{" "}
      {what} {open ? "▾" : "▴"}
    </button>
  );
}

function Notices({ elsewhere }: Props) {
  const { error } = usePlanState();
  const { reload, clearError } = usePlanActions();
  const show = (
    <Button size="small" onClick={reload}>
      Show it
    </Button>
  );
  return (
    <>
      {error?.stale && (
        <Alert type="warning" showIcon title={error.body.what} description={error.body.remedy} action={show} closable={{ onClose: clearError }} />
      )}
      {elsewhere && <Alert type="info" showIcon title={`Changed elsewhere: ${elsewhere}`} action={show} />}
    </>
  );
}
