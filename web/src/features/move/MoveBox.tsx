/** Moving by keyboard: `m`, then a rail's number. The rail in focus shows what would happen on both tracks. */
import { Modal } from "antd";
import { useEffect, useState } from "react";
import { elementName } from "@/shared/plan/look";
import { readMove, refusedMove, type Tried } from "@/shared/plan/tryMove";
import { usePlan } from "@/shared/plan/usePlan";
import { railTitle, volts } from "@/shared/ui/format";
import "./move.css";

interface Props {
  device: string | null;
  close: () => void;
}

export function MoveBox({ device, close }: Props) {
  const { view, condition, preview, edit } = usePlan();
  const [tried, setTried] = useState<Tried | null>(null);
  const [at, setAt] = useState<string | null>(null);
  const rails = view.analysis.budget.rails;
  const home = view.analysis.budget.devices.find((d) => d.id === device)?.rail;

  useEffect(() => {
    if (!device || !at || at === home) return;
    let stale = false;
    preview([{ op: "move", device, rail: at, with_return: true }])
      .then((after) => !stale && setTried(readMove(view, after, device, at, condition)))
      .catch((caught: unknown) => !stale && setTried(refusedMove(at, caught)));
    return () => {
      stale = true;
    };
    // The preview belongs to the rail in focus; `preview` itself is new at every render.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [device, at, home, condition, view]);

  useEffect(() => {
    if (!device) return;
    // Before the frame's own keys, which would switch conditions.
    const onKey = (event: KeyboardEvent) => {
      const rail = rails[Number(event.key) - 1];
      if (!rail || !/^[1-9]$/.test(event.key)) return;
      event.preventDefault();
      event.stopPropagation();
      document.getElementById(`move-${rail.id}`)?.focus();
    };
    window.addEventListener("keydown", onKey, { capture: true });
    return () => window.removeEventListener("keydown", onKey, { capture: true });
  }, [device, rails]);

  const apply = async (rail: string) => {
    if (!device || rail === home) return;
    if (tried?.rail === rail && tried.refused) return;
    await edit([{ op: "move", device, rail, with_return: true }]).catch((caught: unknown) => setTried(refusedMove(rail, caught)));
    close();
  };
  const shown = tried && tried.rail === at ? tried : null;
  return (
    <Modal open={device !== null} onCancel={close} footer={null} destroyOnHidden title={device ? `Move ${elementName(view, device)} to…` : ""}>
      <div className="move">
        {rails.map((rail, index) => (
          <button
            key={rail.id}
            id={`move-${rail.id}`}
            type="button"
            className="move-rail"
            disabled={rail.id === home}
            autoFocus={rail.id !== home && index === rails.findIndex((r) => r.id !== home)}
            onFocus={() => setAt(rail.id)}
            onMouseEnter={() => setAt(rail.id)}
            onClick={() => void apply(rail.id)}
          >
            <kbd>{index < 9 ? index + 1 : ""}</kbd> {railTitle(rail.name)}{" "}
            <span className="muted">
              {volts(Object.values(rail.states).map((s) => s.volts_v).sort((a, b) => b - a)[0])}
              {rail.id === home ? ", where it is" : ""}
            </span>
          </button>
        ))}
        <p role="status" className={shown?.refused ? "move-refused" : ""}>
          {shown ? (shown.refused ?? shown.words) : "Press a number, then Enter."}
        </p>
      </div>
    </Modal>
  );
}
