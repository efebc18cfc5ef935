/** A line of LEDs as it is soldered: the rail, each string with its resistor, ground. */
import { amps, si } from "@/shared/ui/format";

interface Props {
  rail: string;
  series: number;
  strings: number;
  ohm: number | null;
  amps_a: number | null;
  over: boolean;
}

const ROW = 46;
const SHOWN = 4;
const STEP = 44;

export function LedPicture({ rail, series, strings, ohm, amps_a, over }: Props) {
  const rows = Math.min(Math.max(strings, 1), SHOWN);
  const leds = Math.min(Math.max(series, 1), 10);
  const width = 190 + leds * STEP + 130;
  const height = 34 + rows * ROW + (strings > SHOWN ? 18 : 0);
  const end = width - 30;
  return (
    <svg
      className="led-picture"
      viewBox={`0 0 ${width} ${height}`}
      style={{ maxWidth: width }}
      role="img"
      aria-label={`${strings} strings of ${series} LEDs on ${rail}`}
    >
      <text x="6" y="16">
        {rail}
      </text>
      <line className="bus" x1="40" x2="40" y1="22" y2={22 + rows * ROW - ROW / 2} />
      <text x={end - 30} y="16">
        ground
      </text>
      <line className="bus" x1={end} x2={end} y1="22" y2={22 + rows * ROW - ROW / 2} />
      {Array.from({ length: rows }, (_, row) => {
        const y = 22 + ROW / 2 + row * ROW;
        return (
          <g key={row} className={over ? "is-over" : ""}>
            <line className="copper" x1="40" x2={end} y1={y} y2={y} />
            <rect className="resistor" x="66" y={y - 7} width="56" height="14" />
            {row === 0 && ohm !== null && (
              <text x="94" y={y - 11} textAnchor="middle">
                {si(ohm, "Ω")}
              </text>
            )}
            {Array.from({ length: leds }, (_, k) => {
              const x = 150 + k * STEP;
              return (
                <g key={k}>
                  <path className="led" d={`M ${x} ${y - 9} L ${x} ${y + 9} L ${x + 16} ${y} Z`} />
                  <line className="copper" x1={x + 16} x2={x + 16} y1={y - 9} y2={y + 9} />
                  <path className="glow" d={`M ${x + 6} ${y - 12} l 5 -6 M ${x + 12} ${y - 12} l 5 -6`} />
                </g>
              );
            })}
            {row === 0 && amps_a !== null && (
              <text x={150 + leds * STEP + 4} y={y - 6}>
                {amps(amps_a)}
              </text>
            )}
          </g>
        );
      })}
      {strings > SHOWN && (
        <text x="66" y={height - 6}>
          and {strings - SHOWN} strings alike
        </text>
      )}
      {series > leds && (
        <text x={150} y={height - 6}>
          {series} in a row, ten drawn
        </text>
      )}
    </svg>
  );
}
