/** Chances and times as they are said at the bench. */

export function percent(fraction: number): string {
  const value = 100 * fraction;
  return `${value === 0 || value >= 10 ? Math.round(value) : value.toFixed(1)} %`;
}

export function seconds(time: number): string {
  return time < 90 ? `${Math.round(time)} s` : `${Math.round(time / 60)} min`;
}
