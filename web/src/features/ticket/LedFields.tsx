/** What a string of LEDs draws follows from its parts, so those are what can be changed. */
import type { Device } from "@/shared/api/types";
import { NumberField } from "./NumberField";

export function LedFields({ device }: { device: Device }) {
  const led = device.led;
  if (!led) return null;
  const own = { element: device.id };
  return (
    <div className="fields">
      <NumberField {...own} label="forward volts of one" field="led.forward_v" value={led.forward_v} unit="V" />
      <NumberField {...own} label="in series" field="led.series" value={led.series ?? 1} unit="" />
      <NumberField {...own} label="strings side by side" field="led.strings" value={led.strings ?? 1} unit="" />
      <NumberField {...own} label="resistor of each string" field="led.resistor_ohm" value={led.resistor_ohm} unit="Ω" />
      <NumberField {...own} label="a LED stands" field="led.max_a" value={led.max_a ?? 0} factor={1000} unit="mA" />
    </div>
  );
}
