/** One track: sleepers to scale, wagons, buffer stop at the usable rating, tick at the printed one. */
import type { RailAnswer, RailState } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { focusSoon } from "@/shared/ui/focus";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, railTitle } from "@/shared/ui/format";
import { glyph, type MarkKind } from "@/shared/ui/marks";
import { labelY, leaderX, textWidth, WAGON_H, type PlacedWagon, type Track } from "./geometry";
import { FILL } from "./Patterns";
import { onEnter } from "./SupplyBlock";

interface Props {
  track: Track;
  y: number;
  rail: RailAnswer;
  state: RailState;
  condition: string;
  marks: Map<string, MarkKind>;
  grab: (device: string, event: PointerEvent) => void;
  /** This track, counted from the top. */
  row: number;
}

const RAIL_DY = 4;
/** A track this wide has room for what its axis leaves out, in words. */
const ROOMY_W = 420;

export function TrackPicture({ track, y, rail, state, condition, marks, grab, row }: Props) {
  const base = y + WAGON_H + RAIL_DY;
  const end = Math.max(track.endX, track.x + 60);
  const over = state.tone !== "ok" && track.endX > track.stopX + 1;
  // Beside the track where there is room, else in the tally: two labels under one track would meet.
  const printUnder = track.printX !== null && track.printX < end + 4;
  const dead = state.usable_a <= 0 && state.asked_a <= 5e-4;
  return (
    <g className={dead ? "track is-dead" : "track"}>
      {over && state.usable_a > 0 && <rect x={track.stopX} y={y - 4} width={track.endX - track.stopX} height={WAGON_H + 18} fill="url(#beyond)" />}
      <Sleepers track={track} base={base} end={end} />
      <line className="steel" x1={track.x} x2={end} y1={base} y2={base} />
      <line className="steel" x1={track.x} x2={end} y1={base + 6} y2={base + 6} />
      {track.printX !== null && Math.abs(track.printX - track.stopX) > 3 && (
        <g className="print">
          <line x1={track.printX} x2={track.printX} y1={base - 6} y2={base + 14} />
          {!printUnder && (
            <text x={track.printX + 4} y={base + 5}>
              {track.printBeyond ? "→ " : ""}print {amps(state.printed_a)}
            </text>
          )}
        </g>
      )}
      {state.usable_a > 0 && (
        <g className={over ? `stop stop-${state.tone}` : "stop"}>
          <line x1={track.stopX} x2={track.stopX} y1={y - 8} y2={base + 8} />
          <line x1={track.stopX - 8} x2={track.stopX + 8} y1={y - 8} y2={y - 8} />
        </g>
      )}
      <path className="leader" d={leaders(track, y)} />
      {track.wagons.map((placed) => (
        <WagonPicture key={placed.wagon.id} placed={placed} y={y} mark={marks.get(placed.wagon.id)} condition={condition} grab={grab} row={row} />
      ))}
      <Tally track={track} y={base + 23} rail={rail} state={state} condition={condition} row={row} print={printUnder} />
    </g>
  );
}

/** All at once and before any label, so that none is drawn over one. */
function leaders(track: Track, y: number): string {
  const outside = track.wagons.filter((placed) => !placed.label.inside);
  return outside.map((placed) => `M ${leaderX(placed)} ${y} V ${labelY(y, placed.label.level) + 3}`).join(" ");
}

function Sleepers({ track, base, end }: { track: Track; base: number; end: number }) {
  const from = track.axis.broken ? (track.wagons[0]?.x ?? track.x) + (track.wagons[0]?.width ?? 0) : track.x;
  const count = Math.min(Math.floor((end - from) / track.axis.sleeper_px), 400);
  const path = Array.from({ length: Math.max(count, 0) + 1 }, (_, k) => `M ${(from + k * track.axis.sleeper_px).toFixed(1)} ${base - 2} v 10`).join(" ");
  return <path className="sleepers" d={path} />;
}

interface WagonProps {
  placed: PlacedWagon;
  y: number;
  mark: MarkKind | undefined;
  condition: string;
  grab: Props["grab"];
  row: number;
}

