/** A plain number of a plan's field, shown in the unit a builder thinks in (percent, kelvin, degrees). */
import type { Edit } from "@/shared/api/types";
import { QuantityField } from "./QuantityField";

interface Props {
  label: string;
  element: string;
  field: string;
  value: number;
  /** Shown value = stored value × factor. */
  factor?: number;
  unit: string;
}

export function NumberField({ label, element, field, value, factor = 1, unit }: Props) {
  const edits = (text: string): Edit[] => {
    const typed = Number(text.replace(unit, "").replace(",", ".").trim());
    return [{ op: "set", element, field, value: text.trim() === "" || Number.isNaN(typed) ? text : typed / factor }];
  };
  return <QuantityField label={label} field={`${element}:${field}`} stored={`${Number((value * factor).toPrecision(5))} ${unit}`.trim()} edits={edits} />;
}
