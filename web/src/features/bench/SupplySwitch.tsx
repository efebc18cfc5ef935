/** The first power from a supply with a current limit: set, switched on by hand, and off again. */
import { Button, InputNumber } from "antd";
import { useState } from "react";
import { usePlanState } from "@/shared/plan/usePlan";
import type { BenchStep } from "./useBench";
import type { useRack } from "./useMeter";

export function SupplySwitch({ step, bar }: { step: BenchStep; bar: ReturnType<typeof useRack> }) {
  const { view } = usePlanState();
  const cells = view.plan.pack.series ?? 4;
  const [volts, setVolts] = useState(Math.round(cells * 3.8 * 10) / 10);
  const [limit, setLimit] = useState(Math.max(Math.ceil((step.most ?? 0.5) * 10) / 10, 0.1));
  return (
    <div className="bench-answer">
      <label>
        volts <InputNumber min={0} max={60} step={0.1} value={volts} onChange={(value) => setVolts(value ?? 0)} />
      </label>
      <label>
        limit, A <InputNumber min={0.05} max={10} step={0.1} value={limit} onChange={(value) => setLimit(value ?? 0.5)} />
      </label>
      <Button danger onClick={() => void bar.supply(true, volts, limit)}>
        Switch the supply on
      </Button>
      <Button onClick={() => void bar.supply(false, 0, limit)}>Off</Button>
    </div>
  );
}
