import { expect, it } from "vitest";
import { keyName } from "./useKeys";

function press(key: string, held: Partial<KeyboardEvent> = {}): string {
  return keyName({ key, ctrlKey: false, metaKey: false, shiftKey: false, altKey: false, ...held } as KeyboardEvent);
}

it("names keys as the list of shortcuts does", () => {
  expect([
    press("1"),
    press("G"),
    press("?", { shiftKey: true }),
    press("z", { ctrlKey: true }),
    press("Z", { ctrlKey: true, shiftKey: true }),
    press("Escape"),
    press("z", { metaKey: true }),
  ]).toEqual(["1", "g", "?", "ctrl+z", "ctrl+shift+z", "Escape", "ctrl+z"]);
});
