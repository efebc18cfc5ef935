/** Where an arrow key leads among items that stand in rows. */
export interface Stop {
  row: number;
  x: number;
}

/** Place of the item to go to, or null when the key leads nowhere. Up and down take the item that stands nearest in the next row. */
export function nextStop(stops: Stop[], at: number, key: string): number | null {
  const from = stops[at];
  if (!from) return null;
  const order = stops.map((stop, index) => ({ ...stop, index })).sort((a, b) => a.row - b.row || a.x - b.x);
  const place = order.findIndex((stop) => stop.index === at);
  const along = (step: number) => {
    const next = order[place + step];
    return next && next.row === from.row ? next.index : null;
  };
  if (key === "ArrowRight") return along(1);
  if (key === "ArrowLeft") return along(-1);
  if (key === "Home") return order.find((stop) => stop.row === from.row)?.index ?? null;
  if (key === "End") return order.findLast((stop) => stop.row === from.row)?.index ?? null;
  if (key !== "ArrowDown" && key !== "ArrowUp") return null;
  const beyond = order.filter((stop) => (key === "ArrowDown" ? stop.row > from.row : stop.row < from.row));
  const row = key === "ArrowDown" ? beyond[0]?.row : beyond.at(-1)?.row;
  const inRow = beyond.filter((stop) => stop.row === row);
  return inRow.sort((a, b) => Math.abs(a.x - from.x) - Math.abs(b.x - from.x))[0]?.index ?? null;
}
