/** Will every device get its volts? Three sheets: volts over the pack, who feeds whom, and the chances. */
import { Segmented } from "antd";
import { Chances } from "./Chances";
import { Sources } from "./Sources";
import { VoltsSheet } from "./VoltsSheet";
import { useSheet } from "@/shared/ui/useSheet";
import "./windows.css";

const SHEETS = ["Volts", "Sources", "Chances"] as const;
type Sheet = (typeof SHEETS)[number];

export function WindowsView() {
  const [sheet, setSheet] = useSheet<Sheet>(SHEETS, "Volts");
  return (
    <div className="windows">
      <Segmented<Sheet> options={[...SHEETS]} value={sheet} onChange={setSheet} aria-label="Sheet" />
      {sheet === "Volts" ? <VoltsSheet /> : sheet === "Sources" ? <Sources /> : <Chances />}
    </div>
  );
}
