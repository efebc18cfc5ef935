/** Made by ./yard types from the API and the core: what may be chosen, and how numbers are written. Not to be edited. */
import type { components } from "./schema";

type Schemas = components["schemas"];
type Of<T> = readonly Exclude<T, null | undefined>[];

/** Values of every field that is chosen from a list, by schema and field. */
export const CHOICES = {
  "Add.kind": ["board", "rail", "supply", "device", "inlet", "condition", "scenario", "signal", "filter", "clamp", "noise", "return", "pad", "pin"] as const satisfies Of<Schemas["Add"]["kind"]>,
  "AddSource.kind": ["usb", "bench", "lamp", "fuse"] as const satisfies Of<Schemas["AddSource"]["kind"]>,
  "AddressBody.role": ["meter", "supply"] as const satisfies Of<Schemas["AddressBody"]["role"]>,
  "BenchGate.gate": ["eyes", "meter", "plug", "rails", "branches", "grounds", "cross", "pins", "states", "limiter", "volts", "usb", "function", "pack", "still", "load"] as const satisfies Of<Schemas["BenchGate"]["gate"]>,
  "BenchStep.gate": ["eyes", "meter", "plug", "rails", "branches", "grounds", "cross", "pins", "states", "limiter", "volts", "usb", "function", "pack", "still", "load"] as const satisfies Of<Schemas["BenchStep"]["gate"]>,
  "Board.kind": ["power", "controller", "esc", "regulator", "other"] as const satisfies Of<Schemas["Board"]["kind"]>,
  "Board.pinout": ["unverified", "document", "print", "measured"] as const satisfies Of<Schemas["Board"]["pinout"]>,
  "CapacitorFilter.dielectric": ["electrolytic", "polymer", "tantalum", "c0g", "x7r", "x5r"] as const satisfies Of<Schemas["CapacitorFilter"]["dielectric"]>,
  "CapacitorPart.dielectric": ["electrolytic", "polymer", "tantalum", "c0g", "x7r", "x5r"] as const satisfies Of<Schemas["CapacitorPart"]["dielectric"]>,
  "CauseSeen.kind": ["trip", "overload", "dropout", "volts", "limit", "shift", "level", "moving noise", "standing noise", "resonance", "field", "as planned", "hot", "over", "plug", "fault", "aged pack", "lost cell", "dried", "draws more", "gives less", "part", "signal open", "signal crossed", "thin wire", "setting"] as const satisfies Of<Schemas["CauseSeen"]["kind"]>,
  "Cells.chemistry": ["lipo", "lihv", "liion"] as const satisfies Of<Schemas["Cells"]["chemistry"]>,
  "ChancesState.state": ["waiting", "running", "done", "stopped", "failed"] as const satisfies Of<Schemas["ChancesState"]["state"]>,
  "Change.direction": ["better", "worse", "moved"] as const satisfies Of<Schemas["Change"]["direction"]>,
  "CoilPart.dielectric": ["electrolytic", "polymer", "tantalum", "c0g", "x7r", "x5r"] as const satisfies Of<Schemas["CoilPart"]["dielectric"]>,
  "Condition.air": ["still", "moving"] as const satisfies Of<Schemas["Condition"]["air"]>,
  "Condition.default_state": ["off", "boot", "idle", "typical", "peak"] as const satisfies Of<Schemas["Condition"]["default_state"]>,
  "Condition.pack_state": ["full", "nominal", "low", "floor"] as const satisfies Of<Schemas["Condition"]["pack_state"]>,
  "Confirmed.role": ["time", "volts", "amps", "throttle", "rail volts", "temperature", "charge", "event"] as const satisfies Of<Schemas["Confirmed"]["role"]>,
  "Consumer.kind": ["device", "supply"] as const satisfies Of<Schemas["Consumer"]["kind"]>,
  "Consumer.provenance": ["measured", "sheet", "reported", "guess"] as const satisfies Of<Schemas["Consumer"]["provenance"]>,
  "CorrectionBody.kind": ["measurement", "flight", "symptom", "change", "note", "evidence"] as const satisfies Of<Schemas["CorrectionBody"]["kind"]>,
  "DemoView.key": ["marshlight", "culvert", "wren", "heathwatch"] as const satisfies Of<Schemas["DemoView"]["key"]>,
  "Device.kind": ["camera", "sender", "digital", "receiver", "gnss", "led", "servo", "recorder", "computer", "sensor", "motor", "logic", "other"] as const satisfies Of<Schemas["Device"]["kind"]>,
  "Device.law": ["current", "power", "resistance", "led"] as const satisfies Of<Schemas["Device"]["law"]>,
  "DeviceState.verdict": ["ok", "off", "dead", "low", "reset", "high", "unknown"] as const satisfies Of<Schemas["DeviceState"]["verdict"]>,
  "DeviceState.weight": ["caution", "fault", "danger"] as const satisfies Of<Schemas["DeviceState"]["weight"]>,
  "DiagnosisSeen.standing": ["open", "named", "unknown"] as const satisfies Of<Schemas["DiagnosisSeen"]["standing"]>,
  "Difference.verdict": ["difference", "no difference shown", "not comparable"] as const satisfies Of<Schemas["Difference"]["verdict"]>,
  "Draw.provenance": ["measured", "sheet", "reported", "guess"] as const satisfies Of<Schemas["Draw"]["provenance"]>,
  "Draw.unit": ["A", "W"] as const satisfies Of<Schemas["Draw"]["unit"]>,
  "DrawBody.provenance": ["measured", "sheet", "reported", "guess"] as const satisfies Of<Schemas["DrawBody"]["provenance"]>,
  "DrivenBy.use": ["throttle", "amps"] as const satisfies Of<Schemas["DrivenBy"]["use"]>,
  "EntryBody.kind": ["measurement", "flight", "symptom", "change", "note", "evidence"] as const satisfies Of<Schemas["EntryBody"]["kind"]>,
  "EntryView.outcome": ["passed", "failed", "skipped", "read", "repaired"] as const satisfies Of<Schemas["EntryView"]["outcome"]>,
  "Finding.sense": ["at most", "at least", "equal"] as const satisfies Of<Schemas["Finding"]["sense"]>,
  "Finding.severity": ["danger", "fault", "caution", "note"] as const satisfies Of<Schemas["Finding"]["severity"]>,
  "Fit.told": ["fitted", "not told apart", "not recorded"] as const satisfies Of<Schemas["Fit"]["told"]>,
  "FlightView.run_by": ["throttle", "amps", ""] as const satisfies Of<Schemas["FlightView"]["run_by"]>,
  "Glance.always": ["danger", "fault", "caution", "note"] as const satisfies Of<Schemas["Glance"]["always"]>,
  "Guess.role": ["time", "volts", "amps", "throttle", "rail volts", "temperature", "charge", "event"] as const satisfies Of<Schemas["Guess"]["role"]>,
  "HelpSeen.kind": ["start order", "slower throttle", "another place", "ground", "shorter lead", "capacitor", "clamp", "anti-spark", "diode and capacitor", "own regulator", "larger regulator", "bulk"] as const satisfies Of<Schemas["HelpSeen"]["kind"]>,
  "HookupRow.colour": ["red", "black", "yellow", "white", "green", "blue", "orange", "brown", "grey", "violet"] as const satisfies Of<Schemas["HookupRow"]["colour"]>,
  "HookupRow.polarity": ["+", "−", "signal"] as const satisfies Of<Schemas["HookupRow"]["polarity"]>,
  "HookupRow.smallest_by": ["drop", "heat", "handling"] as const satisfies Of<Schemas["HookupRow"]["smallest_by"]>,
  "Inlet.kind": ["usb", "bench", "lamp", "fuse", "cell"] as const satisfies Of<Schemas["Inlet"]["kind"]>,
  "Input.quantity": ["volts", "asked", "usable", "spare", "headroom", "temperature", "loss", "pin", "drop", "pack", "share", "ground", "shift", "noise"] as const satisfies Of<Schemas["Input"]["quantity"]>,
  "LayoutLine.do": ["add", "move", "change"] as const satisfies Of<Schemas["LayoutLine"]["do"]>,
  "LcFilter.dielectric": ["electrolytic", "polymer", "tantalum", "c0g", "x7r", "x5r"] as const satisfies Of<Schemas["LcFilter"]["dielectric"]>,
  "LevelView.level": ["quick", "usual", "thorough"] as const satisfies Of<Schemas["LevelView"]["level"]>,
  "Limit.kind": ["print", "heat", "connector", "wire", "pack", "port", "pad", "share", "limiter", "cut"] as const satisfies Of<Schemas["Limit"]["kind"]>,
  "Line.kind": ["pack", "rail", "device", "clamp", "supply"] as const satisfies Of<Schemas["Line"]["kind"]>,
  "LogLineView.kind": ["step", "bench", "measurement", "flight", "symptom", "change", "note", "evidence"] as const satisfies Of<Schemas["LogLineView"]["kind"]>,
  "LogLineView.story": ["", "open", "settled", "left"] as const satisfies Of<Schemas["LogLineView"]["story"]>,
  "LookBody.outcome": ["passed", "failed", "skipped"] as const satisfies Of<Schemas["LookBody"]["outcome"]>,
  "Mark.severity": ["danger", "fault", "caution", "note"] as const satisfies Of<Schemas["Mark"]["severity"]>,
  "MeasuredNoise.kind": ["pwm", "commutation", "switching", "burst"] as const satisfies Of<Schemas["MeasuredNoise"]["kind"]>,
  "MeasuredNoise.unit": ["V", "A"] as const satisfies Of<Schemas["MeasuredNoise"]["unit"]>,
  "MoreLine.unit": ["A", "%", "°C"] as const satisfies Of<Schemas["MoreLine"]["unit"]>,
  "NewBuildBody.demo": ["marshlight", "culvert", "wren", "heathwatch"] as const satisfies Of<Schemas["NewBuildBody"]["demo"]>,
  "NextTrial.doing": ["probe", "unplug", "lift", "volts", "millivolts", "amps"] as const satisfies Of<Schemas["NextTrial"]["doing"]>,
  "NextTrial.unit": ["Ω", "V", "A"] as const satisfies Of<Schemas["NextTrial"]["unit"]>,
  "OutputAdvice.stands": ["inside", "outside", "none"] as const satisfies Of<Schemas["OutputAdvice"]["stands"]>,
  "OutputBound.kind": ["open below", "open above", "needs", "takes", "input"] as const satisfies Of<Schemas["OutputBound"]["kind"]>,
  "Pack.chemistry": ["lipo", "lihv", "liion"] as const satisfies Of<Schemas["Pack"]["chemistry"]>,
  "Pad.direction": ["out", "in"] as const satisfies Of<Schemas["Pad"]["direction"]>,
  "Part.kind": ["pack", "board", "bec", "device", "capacitor", "filter", "clamp", "diode", "resistor", "wire", "connector"] as const satisfies Of<Schemas["Part"]["kind"]>,
  "Part.provenance": ["measured", "sheet", "reported", "guess"] as const satisfies Of<Schemas["Part"]["provenance"]>,
  "PartFails.how": ["open", "short"] as const satisfies Of<Schemas["PartFails"]["how"]>,
  "Phase.kind": ["rest", "hover", "punch", "landing"] as const satisfies Of<Schemas["Phase"]["kind"]>,
  "Pin.input_levels": ["ttl", "cmos"] as const satisfies Of<Schemas["Pin"]["input_levels"]>,
  "Pin.role": ["video-in", "video-out", "tx", "rx", "servo-out", "servo-in", "esc-out", "esc-in", "one-wire", "sda", "scl", "led-out", "led-in", "buzzer-out", "buzzer-in", "camera-out", "camera-in", "power-in", "power-out", "ground", "ident", "keep-off", "other"] as const satisfies Of<Schemas["Pin"]["role"]>,
  "Place.kind": ["rail", "pack", "bec"] as const satisfies Of<Schemas["Place"]["kind"]>,
  "Policy.cascade": ["allowed", "never"] as const satisfies Of<Schemas["Policy"]["cascade"]>,
  "Policy.paralleling": ["never", "linear", "any"] as const satisfies Of<Schemas["Policy"]["paralleling"]>,
  "ProbeAt.kind": ["plug", "rail", "pad", "supply pin", "ground", "shell", "signal pin", "input"] as const satisfies Of<Schemas["ProbeAt"]["kind"]>,
  "RailState.tone": ["ok", "caution", "fault"] as const satisfies Of<Schemas["RailState"]["tone"]>,
  "RecordingBody.use": ["throttle", "amps"] as const satisfies Of<Schemas["RecordingBody"]["use"]>,
  "Regulator.fails": ["open", "short"] as const satisfies Of<Schemas["Regulator"]["fails"]>,
  "Regulator.kind": ["linear", "buck", "boost", "buckboost"] as const satisfies Of<Schemas["Regulator"]["kind"]>,
  "Regulator.limit_style": ["constant", "fold back", "hiccup", "latch"] as const satisfies Of<Schemas["Regulator"]["limit_style"]>,
  "Regulator.place": ["board", "esc", "alone", "device"] as const satisfies Of<Schemas["Regulator"]["place"]>,
  "Regulator.provenance": ["measured", "sheet", "reported", "guess"] as const satisfies Of<Schemas["Regulator"]["provenance"]>,
  "Report.limiter": ["lit", "dark", "opened"] as const satisfies Of<Schemas["Report"]["limiter"]>,
  "RoleBody.role": ["meter", "supply"] as const satisfies Of<Schemas["RoleBody"]["role"]>,
  "RunState.state": ["waiting", "running", "done", "stopped", "failed"] as const satisfies Of<Schemas["RunState"]["state"]>,
  "SampleView.state": ["ok", "open", "unreachable", "silent", "nonsense"] as const satisfies Of<Schemas["SampleView"]["state"]>,
  "Scenario.air": ["still", "moving"] as const satisfies Of<Schemas["Scenario"]["air"]>,
  "Scenario.pack_state": ["full", "nominal", "low", "floor"] as const satisfies Of<Schemas["Scenario"]["pack_state"]>,
  "Scenario.runs_at": ["off", "boot", "idle", "typical", "peak"] as const satisfies Of<Schemas["Scenario"]["runs_at"]>,
  "SchoolView.key": ["fill", "sender", "control", "sender_feed", "grounds", "esc_grounds"] as const satisfies Of<Schemas["SchoolView"]["key"]>,
  "SetDraw.provenance": ["measured", "sheet", "reported", "guess"] as const satisfies Of<Schemas["SetDraw"]["provenance"]>,
  "SetDraw.state": ["idle", "typical", "peak", "boot", "off"] as const satisfies Of<Schemas["SetDraw"]["state"]>,
  "SetState.state": ["off", "boot", "idle", "typical", "peak"] as const satisfies Of<Schemas["SetState"]["state"]>,
  "Signal.kind": ["video", "serial", "servo", "esc", "receiver", "one-wire", "i2c", "led", "buzzer", "camera", "other"] as const satisfies Of<Schemas["Signal"]["kind"]>,
  "SketchBody.topology": ["stack", "one-board", "power-board", "leads"] as const satisfies Of<Schemas["SketchBody"]["topology"]>,
  "SketchFinding.severity": ["danger", "fault", "caution", "note"] as const satisfies Of<Schemas["SketchFinding"]["severity"]>,
  "SketchRail.tone": ["ok", "caution", "fault"] as const satisfies Of<Schemas["SketchRail"]["tone"]>,
  "Span.state": ["off", "boot", "run"] as const satisfies Of<Schemas["Span"]["state"]>,
  "StartWiredBody.topology": ["stack", "one-board", "power-board", "leads"] as const satisfies Of<Schemas["StartWiredBody"]["topology"]>,
  "StoryView.state": ["open", "settled", "left"] as const satisfies Of<Schemas["StoryView"]["state"]>,
  "SuitedBody.topology": ["stack", "one-board", "power-board", "leads"] as const satisfies Of<Schemas["SuitedBody"]["topology"]>,
  "SupplyState.mode": ["off", "regulating", "dropout", "limiting", "passing", "hiccup", "gives up", "backwards", "unknown"] as const satisfies Of<Schemas["SupplyState"]["mode"]>,
  "SupplyState.weight": ["caution", "fault", "danger"] as const satisfies Of<Schemas["SupplyState"]["weight"]>,
  "SweepEvent.kind": ["leaves", "resets", "over"] as const satisfies Of<Schemas["SweepEvent"]["kind"]>,
  "SymptomSeen.group": ["power", "picture", "signals", "bench"] as const satisfies Of<Schemas["SymptomSeen"]["group"]>,
  "TrainingBody.level": ["one", "masked", "two"] as const satisfies Of<Schemas["TrainingBody"]["level"]>,
  "TrialBody.purpose": ["bulk", "feed", "local"] as const satisfies Of<Schemas["TrialBody"]["purpose"]>,
  "TrySeen.kind": ["again", "volts", "ohms", "amps", "look", "swap", "unplug", "ground", "supply", "pack", "setting", "wire", "flight", "capacitor", "mended", "lift"] as const satisfies Of<Schemas["TrySeen"]["kind"]>,
  "TrySeen.power": ["off", "limited", "bench", "air"] as const satisfies Of<Schemas["TrySeen"]["power"]>,
  "TrySeen.unit": ["Ω", "V", "A", ""] as const satisfies Of<Schemas["TrySeen"]["unit"]>,
  "TurnDevice.state": ["off", "boot", "idle", "typical", "peak"] as const satisfies Of<Schemas["TurnDevice"]["state"]>,
  "UnsureDraw.provenance": ["measured", "sheet", "reported", "guess"] as const satisfies Of<Schemas["UnsureDraw"]["provenance"]>,
  "VerdictSpan.verdict": ["ok", "off", "dead", "low", "reset", "high", "unknown"] as const satisfies Of<Schemas["VerdictSpan"]["verdict"]>,
  "Warm.of": ["wire", "connector"] as const satisfies Of<Schemas["Warm"]["of"]>,
  "WayOfChecking.school": ["eyes", "meter", "meter and limiter"] as const satisfies Of<Schemas["WayOfChecking"]["school"]>,
  "Wire.colour": ["red", "black", "yellow", "white", "green", "blue", "orange", "brown", "grey", "violet"] as const satisfies Of<Schemas["Wire"]["colour"]>,
  "Wire.lay": ["beside", "twisted", "apart"] as const satisfies Of<Schemas["Wire"]["lay"]>,
  "WireMost.role": ["lead", "limiter", "feed", "return", "link", "supply", "body diode", "inlet", "device", "lamp", "pack", "input", "output", "entry", "filter", "bypass", "slope", "forward", "back", "taken", "given"] as const satisfies Of<Schemas["WireMost"]["role"]>,
  "WorkingQuery.quantity": ["volts", "asked", "usable", "spare", "headroom", "temperature", "loss", "pin", "drop", "pack", "share", "ground", "shift", "noise"] as const satisfies Of<Schemas["WorkingQuery"]["quantity"]>,
} as const;

