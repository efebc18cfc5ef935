/** Amps or watts as a builder types them. */

const SCALE: Record<string, number> = { "": 1, m: 1e-3, k: 1e3, µ: 1e-6, u: 1e-6 };

/** “850mA”, “1,5 A”, “9W” or a bare number; null for what is none. */
export function typedAmps(text: string): number | null {
  const found = /^\s*(\d+(?:[.,]\d+)?|[.,]\d+)\s*([mkµu]?)\s*[AaWw]?\s*$/.exec(text);
  const scale = SCALE[found?.[2] ?? ""];
  return found?.[1] && scale !== undefined ? Number((Number(found[1].replace(",", ".")) * scale).toPrecision(12)) : null;
}