function WagonPicture({ placed, y, mark, condition, grab, row }: WagonProps) {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const { select } = usePlanActions();
  const { wagon, x, width, label } = placed;
  const kind = wagon.kind === "supply" ? "computed" : (wagon.provenance ?? "guess");
  const open = () => select(wagon.id);
  const enter = () => {
    open();
    focusSoon(".ticket h2");
  };
  const state = view.analysis.budget.devices.find((d) => d.id === wagon.id)?.states[condition];
  const shown = mark ?? state?.weight ?? undefined;
  const text = `${shown ? `${glyph(shown)} ` : ""}${label.text}`;
  const top = label.inside ? 0 : labelY(y, label.level);
  return (
    <g
      className={`wagon wagon-${kind} ${selected === wagon.id ? "is-selected" : ""} ${shown ? `wagon-mark-${shown}` : ""}`}
      role="button"
      tabIndex={-1}
      data-row={row}
      data-element={wagon.id}
      aria-label={`${wagon.name}, ${amps(wagon.asked_a)}, ${wagon.provenance ?? "computed"}${state ? `, ${state.verdict}` : ""}`}
      onClick={open}
      onPointerDown={(event) => wagon.kind === "device" && event.button === 0 && grab(wagon.id, event.nativeEvent)}
      onKeyDown={onEnter(enter)}
    >
      <title>{`${wagon.name}: ${amps(wagon.asked_a)} asked, ${amps(wagon.given_a)} given`}</title>
      <rect className="wagon-body" x={x + 0.75} y={y} width={Math.max(width - 1.5, 2)} height={WAGON_H - 4} fill={FILL[kind]} />
      {width > 10 && (
        <>
          <circle className="wheel" cx={x + Math.min(8, width / 4)} cy={y + WAGON_H} r={3} />
          <circle className="wheel" cx={x + width - Math.min(8, width / 4)} cy={y + WAGON_H} r={3} />
        </>
      )}
      {placed.broken && <path className="break" d={`M ${x + width - 26} ${y - 4} l -7 ${WAGON_H / 2} h 8 l -7 ${WAGON_H / 2 + 3}`} />}
      {label.inside ? (
        <>
          <rect className="plate" x={label.x - 3} y={y + 4} width={Math.min(textWidth(text) + 4, width - 8)} height={17} />
          <text className="wagon-text" x={label.x} y={y + 17}>
            {text}
          </text>
        </>
      ) : (
        <text className="wagon-text wagon-text-outside" x={label.x} y={top}>
          {text}
        </text>
      )}
    </g>
  );
}

interface TallyProps {
  track: Track;
  y: number;
  rail: RailAnswer;
  state: RailState;
  condition: string;
  row: number;
  /** Says what is printed, too. */
  print: boolean;
}

/** The words under the stop: spare amps, or what is asked against what is usable. Each number opens its working. */
function Tally({ track, y, rail, state, condition, row, print }: TallyProps) {
  const { showWorking, select } = usePlanActions();
  const { view } = usePlanState();
  const show = (quantity: "asked" | "usable" | "spare") => () => showWorking({ element: rail.id, quantity, condition });
  const number = (quantity: "asked" | "usable" | "spare", text: string) => (
    <tspan
      className="has-working"
      role="button"
      tabIndex={-1}
      data-row={row}
      aria-label={`${railTitle(rail.name)}, ${quantity} ${text}, working`}
      onClick={show(quantity)}
      onKeyDown={onEnter(show(quantity))}
    >
      {text}
    </tspan>
  );
  const printed = print ? `, print ${amps(state.printed_a)}` : "";
  const named = state.bound_by && state.tone === "ok" ? `, by ${elementName(view, state.bound_by)}` : "";
  const room = track.width + 50;
  const width = (words: string) => textWidth(`■ asked 0.00 A, usable 0.00 A${printed}${words}`);
  const tie = `one tie ${amps(track.axis.sleeper_a)}`;
  const long = `${tie}, first wagon not to scale`;
  // What finds no room beside the numbers is said shorter; the ticket says it whole.
  const scale = !track.axis.broken ? tie : track.width > ROOMY_W && textWidth(long) + 10 + width(named) <= room ? long : `${tie}, broken`;
  const bound = textWidth(scale) + 10 + width(named) <= room ? named : "";
  const wide = width(bound);
  const right = Math.max(Math.min(track.stopX + 40, track.x + track.width + 60), track.x + textWidth(scale) + 10 + wide);
  return (
    <>
      <text className="scale" x={track.x} y={y} onClick={() => select(rail.id)}>
        {scale}
      </text>
      <text className={`tally tally-${state.tone}`} x={right} y={y} textAnchor="end">
        {state.usable_a <= 0 ? (
          state.asked_a > 5e-4 ? (
            <>asked {number("asked", amps(state.asked_a))}, no source</>
          ) : (
            "no source in this condition"
          )
        ) : state.tone !== "ok" ? (
          <>
            {glyph(state.tone)} asked {number("asked", amps(state.asked_a))}, usable {number("usable", amps(state.usable_a))}
            {printed}
          </>
        ) : (
          <>
            spare {number("spare", amps(state.spare_a))} of {number("usable", amps(state.usable_a))}
            {printed}
            {bound}
          </>
        )}
      </text>
    </>
  );
}
