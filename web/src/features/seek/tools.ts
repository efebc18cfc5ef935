/** Tools and answers by the words of the trade: where each stands. */
export interface Tool {
  name: string;
  /** What else it is asked for by. */
  also: string;
  view: string;
  sheet?: string;
}

export const TOOLS: readonly Tool[] = [
  { name: "Resistor for a LED", also: "led ohm tail light lamp string series", view: "leds" },
  { name: "Wires: gauge, drop, heat", also: "wire awg gauge cable thickness drop melt hook-up length colour", view: "grounds", sheet: "Hook-up" },
  { name: "Capacitors and filters tried", also: "capacitor cap lc filter ferrite bead bulk low esr ripple coil", view: "noise", sheet: "Parts" },
  { name: "Picture predicted", also: "video noise lines interference picture stripes bars", view: "noise" },
  { name: "Noise measured", also: "oscilloscope measure ripple scope", view: "noise", sheet: "Measured" },
  { name: "Ways to feed a device", also: "feed bec regulator ldo buck step-down linear quiet supply", view: "noise", sheet: "Feeds" },
  { name: "Volts windows and pack sweep", also: "brown-out brownout reset low pack sag dropout window over-voltage cells", view: "windows" },
  { name: "Chances of being over", also: "tolerance monte carlo chance guess band", view: "windows", sheet: "Chances" },
  { name: "Ground heights and loops", also: "ground loop star return earth gnd minus millivolt", view: "grounds" },
  { name: "Signals and pins", also: "uart tx rx sbus pin signal wire esc servo one-wire i2c", view: "grounds", sheet: "Signals" },
  { name: "Straps and pad bridges", also: "strap bridge jumper selectable pad", view: "rails" },
  { name: "First power through a limiter", also: "short smoke lamp fuse limiter first power plug", view: "rails" },
  {
    name: "Run: the plan in time",
    also: "scenario transient inrush hot plug spike ringing punch brown-out reset hold-up reboot loop thermal trip flight simulate timetable",
    view: "run",
  },
  { name: "Bench list: where to put the probes", also: "meter multimeter continuity beep short check list test first power probe fault", view: "bench" },
  { name: "Cautions before power", also: "antenna prop fumes caution safety transmitter short meter", view: "card" },
  { name: "Stand-alone regulators on the shelf", also: "bec ubec regulator step-up boost 5v 9v 12v", view: "shelf" },
];
