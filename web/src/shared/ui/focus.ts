/** Moving the keyboard to what has just appeared. */

const FRAMES = 20;

/** Focus the first element of a selector as soon as it is there, for a third of a second; what is not focusable by itself is made so. */
export function focusSoon(selector: string, frames = FRAMES): void {
  const found = document.querySelector<HTMLElement | SVGElement>(selector);
  if (found) {
    if (!found.hasAttribute("tabindex") && !found.matches("a[href], button, input, select, textarea")) found.setAttribute("tabindex", "-1");
    found.focus();
    return;
  }
  if (frames > 0) requestAnimationFrame(() => focusSoon(selector, frames - 1));
}