/** Fields that are yes, no or not said, by schema and field. */
export const FLAGS: readonly string[] = ["AnswerBody.yes", "Condition.powered_up", "ExerciseAnswer.yes", "Regulator.adjustable", "SettleBody.gone", "StoryView.gone"];

/** Units told by the end of a field's name. */
export const UNIT_OF_SUFFIX: Record<string, string> = { v: "V", a: "A", ohm: "Ω", m: "m", f: "F", s: "s", g: "g", w: "W" };

/** Prefixes a number is written with, largest first; those a unit is not spoken with; units that take none. */
export const STEPS: [number, string][] = [[1e+06, "M"], [1000, "k"], [1, ""], [0.001, "m"], [1e-06, "µ"], [1e-09, "n"], [1e-12, "p"]];
export const NEVER_WITH: Record<string, string> = { A: "Mk", V: "Mk", W: "Mk", s: "Mk", m: "Mk", F: "m", Ah: "Mknp", Wh: "Mknp" };
export const UNSCALED: readonly string[] = ["", "%", "°C", "°", "K", "g", "dB", "K/W"];

/** Below these a value is what the arithmetic leaves over. */
export const NOTHING: Record<string, number> = { A: 5e-07, V: 5e-07, W: 5e-07, Ah: 1e-06, Wh: 1e-06 };

