/** The predicted picture: the test frame with the computed interference, without filters and as planned. */
import { Button, Segmented, Select } from "antd";
import { useEffect, useRef, useState } from "react";
import type { LineStandard, NoiseReview, VideoNoise } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { percent, si, volts } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";
import { renderFrame, type Interference } from "./picture";

const WIDTH = 300;
const HEIGHT = 240;
const FRAME_MS = 90;
/** Key of the worst throttle beside the conditions. */
const WORST_THROTTLE = "worst throttle";

export function Picture({ review, condition }: { review: NoiseReview; condition: string }) {
  const { view } = usePlanState();
  const { showWorking } = usePlanActions();
  const [signal, setSignal] = useState<string | null>(null);
  const [standard, setStandard] = useState("625");
  const [throttle, setThrottle] = useState<"here" | "worst">("here");
  const [running, setRunning] = useState(false);
  const video = review.videos.find((v) => v.signal === signal) ?? loudest(review.videos, condition);
  if (!video) return <p className="muted">No video signal in this plan: name one under Grounds, Signals, and its picture is predicted here.</p>;
  const bare = review.bare_videos.find((v) => v.signal === video.signal) ?? video;
  const worst = throttle === "worst" && video.worst_throttle_frac !== null;
  const linesOf = (one: VideoNoise) => (worst ? one.worst_lines : (one.lines[condition] ?? []));
  const first = linesOf(video)[0];
  const seen = review.pictures[video.signal]?.[worst ? WORST_THROTTLE : condition]?.[standard];
  const rules = review.standards[standard];
  if (!seen || !rules) return null;
  return (
    <section aria-label="Predicted picture" className="picture">
      <div className="picture-tools">
        <Select
          size="small"
          aria-label="video signal"
          value={video.signal}
          options={review.videos.map((v) => ({ value: v.signal, label: elementName(view, v.signal) }))}
          onChange={setSignal}
          popupMatchSelectWidth={false}
        />
        <Segmented
          size="small"
          aria-label="line standard"
          value={standard}
          options={Object.entries(review.standards).map(([value, one]) => ({ value, label: one.name }))}
          onChange={setStandard}
        />
        <Segmented
          size="small"
          aria-label="throttle"
          value={throttle}
          options={[
            { value: "here", label: "this condition" },
            { value: "worst", label: video.worst_throttle_frac === null ? "no worst throttle" : `worst throttle, ${percent(video.worst_throttle_frac ?? 0)}` },
          ]}
          onChange={(value) => setThrottle(value as "here" | "worst")}
        />
        <Button size="small" aria-pressed={running} onClick={() => setRunning(!running)}>
          {running ? "Hold still" : "Let it run"}
        </Button>
      </div>
      <div className="picture-frames">
        <Frame lines={linesOf(bare)} standard={rules} running={running} title={`Without filters, ${seen.bare_level_db.toFixed(0).replace("-", "−")} dB`} />
        <Frame lines={linesOf(video)} standard={rules} running={running} title={`As planned, ${seen.level_db.toFixed(0).replace("-", "−")} dB`} />
      </div>
      <p>
        <Mark kind={seen.level_db > review.visible_db ? "caution" : "ok"} />{" "}
        <button type="button" className="number" onClick={() => showWorking({ element: video.signal, quantity: "noise", condition })}>
          {volts(seen.total_v)}
        </button>{" "}
        peak to peak on the picture; seen from {review.visible_db.toFixed(0).replace("-", "−")} dB.{" "}
        {first
          ? `Loudest: ${first.words}, ${volts(first.supply_v + first.ground_v)} at ${si(first.hz, "Hz")} (${volts(first.ground_v)} by the grounds, ${volts(first.supply_v)} by the supplies): ${seen.bars}.`
          : "Nothing is on it here."}
      </p>
    </section>
  );
}

function loudest(videos: VideoNoise[], condition: string): VideoNoise | undefined {
  return [...videos].sort((a, b) => (b.total_v[condition] ?? 0) - (a.total_v[condition] ?? 0))[0];
}

/** What is to be seen on a frame: its strongest lines, by what they come from. */
function said(lines: FrameProps["lines"]): string {
  const size = (one: FrameProps["lines"][number]) => one.supply_v + one.ground_v;
  const loud = [...lines].sort((a, b) => size(b) - size(a)).slice(0, 3);
  return loud.length > 0 ? `Strongest: ${loud.map((one) => `${one.words} at ${si(one.hz, "Hz")}, ${si(size(one), "V")}`).join("; ")}` : "Nothing shows on it";
}

interface FrameProps {
  lines: VideoNoise["worst_lines"];
  standard: LineStandard;
  running: boolean;
  title: string;
}

function Frame({ lines, standard, running, title }: FrameProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context) return;
    const interference: Interference[] = lines.map((l) => ({ hz: l.hz, ppV: l.supply_v + l.ground_v }));
    const image = context.createImageData(WIDTH, HEIGHT);
    const draw = (start: number) => {
      const pixels = renderFrame(standard, WIDTH, HEIGHT, interference, start);
      pixels.forEach((value, k) => {
        const grey = Math.round(16 + value * 219);
        image.data.set([grey, grey, grey, 255], k * 4);
      });
      context.putImageData(image, 0, 0);
    };
    draw(0);
    if (!running) return;
    let frame = 0;
    const timer = window.setInterval(() => {
      frame += 1;
      draw((frame * standard.lines) / standard.line_hz);
    }, FRAME_MS);
    return () => window.clearInterval(timer);
  }, [lines, standard, running]);
  return (
    <figure>
      <canvas ref={canvas} width={WIDTH} height={HEIGHT} role="img" aria-label={`Test frame with the computed interference. ${title}. ${said(lines)}`} />
      <figcaption>{title}</figcaption>
    </figure>
  );
}
