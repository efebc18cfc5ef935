/** Noise: from its source to what the pilot sees, and the parts that take it off. */
import { shownIn } from "@/shared/plan/marks";
import { Alert, Segmented, Spin } from "antd";
import { elementName } from "@/shared/plan/elements";
import { useNoise } from "@/shared/plan/useNoise";
import { usePlanState, useSelection } from "@/shared/plan/usePlan";
import { FeedsSheet } from "./FeedsSheet";
import { MeasuredSheet } from "./MeasuredSheet";
import { PartsSheet } from "./PartsSheet";
import { PathSheet } from "./PathSheet";
import { useSheet } from "@/shared/ui/useSheet";
import "./noise.css";

const SHEETS = ["Picture", "Parts", "Feeds", "Measured"] as const;
type Sheet = (typeof SHEETS)[number];

export function NoiseView() {
  const { view } = usePlanState();
  const { standing: condition } = useSelection();
  const [sheet, setSheet] = useSheet<Sheet>(SHEETS, "Picture");
  const noise = useNoise(view);
  const review = noise.data;
  return (
    <div className="noise">
      <Segmented<Sheet> options={[...SHEETS]} value={sheet} onChange={setSheet} aria-label="Sheet" />
      {noise.error && <Alert type="error" title={noise.error.message} />}
      {!review && !noise.error && <Spin size="small" description="Solving the network over frequency" />}
      {review && (
        <>
          {sheet === "Picture" && (
            <>
              <p className="noise-lead">
                What reaches pins and pictures in “{elementName(view, shownIn(review, condition))}”. Amplitudes are estimates from motor data, regulators’
                ripple and bursts: replace them by what you measure.
              </p>
              <PathSheet review={review} condition={shownIn(review, condition)} />
            </>
          )}
          {sheet === "Parts" && <PartsSheet review={review} />}
          {sheet === "Feeds" && <FeedsSheet />}
          {sheet === "Measured" && <MeasuredSheet />}
        </>
      )}
    </div>
  );
}