/** What counts in the ranking of places, how much by default, and its words. */
export const WEIGHTS = { drop: 0.3, failure: 0.5, headroom: 0.6, heat: 0.7, margin: 1.0, noise: 0.5, volts: 0.6, weight: 0.3, wires: 0.2 } as const;
export const WEIGHT_WORDS: Record<keyof typeof WEIGHTS, string> = { drop: "drop of the wires", failure: "a failure short", headroom: "headroom of volts", heat: "heat in still air", margin: "amps to spare", noise: "noise", volts: "room under the maximum volts", weight: "added weight", wires: "added wires" };

/** Fields of a plan in the builder's words, by the last name of their path. */
export const FIELD_WORDS: Record<string, string> = { name: "name", kind: "kind", osd: "overlay chip", revision: "revision", pinout: "pin-out taken from", weight_g: "mass", esc_limit_a: "amps its ESCs carry", note: "note", label: "label", direction: "direction", role: "what the pin is", port: "port", level_v: "drives at", tolerant_v: "stands up to", input_levels: "reads as", inverted: "comes inverted", inverts: "can invert", default: "shown at power-up", board: "board", nominal_v: "volts", to: "goes to", pin: "pin", width_m: "trace width", copper_m: "copper thickness", rise_k: "allowed rise", energy: "powered from", pack_state: "pack", cell_v: "volts of a cell", pack_v: "volts of the pack", air: "air", throttle_frac: "throttle", powered_up: "powered up here", default_state: "devices are", duty_frac: "part of the time", period_s: "period", distance_m: "distance", spacing_m: "spacing of the pair", share_frac: "share", law: "draws as", min_v: "least volts", max_v: "most volts", brownout_v: "resets below", restart_v: "starts again above", hold_s: "rides through", boot_s: "takes to start", draws: "draws", demand_a: "its maker asks for", throttle: "amps over throttle", input_f: "input capacitor", keeps_control: "needed to fly", part: "part", ripple_max_v: "ripple it stands", rejection_db: "keeps ripple off by", at_v: "at volts", provenance: "taken from", tol_frac: "band", rail: "rail", pad: "pad", forward_v: "volts of a LED", series: "in a row", strings: "strings", resistor_ohm: "resistor", max_a: "most a LED stands", count: "how many", kv_rpm_v: "Kv", pole_pairs: "pole pairs", loaded_frac: "speed under a propeller", commutation_frac: "pulses with commutation", gauge_awg: "gauge", length_m: "length", joined: "pad on pad", colour: "colour", lay: "lies", connector: "connector", connector_ohm: "connector's resistance", connector_limit_a: "connector stands", inline: "in line", melts_a2s: "a short melts it at", cold_ohm: "when cold", cools_s: "cools within", dcr_ohm: "wire resistance", saturation_a: "saturates at", heating_a: "stands", at: "fitted at", fitted: "fitted", ohm_100mhz: "at 100 MHz", volts: "volts", limit_a: "limit", series_ohm: "resistance", drop_v: "drop", farad: "capacitance", esr_ohm: "ESR", rated_v: "printed volts", dielectric: "dielectric", lead_m: "leads", ripple_a: "ripple it stands", damping_ohm: "damping resistor", damping_farad: "damping capacitor", henry: "inductance", resonance_hz: "own resonance", hz: "frequency", amplitude_pp: "peak to peak", chemistry: "chemistry", cells: "cells", parallel: "side by side", capacity_ah: "capacity of one", cell_ohm: "resistance of a cell", inductance_h: "inductance", resistance_tol_frac: "band of the resistance", discharge_c: "C rating", board_derate_frac: "usable of a print, on a board", alone_derate_frac: "usable of a print, alone", over_voltage_frac: "kept below the most volts", thin_margin_frac: "little spare below", thin_headroom_v: "little headroom below", still_air_c: "still air", moving_air_c: "moving air", hot_margin_k: "warned this far below the trip", wire_rise_k: "wire may warm by", punch_s: "a punch lasts", connector_burst_frac: "connector's burst", copper_c: "copper is at", fault_weights: "how often faults happen", wire_drop_frac: "wire may drop", paralleling: "regulators side by side", cascade: "regulators in a row", video_shift_v: "shift seen in a picture", edge_s: "an edge lasts", esc_edge_frac: "edge of a motor's amps", pwm_hz: "ESC PWM", stray_m: "loops to motor leads", earth_field_t: "earth's field", compass_limit_deg: "compass may err by", guess_share_frac: "guesses told from", tol_measured_frac: "band of measured", tol_sheet_frac: "band of sheets", tol_reported_frac: "band of reports", tol_guess_frac: "band of guesses", input: "fed from", output: "feeds", place: "stands", set_v: "set to", adjustable: "volts can be set", set_tol_frac: "band of its volts", rating_a: "printed amps", derate_frac: "usable of the print", current_limit_a: "cuts off at", quiescent_a: "own draw", dropout_v: "dropout", dropout_ohm: "dropout for each ampere", output_ohm: "output resistance", duty_max_frac: "most duty", gain_max: "most step-up", start_v: "starts at", stop_v: "stops below", soft_start_s: "soft start", limit_style: "at its limit", retry_s: "tries again after", input_max_v: "most volts in", theta_still_k_w: "warms in still air by", theta_moving_k_w: "warms in moving air by", tau_s: "takes to warm", trip_c: "trips at", fails: "fails", backfeeds: "lets current back", two_way: "hands current back", noisy: "ripples", switch_hz: "switches at", ripple_v: "ripple out", bandwidth_hz: "holds up to", output_f: "output capacitor", output_esr_ohm: "its ESR", source: "from", sink: "to", ground: "its ground", choices: "choices", selected: "bridged to", feed: "feed", wire: "wire", ways: "ways to power it", way: "powered by", fitting: "how it sits", boot: "while it starts", off: "switched off", clamps: "clamps", standoff_v: "stands off", breakdown_v: "breaks down at", dynamic_ohm: "rises by", pulse_j: "pulse it survives", led: "LEDs", burst: "bursts", compass: "compass", motors: "motors", lead: "lead", trace: "trace", returns: "ground", pins: "pins", pads: "pads", efficiency: "efficiency", states: "states", idle: "idle", typical: "typical", peak: "peak", value: "value", unit: "unit", amps: "amps", efficiency_frac: "efficiency", begins: "begins in", duration_s: "lasts", acts: "acts", runs_at: "draws once it runs", scenarios: "scenarios", act: "act", at_s: "at", over_s: "over", anti_spark_ohm: "resistor in the plug", anti_spark_s: "it stands there for", bounces: "bounces", bounce_s: "a bounce lasts", inlet: "source", supply: "supply", for_s: "for", how: "how", to_frac: "to" };

