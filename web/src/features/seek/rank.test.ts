import { expect, it } from "vitest";
import { rank } from "./SeekBox";
import { TOOLS } from "@/shared/api/constants";

it("needs every word and likes beginnings", () => {
  expect(rank("Sound recorder device", "rec sou")).toBeGreaterThanOrEqual(0);
  expect(rank("Sound recorder device", "rec cam")).toBe(-1);
  expect(rank("Receiver", "rec")).toBeGreaterThan(rank("Sound recorder", "rec"));
  expect(rank("Sound recorder", "rec")).toBeGreaterThan(rank("Direction", "rec"));
  expect(rank("anything", "")).toBeGreaterThanOrEqual(0);
});

it("finds tools by the words of the trade", () => {
  const best = (typed: string) => TOOLS.filter((tool) => rank(`${tool.name} tool ${tool.also}`, typed) >= 0).map((tool) => tool.name);
  expect(best("led resistor")).toContain("Resistor for a LED");
  for (const typed of ["wire", "capacitor", "strap", "bec", "short", "antenna", "brown-out", "ubec", "smoke"]) expect(best(typed)).not.toEqual([]);
});

const WORDS = `
  amps antenna anti-spark autopilot awg b+ baro battery bead beacon beep bec board boost braking bridge brightness brown-out brownout buck budget
  bulb bulk buzzer cable cam camera cap capacitor caution cells charge choke coil colour compare compass connector consumption controller converter cooling
  copper crimp current dead derate difference diode dip display drop electrolytic esc fan fault fc ferrite filter fire flux fumes fuse gauge gimbal gnd
  gnss gps grams ground harness headroom heat hold-up hook-up hot hum i2c inductor inrush interference inverted iron jitter jumper lamp landing ldo led
  length li-ion lidar light limiter lines lipo load logic loop low-esr magnetometer margin melt meter milliamp minus motor multimeter noise odds ohm
  osd oscilloscope over-voltage overheating overload pack pad parts pdb picture pigtail pin pinout plug polarity policy position power print probe prop psu punch
  reboot receiver regen regulator reset resistor restart return ringing ripple risk rx sag satellite sbec scope sender serial servo settings shelf short signal
  silicone smoke snow socket solder spark speed spike star static step-down step-up strap strobe switch tail telemetry temperature throttle tolerance transmitter
  troubleshoot tvs tx uart ubec usb vbat voltage vtx warm watt weight whine wire xt-type zener
`
  .split(/\s+/)
  .filter(Boolean);
const PHRASES = [
  "red wire",
  "smoke stopper",
  "servo jitter",
  "heat sink",
  "flight controller",
  "power board",
  "low esr",
  "speed controller",
  "first power",
  "hot plug",
];

it("answers every word a builder types, whatever craft it is", () => {
  const places = [...TOOLS.map((tool) => `${tool.name} tool ${tool.also}`)];
  const lost = [...WORDS, ...PHRASES].filter((typed) => !places.some((text) => rank(text, typed) >= 0));
  expect(WORDS.length + PHRASES.length).toBeGreaterThanOrEqual(150);
  expect(lost).toEqual([]);
});

it("finds what is called otherwise, and no fox for a receiver", () => {
  expect(rank("Long-range receiver device", "rx")).toBeGreaterThanOrEqual(0);
  expect(rank("GNSS with compass device", "gps")).toBeGreaterThanOrEqual(0);
  expect(rank("Marshlight fox device", "rx")).toBe(-1);
  expect(rank("6S 5 Ah pack", "lipo")).toBeGreaterThanOrEqual(0);
  expect(rank("Sender regulator", "capacitor")).toBe(-1);
});
