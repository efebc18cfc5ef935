/** Ways the pack reaches things, in the builder's words. */
import type { components } from "@/shared/api/schema";

export interface Shape {
  key: string;
  topology: NonNullable<components["schemas"]["StartWiredBody"]["topology"]>;
  name: string;
  words: string;
  /** What to choose in the step of boards. */
  boards: string;
  /** Stations of its little drawing, from the pack on; what stands in one list hangs side by side. */
  drawn: readonly (readonly string[])[];
}

export const SHAPES = [
  {
    key: "stack",
    topology: "stack",
    name: "Stack",
    words: "pack → four-way ESC → harness → controller",
    boards:
      "Choose a four-way ESC and a controller: the pack is soldered to the ESC, the controller hangs on its harness. Overlay boards and regulators of their own are here too.",
    drawn: [["pack"], ["ESC"], ["controller"]],
  },
  {
    key: "one-board",
    topology: "one-board",
    name: "All in one",
    words: "one board is ESC and controller, on the pack",
    boards: "Choose the one board that is everything; regulators and overlay boards of their own hang on it.",
    drawn: [["pack"], ["board"]],
  },
  {
    key: "power-board",
    topology: "power-board",
    name: "Power board and single ESCs",
    words: "pack → power board → ESCs and controller beside each other",
    boards:
      "Choose a power board (a bare one is there when you choose none), an ESC for each motor, and the controller. Leads carry signal, ground, and a red wire where the ESC has a BEC.",
    drawn: [["pack"], ["power board"], ["ESC", "ESC", "controller"]],
  },
  {
    key: "whoop",
    topology: "one-board",
    name: "Whoop on one cell",
    words: "a cell, one board, everything small",
    boards: "Choose an all-in-one board for one cell: with 5 V stepped up, or with 3.3 V straight from the cell.",
    drawn: [["cell"], ["board"]],
  },
  {
    key: "wing",
    topology: "leads",
    name: "Wing with servos",
    words: "pack leads → ESC with BEC → servos, receiver, controller",
    boards: "Choose the ESC, a servo BEC where the ESC has none strong enough, and a wing controller if there is one.",
    drawn: [["pack"], ["ESC", "controller"], ["servos"]],
  },
  {
    key: "bare",
    topology: "leads",
    name: "No controller",
    words: "a lamp, a camera, a sealed craft: the pack’s leads and what hangs on them",
    boards: "No board is needed. A regulator of its own can stand between the leads and what they feed.",
    drawn: [["pack"], ["lamp"]],
  },
] as const satisfies readonly [Shape, ...Shape[]];
