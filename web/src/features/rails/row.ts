/** A track as it is drawn: where it stands, what it hangs from, and what is written on it. */
import type { BlockText } from "./blockText";
import type { Track } from "./geometry";

export interface Row {
  id: string;
  depth: number;
  parent: string | null;
  condition: string;
  track: Track;
  block: BlockText;
  top: number;
  y: number;
  height: number;
}
