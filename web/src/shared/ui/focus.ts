/** Moving the keyboard to what has just appeared. */

const FRAMES = 90;

/** Focus the first of the selectors that is there, as soon as one is, for a second and a half; what is not focusable by itself is made so. */
export function focusSoon(selectors: string | readonly string[], frames = FRAMES): void {
  const wanted = typeof selectors === "string" ? [selectors] : selectors;
  const found = wanted.map((one) => document.querySelector<HTMLElement | SVGElement>(one)).find((one) => one !== null);
  if (found) {
    if (!found.hasAttribute("tabindex") && !found.matches("a[href], button, input, select, textarea")) found.setAttribute("tabindex", "-1");
    found.focus();
    return;
  }
  if (frames > 0) requestAnimationFrame(() => focusSoon(selectors, frames - 1));
}
