/** The supply on the plug: set, switched on by hand where a step asks for it, and off again from anywhere. */
import { Alert, Button, InputNumber } from "antd";
import { useState } from "react";
import { Mark } from "@/shared/ui/marks";
import type { BenchStep } from "./useBench";
import type { useRack } from "./useMeter";

interface Props {
  /** What the step sets; none where it is only to be switched off. */
  setting: BenchStep["supply"];
  bar: ReturnType<typeof useRack>;
  who: string;
  /** Whether the step at hand is read with power on. */
  powered: boolean;
  training: number | null;
}

export function SupplySwitch({ setting, bar, who, powered, training }: Props) {
  const [volts, setVolts] = useState<number | null>(setting?.volts_v ?? null);
  const [limit, setLimit] = useState<number | null>(setting?.limit_a ?? null);
  const on = bar.rack?.supply_on ?? false;
  return (
    <div className="bench-answer">
      <span role="status">
        <Mark kind={on ? "danger" : "ok"} /> the supply is {on ? "on" : "off"}
        {on && !powered && ": off before anything is read without power"}
      </span>
      {setting && (
        <>
          <label>
            volts <InputNumber min={0} max={60} step={0.1} value={volts} onChange={setVolts} />
          </label>
          <label>
            limit, A <InputNumber min={0.05} max={10} step={0.1} value={limit} onChange={setLimit} />
          </label>
          <Button danger disabled={volts === null || limit === null} onClick={() => void bar.supply(true, volts ?? 0, limit ?? setting.limit_a, who, training)}>
            Switch the supply on
          </Button>
        </>
      )}
      <Button size="large" type={on ? "primary" : "default"} onClick={() => void bar.supply(false, 0, 1, who, training)}>
        Supply off
      </Button>
      {bar.rack?.supply_lost && (
        <Alert
          type="error"
          title="The link to the supply is lost while its output was on."
          description="Switch it off at its own button. It is sought, and switched off as soon as it answers."
        />
      )}
    </div>
  );
}
