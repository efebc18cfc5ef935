/** A synthetic test frame with interference on it, line by line at its true frequency, as a screen would draw it. */

export interface Standard {
  name: string;
  lineHz: number;
  lines: number;
  visible: number;
  activeS: number;
  /** Black to white [V]. */
  pictureV: number;
}

/** SMPTE ST 170 and ITU-R BT.1700. */
export const STANDARDS: Record<"525" | "625", Standard> = {
  "525": { name: "525 lines", lineHz: 4.5e6 / 286, lines: 525, visible: 486, activeS: 52.66e-6, pictureV: 0.714 },
  "625": { name: "625 lines", lineHz: 15625, lines: 625, visible: 576, activeS: 52e-6, pictureV: 0.7 },
};

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
export function renderFrame(standard: Standard, width: number, height: number, interference: Interference[], startS: number, base: (x: number, y: number) => number = testFrame): Float32Array {
  const pixels = new Float32Array(width * height);
  const fieldS = standard.lines / 2 / standard.lineHz;
  for (let row = 0; row < height; row += 1) {
    const line = Math.floor((row / height) * standard.visible);
    const lineStart = startS + (line % 2) * fieldS + Math.floor(line / 2) / standard.lineHz;
    for (let column = 0; column < width; column += 1) {
      const time = lineStart + ((column + 0.5) / width) * standard.activeS;
      let value = base(column / width, row / height);
      for (const one of interference) value += ((one.ppV / 2) * Math.sin(2 * Math.PI * one.hz * time)) / standard.pictureV;
      pixels[row * width + column] = Math.min(1, Math.max(0, value));
    }
  }
  return pixels;
}

/** Lines of a field between two bars of an interference; infinite when it stands still from line to line. */
export function pitchLines(standard: Standard, hz: number): number {
  const offset = hz - Math.round(hz / standard.lineHz) * standard.lineHz;
  return Math.abs(offset) < 1e-9 ? Number.POSITIVE_INFINITY : Math.abs(standard.lineHz / offset);
}

/** Bars that roll past a point in a second. */
export function rollPerS(standard: Standard, hz: number): number {
  const field = (2 * standard.lineHz) / standard.lines;
  return Math.abs(hz - Math.round(hz / field) * field);
}

/** What the bars look like, in words. */
export function barWords(standard: Standard, hz: number): string {
  const pitch = pitchLines(standard, hz);
  const across = hz * standard.activeS;
  if (hz < standard.lineHz / 2) return `${Math.max(standard.visible / 2 / pitch, 0).toFixed(1)} bars lying across the picture, rolling ${rollPerS(standard, hz).toFixed(1)} a second`;
  const slant = Number.isFinite(pitch) ? `shifting one period every ${pitch.toFixed(1)} lines` : "standing upright";
  return `${across.toFixed(0)} ${across < 1.5 ? "wave" : "waves"} across a line, ${slant}`;
}
