/** The ticket of the selected element: its numbers over all conditions, and the fields that change it. */
import { Button } from "antd";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { BoardTicket } from "./BoardTicket";
import { ClampTicket } from "./Clamps";
import { ConditionTicket } from "./ConditionTicket";
import { DeviceTicket } from "./DeviceTicket";
import { FilterTicket } from "./FilterTicket";
import { PackTicket } from "./PackTicket";
import { PolicyTicket } from "./PolicyTicket";
import { RailTicket } from "./RailTicket";
import { ReturnTicket } from "./ReturnTicket";
import { SignalTicket } from "./SignalTicket";
import { SupplyTicket } from "./SupplyTicket";
import "./ticket.css";

export function Ticket() {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const { select } = usePlanActions();
  if (!selected) return <p className="muted ticket-hint">Select a wagon, a block or a finding to see its ticket.</p>;
  const { plan } = view;
  const device = (plan.devices ?? []).find((d) => d.id === selected);
  const supply = (plan.supplies ?? []).find((s) => s.id === selected);
  const rail = plan.rails.find((r) => r.id === selected || (r.pads ?? []).some((p) => p.id === selected));
  const board = plan.boards.find((b) => b.id === selected);
  const condition = (plan.conditions ?? []).find((c) => c.id === selected);
  const signal = (plan.signals ?? []).find((s) => s.id === selected);
  const filter = (plan.filters ?? []).find((f) => f.id === selected);
  const clamp = (plan.clamps ?? []).find((c) => c.id === selected);
  const owners = [...plan.boards, ...(plan.devices ?? [])];
  const grounded = owners.find((one) => (one.returns ?? []).some((r) => r.id === selected));
  const ground = grounded?.returns?.find((r) => r.id === selected);
  const body = device ? (
    <DeviceTicket key={device.id} device={device} />
  ) : supply ? (
    <SupplyTicket key={supply.id} supply={supply} />
  ) : board ? (
    <BoardTicket key={board.id} board={board} />
  ) : rail ? (
    <RailTicket key={rail.id} railId={rail.id} />
  ) : selected === "pack" ? (
    <PackTicket />
  ) : selected === "policy" ? (
    <PolicyTicket />
  ) : signal ? (
    <SignalTicket key={signal.id} signal={signal} />
  ) : filter ? (
    <FilterTicket key={filter.id} filter={filter} />
  ) : clamp ? (
    <ClampTicket key={clamp.id} clamp={clamp} />
  ) : grounded && ground ? (
    <ReturnTicket key={ground.id} owner={grounded} wire={ground} />
  ) : condition ? (
    <ConditionTicket key={condition.id} condition={condition} />
  ) : null;
  if (!body) return null;
  return (
    <section className="ticket" aria-label="Ticket">
      <Button size="small" className="ticket-close" onClick={() => select(null)} aria-label="Close the ticket">
        ×
      </Button>
      {body}
    </section>
  );
}
