/** What the wagons' fills mean. */
import { FILL } from "./Patterns";

const KINDS: [string, string][] = [
  ["measured", "measured here"],
  ["sheet", "maker's sheet"],
  ["reported", "reported by others"],
  ["guess", "guess"],
  ["computed", "a regulator's own draw"],
];

export function Legend() {
  return (
    <ul className="legend" aria-label="How far draws can be trusted">
      {KINDS.map(([kind, words]) => (
        <li key={kind}>
          <svg width="26" height="12" aria-hidden>
            <rect x="1" y="1" width="24" height="10" fill={FILL[kind]} className={`wagon-body legend-${kind}`} />
          </svg>
          {words}
        </li>
      ))}
      <li>Numbers with a dotted line show their working.</li>
    </ul>
  );
}