/** What a pin has to be to drive a kind of signal, and to read it; whatever it is for any other kind. */
export const SIGNAL_ENDS: Record<string, Record<"from" | "to", readonly string[]>> = {"video": {"from": ["video-out"], "to": ["video-in"]}, "serial": {"from": ["tx"], "to": ["rx"]}, "receiver": {"from": ["tx"], "to": ["rx"]}, "servo": {"from": ["servo-out", "esc-out"], "to": ["servo-in"]}, "esc": {"from": ["esc-out", "servo-out"], "to": ["esc-in"]}, "one-wire": {"from": ["one-wire", "tx", "rx"], "to": ["one-wire", "tx", "rx"]}, "i2c": {"from": ["sda", "scl"], "to": ["sda", "scl"]}, "led": {"from": ["led-out", "esc-out", "servo-out"], "to": ["led-in"]}, "buzzer": {"from": ["buzzer-out"], "to": ["buzzer-in"]}, "camera": {"from": ["camera-out"], "to": ["camera-in"]}};

/** Words that mean the same to who searches. */
export const SAME_WORDS: readonly (readonly string[])[] = [["gnss", "gps", "satellite", "position"], ["controller", "fc", "autopilot", "mcu", "flight computer"], ["sender", "vtx", "transmitter", "video transmitter"], ["receiver", "rx", "radio", "control link"], ["pack", "battery", "lipo", "lithium", "li-ion", "akku", "cell", "cells"], ["power board", "pdb", "distribution"], ["regulator", "bec", "ubec", "sbec", "buck", "ldo", "converter", "step-down", "stepdown", "psu"], ["boost", "step-up", "stepup"], ["capacitor", "cap", "caps", "electrolytic", "bulk", "low esr", "low-esr"], ["coil", "inductor", "choke", "lc"], ["bead", "ferrite", "toroid"], ["motors", "motor", "esc", "speed controller", "throttle"], ["camera", "cam", "lens"], ["ground", "gnd", "earth", "minus", "negative"], ["plus", "positive", "vcc", "vbat", "red wire", "b+"], ["led", "leds", "light", "lamp", "strobe"], ["buzzer", "beeper", "beep"], ["clamp", "tvs", "suppressor", "zener"], ["brown-out", "brownout", "reset", "reboot", "restart", "blackout"], ["solder", "soldering", "iron", "tin", "flux"], ["osd", "overlay", "display"], ["usb", "port", "computer cable"], ["barometer", "baro", "altimeter"], ["compass", "magnetometer", "mag"], ["servo", "servos", "actuator"], ["telemetry", "serial", "uart"]];

