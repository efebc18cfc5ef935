/** Moving by keyboard: `m`, then a rail's number. The rail in focus shows what would happen on both tracks. */
import { Modal } from "antd";
import { useEffect, useEffectEvent, useState } from "react";
import { elementName } from "@/shared/plan/elements";
import type { MoveTried } from "@/shared/api/types";
import { moveOf, refusedMove, tryMove } from "@/shared/plan/tryMove";
import { WORST, usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { railTitle, volts } from "@/shared/ui/format";
import "./move.css";

interface Props {
  device: string | null;
  close: () => void;
}

export function MoveBox({ device, close }: Props) {
  const { view } = usePlanState();
  const { standing: condition } = useSelection();
  const { preview, edit } = usePlanActions();
  const [tried, setTried] = useState<MoveTried | null>(null);
  const [at, setAt] = useState<string | null>(null);
  const rails = view.analysis.budget.rails;
  const home = view.analysis.budget.devices.find((d) => d.id === device)?.rail;
  /** The rail that has the focus when the dialog is there. */
  const [asked, setFirst] = useState<string | null>(null);
  const first = asked ?? rails.find((rail) => rail.id !== home)?.id;

  const attempt = (mover: string, rail: string) => tryMove(preview, mover, rail, condition === WORST ? undefined : condition);

  // The preview belongs to the rail in focus; what it is worked out with is new at every render.
  const attemptNow = useEffectEvent(attempt);
  useEffect(() => {
    if (!device || !at || at === home) return;
    let stale = false;
    void attemptNow(device, at).then((known) => !stale && setTried(known));
    return () => {
      stale = true;
    };
  }, [device, at, home, condition, view]);

  useEffect(() => {
    if (!device) return;
    // Before the frame's own keys, which would switch conditions.
    const onKey = (event: KeyboardEvent) => {
      const rail = rails[Number(event.key) - 1];
      if (!rail || !/^[1-9]$/.test(event.key)) return;
      event.preventDefault();
      event.stopPropagation();
      if (rail.id === home) return;
      // A number pressed while the dialog still opens must not be lost: Enter would then move to another rail.
      setFirst(rail.id);
      document.getElementById(`move-${rail.id}`)?.focus();
    };
    window.addEventListener("keydown", onKey, { capture: true });
    return () => window.removeEventListener("keydown", onKey, { capture: true });
  }, [device, home, rails]);

  const leave = () => {
    setFirst(null);
    close();
  };
  const apply = async (rail: string) => {
    if (!device || rail === home) return;
    // A quick Enter must not move where the answer, still under way, will refuse.
    const known = tried?.rail === rail ? tried : await attempt(device, rail);
    setTried(known);
    if (known.refused) return;
    await edit(moveOf(device, rail)).catch((caught: unknown) => setTried(refusedMove(device, rail, caught)));
    leave();
  };
  const shown = tried && tried.rail === at ? tried : null;
  return (
    <Modal
      open={device !== null}
      onCancel={leave}
      afterOpenChange={(open) => open && document.getElementById(`move-${first}`)?.focus()}
      footer={null}
      destroyOnHidden
      title={device ? `Move ${elementName(view, device)} to…` : ""}
    >
      <div className="move">
        {rails.map((rail, index) => (
          <button
            key={rail.id}
            id={`move-${rail.id}`}
            type="button"
            className="move-rail"
            disabled={rail.id === home}
            autoFocus={rail.id === first}
            onFocus={() => {
              setAt(rail.id);
              setFirst(rail.id);
            }}
            onMouseEnter={() => setAt(rail.id)}
            onClick={() => void apply(rail.id)}
          >
            <kbd>{index < 9 ? index + 1 : ""}</kbd> {railTitle(rail.name)}{" "}
            <span className="muted">
              {volts(
                Object.values(rail.states)
                  .map((s) => s.volts_v)
                  .sort((a, b) => b - a)[0],
              )}
              {rail.id === home ? ", where it is" : ""}
            </span>
          </button>
        ))}
        <p role="status" className={shown?.refused ? "move-refused" : ""}>
          {shown ? (shown.refused ?? [shown.words, shown.against].filter(Boolean).join(" · but ")) : "Press a number, then Enter."}
        </p>
      </div>
    </Modal>
  );
}
