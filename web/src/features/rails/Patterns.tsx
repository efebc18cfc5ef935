/** Fills that tell how far a draw can be trusted. */
export function Patterns() {
  return (
    <defs>
      <pattern id="hatch-sheet" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="7" height="7" fill="var(--card)" />
        <rect width="3.4" height="7" fill="var(--petrol)" />
      </pattern>
      <pattern id="hatch-reported" width="12" height="12" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="12" height="12" fill="var(--card)" />
        <rect width="2" height="12" fill="var(--petrol)" />
      </pattern>
      <pattern id="beyond" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
        <rect width="3" height="8" fill="var(--oxide)" opacity="0.45" />
      </pattern>
    </defs>
  );
}

export const FILL: Record<string, string> = {
  measured: "var(--petrol)",
  sheet: "url(#hatch-sheet)",
  reported: "url(#hatch-reported)",
  guess: "var(--card)",
  computed: "var(--ballast)",
};
