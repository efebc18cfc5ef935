/** Severity marks: shape, word and colour together. */
import type { Severity } from "@/shared/api/types";

export type MarkKind = Severity | "ok";

const GLYPH: Record<MarkKind, string> = { danger: "■", fault: "◆", caution: "▲", note: "○", ok: "✓" };
const WORD: Record<MarkKind, string> = { danger: "danger", fault: "fault", caution: "caution", note: "note", ok: "clear" };
const ORDER: MarkKind[] = ["danger", "fault", "caution", "note", "ok"];

export function glyph(kind: MarkKind): string {
  return GLYPH[kind];
}

export function word(kind: MarkKind): string {
  return WORD[kind];
}

export function worst(kinds: Iterable<MarkKind>): MarkKind {
  let found: MarkKind = "ok";
  for (const kind of kinds) if (ORDER.indexOf(kind) < ORDER.indexOf(found)) found = kind;
  return found;
}

export function Mark({ kind, withWord = false }: { kind: MarkKind; withWord?: boolean }) {
  return (
    <span className={`mark mark-${kind}`} title={WORD[kind]}>
      <span aria-hidden>{GLYPH[kind]}</span>
      {withWord ? <span className="mark-word"> {WORD[kind]}</span> : <span className="sr-only">{WORD[kind]}</span>}
    </span>
  );
}
