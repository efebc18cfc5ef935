/** A synthetic test frame with interference on it, line by line at its true frequency, as a screen would draw it. */
import type { LineStandard } from "@/shared/api/types";

export interface Interference {
  hz: number;
  /** Peak to peak [V] at the picture. */
  ppV: number;
}

/** Luminance 0…1 of the test frame itself: steps of grey above, a ramp in the middle, fine bars below. */
export function testFrame(x: number, y: number): number {
  if (y < 0.34) return Math.floor(x * 8) / 7;
  if (y < 0.67) return 0.5;
  if (y < 0.84) return x;
  return Math.floor(x * 64) % 2 === 0 ? 0.3 : 0.7;
}

/**
 * Luminance of every pixel, row by row, both fields interlaced.
 *
 * A row is one visible line of the frame; the time of a pixel is that of its field, its line and its place in it, so an
 * interference drifts from line to line and from frame to frame exactly as far as its frequency makes it.
 */
export function renderFrame(
  standard: LineStandard,
  width: number,
  height: number,
  interference: Interference[],
  startS: number,
  base: (x: number, y: number) => number = testFrame,
): Float32Array {
  const pixels = new Float32Array(width * height);
  const fieldS = standard.lines / 2 / standard.line_hz;
  for (let row = 0; row < height; row += 1) {
    const line = Math.floor((row / height) * standard.visible_lines);
    const lineStart = startS + (line % 2) * fieldS + Math.floor(line / 2) / standard.line_hz;
    for (let column = 0; column < width; column += 1) {
      const time = lineStart + ((column + 0.5) / width) * standard.active_s;
      let value = base(column / width, row / height);
      for (const one of interference) value += ((one.ppV / 2) * Math.sin(2 * Math.PI * one.hz * time)) / standard.picture_v;
      pixels[row * width + column] = Math.min(1, Math.max(0, value));
    }
  }
  return pixels;
}