/** Tools and answers by the words of the trade: where each stands. */
export const TOOLS: readonly { name: string; also: string; view: string; sheet?: string }[] = [
  { name: "Resistor for a LED", also: "led ohm tail light lamp string series resistor strip brightness", view: "leds" },
  { name: "Wires and parts to solder: hook-up", also: "wire awg gauge cable thickness drop melt hook-up length colour solder iron tin flux red wire silicone connector plug xt-type socket pigtail bullet harness crimp heat shrink pinout polarity where does it go diode strap", view: "hookup" },
  { name: "Log: flights, measurements, notes, before and after", also: "log logbook diary record flight recorder blackbox csv telemetry file history note picture photo symptom measured fit internal resistance before after compare flights", view: "log" },
  { name: "Capacitors and filters tried", also: "capacitor cap caps lc filter ferrite bead bulk low esr electrolytic ripple coil inductor choke toroid smoothing hum whine tvs clamp suppressor zener spike", view: "noise", sheet: "Parts" },
  { name: "Picture predicted", also: "video noise lines interference picture stripes bars hum snow rolling static camera image whine osd overlay", view: "noise" },
  { name: "Noise measured", also: "oscilloscope measure ripple scope noise hum", view: "noise", sheet: "Measured" },
  { name: "Ways to feed a device", also: "feed bec regulator ldo buck step-down linear quiet supply boost psu converter vtx sender clean power", view: "noise", sheet: "Feeds" },
  { name: "Volts windows and pack sweep", also: "brown-out brownout reset low pack sag dropout window over-voltage cells battery lipo voltage volt empty charge undervoltage headroom landing cutoff", view: "windows" },
  { name: "Chances of being over", also: "tolerance monte carlo chance guess band odds risk uncertain probability", view: "windows", sheet: "Chances" },
  { name: "Ground heights and loops", also: "ground loop star return earth gnd minus negative millivolt shift", view: "grounds" },
  { name: "Signals and pins", also: "uart tx rx pin signal wire esc servo one-wire i2c serial telemetry level 3.3v logic gps gnss compass osd pinout swap inverted", view: "grounds", sheet: "Signals" },
  { name: "Straps and pad bridges", also: "strap bridge jumper selectable pad", view: "rails" },
  { name: "Rails: who takes how much", also: "amps current budget sum load overload over spare rail pad power watt draw milliamp consumption peak typical pdb distribution fc flight controller speed esc camera receiver pack battery", view: "rails" },
  { name: "First power through a limiter", also: "short smoke lamp fuse limiter first power plug smoke stopper stopper dim bulb usb bench port", view: "rails" },
  { name: "Layouts: the whole wiring proposed", also: "layout propose suggest wiring how to wire arrange distribute automatic best solve optimise optimize which bec alternatives", view: "layouts" },
  { name: "Run: the plan in time", also: "scenario transient inrush hot plug spike ringing punch brown-out reset hold-up reboot loop thermal trip flight simulate timetable spark anti-spark brake braking regen servo jitter dip sag throttle curve capacitor discharge restart switch on off servo", view: "run" },
  { name: "Bench list: where to put the probes", also: "meter multimeter continuity beep short check list test first power probe fault ohm resistance buzzer troubleshoot", view: "bench" },
  { name: "Something is wrong: from a symptom to its cause", also: "wrong broken symptom trouble problem diagnose diagnosis reset reboot black picture lines noise hot smell smoke dead not working why", view: "wrong" },
  { name: "Find a fault by its readings", also: "fault dead broken not working smoke short search troubleshoot diagnose symptom burnt", view: "bench" },
  { name: "Cautions before power", also: "antenna prop propeller fumes caution safety transmitter short meter fire lithium charge", view: "card" },
  { name: "Build card to print", also: "print card paper summary weight grams sheet pdf", view: "card" },
  { name: "Stand-alone regulators on the shelf", also: "bec ubec regulator step-up boost 5v 9v 12v 3.3v buck converter", view: "shelf" },
  { name: "Parts on the shelf", also: "part parts library device camera receiver gps gnss vtx sender servo led buzzer compass lidar esc motor board antenna weight add new shop shelf fc controller battery strobe barometer baro beacon magnet gimbal fan heat sink", view: "shelf" },
  { name: "Plans side by side", also: "compare difference version better worse side by side diff weight", view: "compare" },
  { name: "How the craft is judged", also: "policy derate margin limit rule heat sink temperature copper cooling airflow air still hot overheating warm setting settings preferences", view: "policy" },
];

/** What is said wherever work can hurt someone. */
export const CAUTIONS: readonly string[] = ["Props off for every powered bench step.", "Pack unplugged before any soldering; never work on a live pack.", "Before the first power: meter from plus to minus; a beep that stays is a short. First power through a current limiter.", "Antenna on before a transmitter gets power. Transmit power, bands and flying are subject to local law and licence.", "Hot iron and fumes: ventilation, eye protection. Insulate every exposed joint.", "Charge and store packs by the maker's instructions; a puffed or punctured pack is not used.", "These numbers are estimates from the data given: measure before you trust. Work on a customer's or certified aircraft belongs to licensed practice."];
