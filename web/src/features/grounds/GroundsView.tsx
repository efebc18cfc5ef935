/** What flows back, and what it disturbs: heights of grounds, and signals. */
import { Segmented } from "antd";
import { HeightsSheet } from "./HeightsSheet";
import { SignalsSheet } from "./SignalsSheet";
import { useSheet } from "@/shared/ui/useSheet";
import "./grounds.css";

const SHEETS = ["Heights", "Signals"] as const;
type Sheet = (typeof SHEETS)[number];

export function GroundsView() {
  const [sheet, setSheet] = useSheet<Sheet>(SHEETS, "Heights");
  return (
    <div className="grounds">
      <Segmented<Sheet> options={[...SHEETS]} value={sheet} onChange={setSheet} aria-label="Sheet" />
      {sheet === "Heights" ? <HeightsSheet /> : <SignalsSheet />}
    </div>
  );
}
