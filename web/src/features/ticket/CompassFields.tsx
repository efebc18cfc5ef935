/** A compass and what bends it: distance, spacing and share of the nearest high-current pair. */
import { Button } from "antd";
import type { Device } from "@/shared/api/types";
import { usePlanActions } from "@/shared/plan/usePlan";
import { AllFields } from "./AllFields";

export function CompassFields({ device }: { device: Device }) {
  const { edit } = usePlanActions();
  if (device.kind !== "gnss" && !device.compass) return null;
  const set = (value: unknown) => void edit([{ op: "set", element: device.id, field: "compass", value: value as never }]).catch(() => undefined);
  if (!device.compass)
    return (
      <Button size="small" onClick={() => set({ distance_m: 0.1 })}>
        It has a compass
      </Button>
    );
  return (
    <>
      <AllFields element={device.id} what="device" value={device.compass} at="compass" />
      <Button size="small" onClick={() => set(null)}>
        It has no compass
      </Button>
    </>
  );
}
