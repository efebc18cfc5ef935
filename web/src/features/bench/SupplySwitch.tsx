/** The first power from a supply with a current limit: set, switched on by hand, and off again. */
import { Button, InputNumber } from "antd";
import { useState } from "react";
import type { BenchStep } from "./useBench";
import type { useRack } from "./useMeter";

export function SupplySwitch({ setting, bar }: { setting: NonNullable<BenchStep["supply"]>; bar: ReturnType<typeof useRack> }) {
  const [volts, setVolts] = useState<number | null>(setting.volts_v);
  const [limit, setLimit] = useState<number | null>(setting.limit_a);
  return (
    <div className="bench-answer">
      <label>
        volts <InputNumber min={0} max={60} step={0.1} value={volts} onChange={setVolts} />
      </label>
      <label>
        limit, A <InputNumber min={0.05} max={10} step={0.1} value={limit} onChange={setLimit} />
      </label>
      <Button danger disabled={volts === null || limit === null} onClick={() => void bar.supply(true, volts ?? 0, limit ?? setting.limit_a)}>
        Switch the supply on
      </Button>
      <Button onClick={() => void bar.supply(false, 0, setting.limit_a)}>Off</Button>
    </div>
  );
}
