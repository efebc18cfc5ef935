/** What the pack is soldered to, chosen by its drawing. */
import { SHAPES, type Shape } from "./shapes";

const STEP = 80;
const ROW = 20;

export function ShapePicker({ chosen, choose }: { chosen: Shape; choose: (shape: Shape) => void }) {
  return (
    <section>
      <h2>How does the pack reach things?</h2>
      <div className="shapes" role="radiogroup" aria-label="How does the pack reach things?">
        {SHAPES.map((shape) => (
          <label key={shape.key} className={shape.key === chosen.key ? "shape is-chosen" : "shape"}>
            <input type="radio" name="shape" checked={shape.key === chosen.key} onChange={() => choose(shape)} />
            <strong>{shape.name}</strong>
            <Drawing shape={shape} />
            <span className="muted">{shape.words}</span>
          </label>
        ))}
      </div>
    </section>
  );
}

function Drawing({ shape }: { shape: Shape }) {
  const y = (station: readonly string[], k: number) => 30 + (k - (station.length - 1) / 2) * ROW;
  return (
    <svg viewBox="0 0 236 60" aria-hidden>
      {shape.drawn
        .slice(1)
        .map((station, k) =>
          station.map((name, j) => (
            <line key={`${name}${j}`} x1={4 + k * STEP + 68} y1={y(shape.drawn[k] ?? [], 0)} x2={4 + (k + 1) * STEP} y2={y(station, j)} />
          )),
        )}
      {shape.drawn.map((station, k) =>
        station.map((name, j) => (
          <g key={`${name}${j}`}>
            <rect x={4 + k * STEP} y={y(station, j) - 8} width={68} height={16} rx={2} />
            <text x={4 + k * STEP + 34} y={y(station, j) + 4} textAnchor="middle">
              {name}
            </text>
          </g>
        )),
      )}
    </svg>
  );
}
