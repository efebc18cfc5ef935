/** A move as the server tried it, or why it could not be tried. */
import { ApiError } from "@/shared/api/client";
import type { Edit, MoveTried, PreviewView } from "@/shared/api/types";

export function moveOf(device: string, rail: string): Edit[] {
  return [{ op: "move", device, rail, with_return: true }];
}

export async function tryMove(
  preview: (edits: Edit[], condition?: string) => Promise<PreviewView>,
  device: string,
  rail: string,
  condition?: string,
): Promise<MoveTried> {
  try {
    const found = (await preview(moveOf(device, rail), condition)).move;
    if (found) return found;
    throw new Error("the server tried no move");
  } catch (caught) {
    return refusedMove(device, rail, caught);
  }
}

export function refusedMove(device: string, rail: string, caught: unknown): MoveTried {
  const why = caught instanceof ApiError ? caught.body.what : String(caught);
  return { device, rail, refused: `Refused: ${why}`, against: null, spare: {}, words: "" };
}
